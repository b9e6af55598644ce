import { defineRule } from './rule.js'

export const toolReturnsScores = defineRule({
  code: 'tool_returns_scores',
  severity: 'warn',
  field: 'tool',
  demands: 'Graded work is done in tools that return scores.',
  judge: ({ tool, assignment: { counted } }) => (tool.returnsScores || !counted ? undefined : {}),
  words: () => ({
    statement: 'Its tool’s registration is for content that returns no scores, so the column will stay empty.',
    remedy: 'Choose a registration that returns scores, or put the content into the menu or a unit instead.',
  }),
})
