import { defineRule } from './rule.js'

export const firstEntryMade = defineRule({
  code: 'first_entry_made',
  severity: 'warn',
  field: 'tool',
  demands: 'An instructor has opened what must be opened first.',
  judge: ({ tool, entered }) =>
    tool.firstEntry === 'none' || entered ? undefined : { tool: tool.name, firstEntry: tool.firstEntry },
  words: ({ tool, firstEntry }) => ({
    statement: `${tool} wants an instructor to open ${firstEntry === 'link' ? 'this link' : 'it in this course'} before learners may${firstEntry === 'link' ? ', to say what it leads to' : ''}.`,
    remedy: 'Open it once after saving.',
  }),
})
