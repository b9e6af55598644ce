import { stripHidden } from '../../../text/index.js'
import type { Mistake } from '../mistake.js'
import { spelt } from './spelt.js'

const BLANKS: readonly (readonly [string, string])[] = [
  [' ', 'a space'],
  ['\n', 'a line end'],
  ['\r\n', 'a line end'],
  ['\t', 'a tab'],
  ['\u00a0', 'an invisible character'],
  ['\u200b', 'an invisible character'],
  ['\ufeff', 'an invisible character'],
  ['\u200d', 'an invisible character'],
  ['  ', 'two spaces'],
  [' \n', 'a space and a line end'],
  [' \r\n', 'a space and a line end'],
  ['\n\n', 'two line ends'],
]
const BOTH_SIDES = 4
const INSIDE = /[\s\u200b-\u200d\u2060\ufeff]+/gu

/** Blanks or invisible characters were copied along with the secret, at one end or the other. */
export const secretHasBlanks: Mistake = {
  code: 'secret_has_blanks',
  name: 'spaces around the secret',
  family: 'secret',
  sentence: 'The shared secret has spaces or invisible characters at one of the two ends.',
  ours: 'Enter the shared secret again, here, without the characters around it.',
  theirs: 'Enter the shared secret again, there, without the characters around it.',
  ways({ held: { sharedSecret } }) {
    const bare = stripHidden(sharedSecret)
    return spelt(sharedSecret, [
      [bare, 'without the characters around it here', 'ours'],
      ...BLANKS.flatMap(([blank, name]) => [
        [bare + blank, `${name} at its end`, 'theirs'] as const,
        [blank + bare, `${name} at its start`, 'theirs'] as const,
      ]),
      ...BLANKS.slice(0, BOTH_SIDES).map(([blank, name]) => [blank + bare + blank, `${name} on both sides`, 'theirs'] as const), // oxfmt-ignore
      [sharedSecret.replace(INSIDE, ''), 'without the spaces or invisible characters inside it'],
    ])
  },
}
