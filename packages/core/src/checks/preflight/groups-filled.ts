import type { Rule } from './rule.js'

export const groupsFilled: Rule = {
  code: 'groups_filled',
  severity: 'warn',
  field: 'audience',
  demands: 'Every chosen group has members.',
  judge: ({ audience }) => {
    const empty = audience?.groups.filter((one) => one.members === 0) ?? []
    return empty.length === 0
      ? undefined
      : {
          statement: `${empty.map((one) => `“${one.name}”`).join(', ')} ${empty.length === 1 ? 'is' : 'are'} empty.`,
          remedy: 'Put learners into the group, or choose others.',
        }
  },
}
