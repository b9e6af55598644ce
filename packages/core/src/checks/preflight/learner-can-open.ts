import { day, defineRule } from './rule.js'

/** What keeps learners from opening it. */
type Hindrance =
  | { code: 'no_learners' | 'for_none_of_them' | 'unit_not_published' }
  | { code: 'closed' | 'opens'; at: string }

function hindranceWords(one: Hindrance): string {
  switch (one.code) {
    case 'no_learners':
      return 'the course has no learners'
    case 'for_none_of_them':
      return 'none of the learners is among those it is for'
    case 'closed':
      return `it closed ${day(one.at)}`
    case 'opens':
      return `it opens only ${day(one.at)}`
    case 'unit_not_published':
      return 'its unit is not published'
  }
}

export const learnerCanOpen = defineRule({
  code: 'learner_can_open',
  severity: 'warn',
  field: 'audience',
  demands: 'What is published can be opened by somebody.',
  judge: ({ now, assignment: { published, closesAt, opensAt }, audience, course, unit }) => {
    if (!published) return undefined
    const why: Hindrance[] = []
    if (course.learners === 0) why.push({ code: 'no_learners' })
    else if (audience?.reached === 0) why.push({ code: 'for_none_of_them' })
    if (closesAt !== null && new Date(closesAt) <= now) why.push({ code: 'closed', at: closesAt })
    if (opensAt !== null && new Date(opensAt) > now) why.push({ code: 'opens', at: opensAt })
    if (unit && !unit.published) why.push({ code: 'unit_not_published' })
    return why.length === 0 ? undefined : { why }
  },
  words: ({ why }) => ({
    statement: `No learner can open it now: ${why.map(hindranceWords).join(', and ')}.`,
    remedy: 'If that is not meant, change what prevents it.',
  }),
})
