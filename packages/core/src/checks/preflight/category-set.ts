import { defineRule } from './rule.js'

export const categorySet = defineRule({
  code: 'category_set',
  severity: 'warn',
  field: 'category',
  demands: 'What counts has a category.',
  judge: ({ assignment: { hasCategory, counted } }) => (hasCategory || !counted ? undefined : {}),
  words: () => ({
    statement: 'No category is set, so its score counts towards no part of the total.',
    remedy: 'Choose one of the course’s categories.',
  }),
})
