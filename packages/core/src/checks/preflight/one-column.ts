import type { Rule } from './rule.js'

export const oneColumn: Rule = {
  code: 'one_column',
  severity: 'warn',
  field: 'points',
  demands: 'One piece of work has one column.',
  judge: ({ toolColumns }) =>
    toolColumns.length > 0
      ? {
          statement: `The tool made a column of its own beside this one: ${toolColumns
            .slice(0, 3)
            .map((one) => `“${one}”`)
            .join(', ')}.`,
          remedy: 'Merge the two columns in the gradebook, or delete the tool’s.',
        }
      : undefined,
}
