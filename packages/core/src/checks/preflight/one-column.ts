import { defineRule, quoted } from './rule.js'

export const oneColumn = defineRule({
  code: 'one_column',
  severity: 'warn',
  field: 'points',
  demands: 'One piece of work has one column.',
  judge: ({ toolColumns }) => (toolColumns.length > 0 ? { columns: toolColumns.slice(0, 3) } : undefined),
  words: ({ columns }) => ({
    statement: `The tool made a column of its own beside this one: ${quoted(columns)}.`,
    remedy: 'Merge the two columns in the gradebook, or delete the tool’s.',
  }),
})
