import { defineRule, quoted } from './rule.js'

export const groupsFilled = defineRule({
  code: 'groups_filled',
  severity: 'warn',
  field: 'audience',
  demands: 'Every chosen group has members.',
  judge: ({ audience }) => {
    const empty = audience?.groups.filter((one) => one.members === 0).map((one) => one.name) ?? []
    return empty.length === 0 ? undefined : { empty }
  },
  words: ({ empty }) => ({
    statement: `${quoted(empty)} ${empty.length === 1 ? 'is' : 'are'} empty.`,
    remedy: 'Put learners into the group, or choose others.',
  }),
})
