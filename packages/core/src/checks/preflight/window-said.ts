import { defineRule } from './rule.js'

export const windowSaid = defineRule({
  code: 'window_said',
  severity: 'warn',
  field: 'instructions',
  demands: 'Where a window opens, the instructions say so.',
  judge: ({ assignment: { documentTarget, instructions } }) =>
    documentTarget === 'window' && !/window|tab\b/i.test(instructions) ? {} : undefined,
  words: () => ({
    statement: 'It opens in a window of its own, and the instructions do not say so.',
    remedy: 'Tell learners that a window opens, and to come back here for the result.',
  }),
})
