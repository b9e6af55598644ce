import { defineRule } from './rule.js'

export const everyoneReached = defineRule({
  code: 'everyone_reached',
  severity: 'warn',
  field: 'audience',
  demands: 'Every learner is in one of the chosen groups.',
  judge: ({ audience, course: { learners } }) =>
    audience && audience.groups.length > 0 && audience.reached < learners
      ? { left: learners - audience.reached, learners }
      : undefined,
  words: ({ left, learners }) => ({
    statement: `${left} of ${learners} learners are in none of the chosen groups and do not get it.`,
    remedy: 'Check the groups, or give those learners another assignment.',
  }),
})
