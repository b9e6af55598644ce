import { baseParts, baseString } from './base.js'
import type { SignatureCause } from './facts.js'

/** RFC 5849 section 3.6: a blank is %20; form encoding writes “+”. */
export const plusForBlank: SignatureCause = {
  code: 'plus_for_blank',
  name: '“+” in place of “%20”',
  sentence: 'Blanks were signed as “+”, as forms write them, in place of “%20”.',
  ours: null,
  theirs: 'Encode a blank as %20 for the signature (RFC 5849 section 3.6).',
  variants: ({ request }) => {
    const right = baseString(baseParts(request))
    const blanks = right.split('%2520').length - 1
    return blanks === 0
      ? []
      : ['%2B', '+'].map((plus) => ({
          baseString: right.replaceAll('%2520', plus),
          evidence: [['blanks in signed values', String(blanks)]],
        }))
  },
}
