import { day, defineRule } from './rule.js'

const VERBS = { opensAt: 'opens', dueAt: 'is due', closesAt: 'closes' }

export const datesAsTool = defineRule({
  code: 'dates_as_tool',
  severity: 'warn',
  field: 'dates',
  demands: 'Its dates are what the tool holds for the same work.',
  judge: ({ assignment }) => {
    const { content } = assignment
    const differing = (['opensAt', 'dueAt', 'closesAt'] as const).flatMap((name) => {
      const [theirs, ours] = [content?.[name], assignment[name]]
      const same = !theirs || (ours && new Date(theirs).getTime() === new Date(ours).getTime())
      return same ? [] : [{ name, theirs, ours }]
    })
    return differing.length === 0 ? undefined : { differing }
  },
  words: ({ differing }) => ({
    statement: `At the tool’s end it ${differing.map((one) => `${VERBS[one.name]} ${day(one.theirs)}`).join(', ')}; here ${differing.map((one) => (one.ours ? day(one.ours) : 'nothing is set')).join(', ')}.`,
    remedy: 'Use the tool’s dates, or change them at its end.',
  }),
})
