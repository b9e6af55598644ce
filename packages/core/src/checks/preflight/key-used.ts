import type { Rule } from './rule.js'

export const keyUsed: Rule = {
  code: 'key_used',
  severity: 'warn',
  field: 'tool',
  demands: 'Its tool has been heard of before.',
  judge: ({ tool }) =>
    tool.used
      ? undefined
      : {
          statement: `Nothing was ever sent or received under the ${tool.version === '1.1' ? 'key' : 'client ID'} of ${tool.name}.`,
          remedy: 'Run a sounding after saving, before learners come.',
        },
}
