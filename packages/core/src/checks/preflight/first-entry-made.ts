import type { Rule } from './rule.js'

export const firstEntryMade: Rule = {
  code: 'first_entry_made',
  severity: 'warn',
  field: 'tool',
  demands: 'An instructor has opened what must be opened first.',
  judge: ({ tool, entered }) =>
    tool.firstEntry === 'none' || entered
      ? undefined
      : {
          statement: `${tool.name} wants an instructor to open ${tool.firstEntry === 'link' ? 'this link' : 'it in this course'} before learners may${tool.firstEntry === 'link' ? ', to say what it leads to' : ''}.`,
          remedy: 'Open it once after saving.',
        },
}
