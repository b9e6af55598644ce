import { day, type Rule } from './rule.js'

export const learnerCanOpen: Rule = {
  code: 'learner_can_open',
  severity: 'warn',
  field: 'audience',
  demands: 'What is published can be opened by somebody.',
  judge: ({ now, assignment: { published, closesAt, opensAt }, audience, course, unit }) => {
    if (!published) return undefined
    const why = [
      course.learners === 0
        ? 'the course has no learners'
        : audience?.reached === 0
          ? 'none of the learners is among those it is for'
          : null,
      closesAt !== null && new Date(closesAt) <= now ? `it closed ${day(closesAt)}` : null,
      opensAt !== null && new Date(opensAt) > now ? `it opens only ${day(opensAt)}` : null,
      unit && !unit.published ? 'its unit is not published' : null,
    ].filter((one) => one !== null)
    return why.length === 0
      ? undefined
      : {
          statement: `No learner can open it now: ${why.join(', and ')}.`,
          remedy: 'If that is not meant, change what stands in the way.',
        }
  },
}
