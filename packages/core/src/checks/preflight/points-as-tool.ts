import { defineRule } from './rule.js'

export const pointsAsTool = defineRule({
  code: 'points_as_tool',
  severity: 'warn',
  field: 'points',
  demands: 'Points are what the tool holds for the same work.',
  judge: ({ assignment: { points, content } }) => {
    const theirs = content?.column?.points
    return !theirs || Number(theirs) === Number(points) ? undefined : { points, theirs }
  },
  words: ({ points, theirs }) => ({
    statement: `It is worth ${points} points here and ${theirs} at the tool’s end.`,
    remedy: 'Make them agree at one of the two ends; scores are fractions, so they stay right either way.',
  }),
})
