import { defineRule } from './rule.js'

export const unitPublished = defineRule({
  code: 'unit_published',
  severity: 'warn',
  field: 'unit',
  demands: 'Everything published is in a published unit.',
  judge: ({ assignment, unit }) => (assignment.published && unit && !unit.published ? { unit: unit.title } : undefined),
  words: ({ unit }) => ({
    statement: `It is published, but its unit “${unit}” is not: learners do not find it.`,
    remedy: 'Publish the unit as well.',
  }),
})
