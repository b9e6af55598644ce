import { defineRule } from './rule.js'

export const keyUsed = defineRule({
  code: 'key_used',
  severity: 'warn',
  field: 'tool',
  demands: 'Its tool has been heard of before.',
  judge: ({ tool }) => (tool.used ? undefined : { tool: tool.name, version: tool.version }),
  words: ({ tool, version }) => ({
    statement: `Nothing was ever sent or received under the ${version === '1.1' ? 'key' : 'client ID'} of ${tool}.`,
    remedy: 'Run a sounding after saving, before learners come.',
  }),
})
