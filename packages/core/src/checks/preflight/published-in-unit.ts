import { defineRule } from './rule.js'

export const publishedInUnit = defineRule({
  code: 'published_in_unit',
  severity: 'warn',
  field: 'unit',
  demands: 'Everything in a published unit is published.',
  judge: ({ assignment, unit }) => (!assignment.published && unit?.published ? { unit: unit.title } : undefined),
  words: ({ unit }) => ({
    statement: `Its unit “${unit}” is published, but it is still a draft: learners see a unit without it.`,
    remedy: 'Publish it when it is ready.',
  }),
})
