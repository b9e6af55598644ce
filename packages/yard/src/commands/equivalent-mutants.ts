/** A break that changes nothing that anybody could see: file, what stands there, what was put in its place, and why it is the same. */
export type Equivalent = readonly [file: string, text: string, to: string, why: string]

const OAUTH1 = 'packages/core/src/oauth1'
const RECONCILIATION = 'packages/core/src/reconciliation'
const SCORES = 'packages/core/src/scores'
const LTI13 = 'packages/core/src/lti13'
const INBOUND = 'packages/service/src/inbound'

/** What no test can notice. It is counted as not noticed all the same. */
export const EQUIVALENT: readonly Equivalent[] = [
  [`${OAUTH1}/authorization-header.ts`, '/^OAuth\\s+/i', '/^OAuth\\s/i', 'blanks before a name are passed over anyhow'],
  [`${OAUTH1}/authorization-header.ts`, '!pair', 'false', 'what follows throws, and is caught to the same answer'],
  [`${OAUTH1}/base-string.ts`, '/^.*@/', '/.*@/', 'the first match begins at the beginning'],
  [`${OAUTH1}/base-string.ts`, 'a < b', 'a <= b', 'equal pairs are the same in any order'],
  [`${OAUTH1}/digest.ts`, 'i < a.length', 'i <= a.length', 'behind the end both have nothing'],
  [`${OAUTH1}/encoding.ts`, 'UNRESERVED.test(text)', 'false', 'the short cut saves time only'],
  [`${OAUTH1}/encoding.ts`, '/^[\\w.~-]*$/', '/^[\\w.~-]$/', 'the short cut saves time only'],
  [`${OAUTH1}/encoding.ts`, "text === ''", 'false', 'an empty pair is left out afterwards'],
  [`${OAUTH1}/verify.ts`, 'offSeconds < 0', 'offSeconds <= 0', 'a clock that is right is not told of'],
  [`${RECONCILIATION}/columns.ts`, 'head === undefined', 'false', 'a field of no head is a field that is left out'],
  [
    `${RECONCILIATION}/compare.ts`,
    '/^(\\d+),(\\d+)$/',
    '/(\\d+),(\\d+)$/',
    'what has more around it is no number either way',
  ],
  [
    `${RECONCILIATION}/compare.ts`,
    '/^(\\d+),(\\d+)$/',
    '/^(\\d+),(\\d+)/',
    'what has more around it is no number either way',
  ],
  [`${RECONCILIATION}/compare.ts`, '/\\p{M}+/gu', '/\\p{M}/gu', 'each is taken out, one after the other'],
  [`${RECONCILIATION}/compare.ts`, '/[^\\p{L}\\p{N}]+/u', '/[^\\p{L}\\p{N}]/u', 'empty words are left out afterwards'],
  [`${SCORES}/fraction.ts`, '/^\\+/', '/\\+/', 'it stands nowhere but in front'],
  [`${SCORES}/points.ts`, 'shift >= 0', 'shift > 0', 'ten to the nought is one on either side'],
  [`${SCORES}/state.ts`, 'last === null', 'false', 'any moment is later than none'],
  [`${SCORES}/state.ts`, 'a && b', 'true', 'of a moment and none the moment is the later one'],
  [`${SCORES}/state.ts`, 'a && b', 'a || b', 'of a moment and none the moment is the later one'],
  [`${SCORES}/state.ts`, 'a > b', 'a >= b', 'of two that are equal either is the later one'],
  [`${SCORES}/twins.ts`, 'a.length <= b.length', 'a.length < b.length', 'of two of one size either is the smaller one'],
  [`${LTI13}/jws.ts`, 'i < bytes.length', 'i <= bytes.length', 'a part of no bytes adds nothing'],
  [`${LTI13}/jws.ts`, 'buffer', 'false', 'the portable way comes to the same'],
  [
    `${LTI13}/login.ts`,
    'i < one.length && i < given.length',
    'true',
    'it is asked of addresses that differ: behind the end of one nothing is alike',
  ],
  [
    `${LTI13}/login.ts`,
    'i < one.length && i < given.length',
    'i < one.length || i < given.length',
    'it is asked of addresses that differ: behind the end of one nothing is alike',
  ],
  [
    `${LTI13}/login.ts`,
    'i < one.length',
    'true',
    'it is asked of addresses that differ: behind the end of one nothing is alike',
  ],
  [
    `${LTI13}/login.ts`,
    'i < one.length',
    'i <= one.length',
    'it is asked of addresses that differ: behind the end of one nothing is alike',
  ],
  [
    `${LTI13}/login.ts`,
    'i < given.length',
    'true',
    'it is asked of addresses that differ: behind the end of one nothing is alike',
  ],
  [
    `${LTI13}/login.ts`,
    'i < given.length',
    'i <= given.length',
    'it is asked of addresses that differ: behind the end of one nothing is alike',
  ],
  [
    `${LTI13}/login.ts`,
    'shared(one) > shared(best)',
    'shared(one) >= shared(best)',
    'of two that are equally near either is the nearest',
  ],
  [`${LTI13}/scores.ts`, "typeof value !== 'number'", 'false', 'what is no number is not finite'],
  [`${LTI13}/scores.ts`, '/^\\d+(\\.\\d+)?$/', '/^\\d(\\.\\d+)?$/', 'the longer way comes to the same text'],
  [`${LTI13}/scores.ts`, '/^\\d+(\\.\\d+)?$/', '/^\\D+(\\.\\d+)?$/', 'the longer way comes to the same text'],
  [`${LTI13}/scores.ts`, '/^\\d+(\\.\\d+)?$/', '/^\\d+(\\.\\d+)$/', 'the longer way comes to the same text'],
  [`${LTI13}/scores.ts`, '/^\\d+(\\.\\d+)?$/', '/^\\d+(\\.\\d)?$/', 'the longer way comes to the same text'],
  [`${LTI13}/scores.ts`, '/^\\d+(\\.\\d+)?$/', '/^\\d+(\\.\\D+)?$/', 'the longer way comes to the same text'],
  [`${LTI13}/token.ts`, "typeof exp !== 'number'", 'false', 'what is no number is not finite'],
  [`${LTI13}/token.ts`, "typeof iat !== 'number'", 'false', 'what is no number is not finite'],
  [`${LTI13}/token.ts`, "typeof nbf !== 'number'", 'false', 'what is no number is not finite'],
  [`${LTI13}/token.ts`, "typeof one === 'string'", 'true', 'what is no text is among no addresses'],
  [
    `${INBOUND}/message.ts`,
    '!isEmpty(found)',
    'true',
    'nothing is added by an object of nothing: the short cut saves time only',
  ],
  [`${INBOUND}/message.ts`, 'true', 'false', 'nothing is added by an object of nothing: the short cut saves time only'],
  [`${INBOUND}/messages/picked-13.ts`, "typeof iss !== 'string'", 'false', 'what is no text is no client identifier'],
  [`${INBOUND}/messages/score.ts`, 'column?.slice', 'column.slice', 'the address of a score always names a column'],
]
