import { defineRule, quoted } from './rule.js'

export const sameContent = defineRule({
  code: 'same_content',
  severity: 'warn',
  field: 'content',
  demands: 'Each piece of content is used in one assignment.',
  judge: ({ sameContent }) => (sameContent.length > 0 ? { titles: sameContent.slice(0, 3) } : undefined),
  words: ({ titles }) => ({
    statement: `The same content is already used in ${quoted(titles)}.`,
    remedy: 'If two scores are wanted of it, that is right; otherwise choose other content.',
  }),
})
