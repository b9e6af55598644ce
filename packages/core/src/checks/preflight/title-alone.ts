import { defineRule } from './rule.js'

export const titleAlone = defineRule({
  code: 'title_alone',
  severity: 'warn',
  field: 'title',
  demands: 'No other assignment of the course has the same title.',
  judge: ({ assignment: { title }, sameTitle }) => (sameTitle > 0 ? { title, others: sameTitle } : undefined),
  words: ({ title, others }) => ({
    statement: `${others === 1 ? 'Another assignment' : `${others} other assignments`} of the course ${others === 1 ? 'is' : 'are'} called “${title}”, too.`,
    remedy: 'Give each a title of its own: learners, gradebook exports and tables know them by it.',
  }),
})
