import type { Mistake } from '../mistake.js'
import { spelt } from './spelt.js'

/** Something stands where the secret should. */
export const anotherForSecret: Mistake = {
  code: 'another_for_secret',
  name: 'nothing, or something else, in place of the secret',
  family: 'secret',
  givesWay: true,
  sentence:
    'It was signed with something that is no secret: nothing at all, a placeholder for a missing value, or the secret together with something else.',
  ours: null,
  theirs: 'Look how the code that signs reads the shared secret; it does not get it as it was entered.',
  ways: ({ held: { sharedSecret: held, consumerKey: key } }) =>
    spelt(held, [
      ['', 'nothing'],
      ...[
        'null',
        'undefined',
        'None',
        'nil',
        'secret',
        'shared_secret',
        'changeme',
        'password',
        'false',
        'true',
        '0',
      ].map((word) => [word, `the word “${word}”`] as const),
      [`${held}${held}`, 'the secret twice'],
      [`${key}${held}`, 'key and secret in one'],
      ...[':', ',', ' ', '&', '\t', ';', '/', '-', '.'].flatMap((mark) => [
        [`${key}${mark}${held}`, `key and secret with “${mark === '\t' ? 'a tab' : mark}” between`] as const,
        [`${held}${mark}${key}`, `secret and key with “${mark === '\t' ? 'a tab' : mark}” between`] as const,
      ]),
    ]),
}
