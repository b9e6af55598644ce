import { day, defineRule } from './rule.js'

export const datesInOrder = defineRule({
  code: 'dates_in_order',
  severity: 'fail',
  field: 'dates',
  demands: 'It opens before it is due, and is due before it closes.',
  judge: ({ assignment: { opensAt, dueAt, closesAt } }) => {
    const order = [
      ['opens', opensAt],
      ['is due', dueAt],
      ['closes', closesAt],
    ].filter((one): one is [string, string] => one[1] !== null)
    for (const [i, [verb, at]] of order.entries()) {
      const before = order.slice(0, i).find(([, other]) => new Date(other) > new Date(at))
      if (before) return { verb, at, before: { verb: before[0], at: before[1] } }
    }
    return undefined
  },
  words: ({ verb, at, before }) => ({
    statement: `It ${verb} (${day(at)}) before it ${before.verb} (${day(before.at)}).`,
    remedy: 'Put the dates into their order.',
  }),
})
