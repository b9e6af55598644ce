import type { Rule } from './rule.js'

export const titleAlone: Rule = {
  code: 'title_alone',
  severity: 'warn',
  field: 'title',
  demands: 'No other assignment of the course has the same title.',
  judge: ({ assignment: { title }, sameTitle }) =>
    sameTitle > 0
      ? {
          statement: `${sameTitle === 1 ? 'Another assignment' : `${sameTitle} other assignments`} of the course ${sameTitle === 1 ? 'is' : 'are'} called “${title}”, too.`,
          remedy: 'Give each a title of its own: learners, gradebook exports and tables know them by it.',
        }
      : undefined,
}
