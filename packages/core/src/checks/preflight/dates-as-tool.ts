import { day, type Rule } from './rule.js'

export const datesAsTool: Rule = {
  code: 'dates_as_tool',
  severity: 'warn',
  field: 'dates',
  demands: 'Its dates are what the tool holds for the same work.',
  judge: ({ assignment }) => {
    const { content } = assignment
    const differing = (['opensAt', 'dueAt', 'closesAt'] as const).filter((name) => {
      const theirs = content?.[name]
      return theirs && (!assignment[name] || new Date(theirs).getTime() !== new Date(assignment[name]).getTime())
    })
    if (!content || differing.length === 0) return undefined
    const words = { opensAt: 'opens', dueAt: 'is due', closesAt: 'closes' }
    return {
      statement: `At the tool’s end it ${differing.map((name) => `${words[name]} ${day(content[name]!)}`).join(', ')}; here ${differing.map((name) => (assignment[name] ? day(assignment[name]) : 'nothing is set')).join(', ')}.`,
      remedy: 'Take over the tool’s dates, or change them at its end.',
    }
  },
}
