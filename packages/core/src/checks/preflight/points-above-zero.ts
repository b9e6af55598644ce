import { defineRule } from './rule.js'

export const pointsAboveZero = defineRule({
  code: 'points_above_zero',
  severity: 'fail',
  field: 'points',
  demands: 'What is part of the total has points; 0 is for work that is not.',
  judge: ({ assignment }) => (Number(assignment.points) > 0 || !assignment.counted ? undefined : {}),
  words: () => ({
    statement: 'The assignment has no points, so every score would become 0.',
    remedy: 'Give it the points it is worth, or say that it is not counted.',
  }),
})
