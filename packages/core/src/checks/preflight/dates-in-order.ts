import { day, type Rule } from './rule.js'

export const datesInOrder: Rule = {
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
    for (const [i, [later, at]] of order.entries()) {
      const before = order.slice(0, i).find(([, other]) => new Date(other) > new Date(at))
      if (before)
        return {
          statement: `It ${later} (${day(at)}) before it ${before[0]} (${day(before[1])}).`,
          remedy: 'Put the dates into their order.',
        }
    }
    return undefined
  },
}
