import type { Rule } from './rule.js'

export const sameContent: Rule = {
  code: 'same_content',
  severity: 'warn',
  field: 'content',
  demands: 'Each piece of content stands in one assignment.',
  judge: ({ sameContent }) =>
    sameContent.length > 0
      ? {
          statement: `The same content stands in ${sameContent
            .slice(0, 3)
            .map((one) => `“${one}”`)
            .join(', ')} already.`,
          remedy: 'If two scores are wanted of it, that is right; otherwise choose other content.',
        }
      : undefined,
}
