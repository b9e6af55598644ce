import type { Rule } from './rule.js'

export const unitPublished: Rule = {
  code: 'unit_published',
  severity: 'warn',
  field: 'unit',
  demands: 'What is published stands in a published unit.',
  judge: ({ assignment, unit }) =>
    assignment.published && unit && !unit.published
      ? {
          statement: `It is published, but its unit “${unit.title}” is not: learners do not find it.`,
          remedy: 'Publish the unit as well.',
        }
      : undefined,
}
