import { cutEnd, cutStart } from '../../../text/index.js'
import type { Mistake } from '../mistake.js'
import { spelt } from './spelt.js'

const AROUND = [['"', '"'], ["'", "'"], ['“', '”'], ['„', '“'], ['«', '»'], ['‘', '’'], ['`', '`'], ['<', '>'], ['[', ']'], ['(', ')']] as const // oxfmt-ignore
const BEHIND = ['.', ',', ';', ':', '=', '&', '/', '|'] as const
/** As they stand before a word in a text, and behind it. */
const OPENING = '"\'“„«‘`<[('
const CLOSING = '"\'“”»’`>]).,;:|'

/** Quotes or marks of the sentence or of the file in which the secret was handed over. */
export const secretHasMarks: Mistake = {
  code: 'secret_has_marks',
  name: 'quotes or marks around the secret',
  family: 'secret',
  givesWay: true,
  sentence:
    'The shared secret carries quotes or other marks at one of the two ends, from the text that it was copied out of.',
  ours: 'Enter the shared secret again, here, without the marks around it.',
  theirs: 'Enter the shared secret again, there, without the marks around it.',
  ways: ({ held: { sharedSecret: held } }) =>
    spelt(held, [
      [cutStart(cutEnd(held, CLOSING), OPENING), 'without the marks around it here', 'ours'],
      ...AROUND.map(([open, close]) => [`${open}${held}${close}`, 'in quotes or brackets', 'theirs'] as const),
      ...BEHIND.map((mark) => [`${held}${mark}`, 'a mark behind it', 'theirs'] as const),
    ]),
}
