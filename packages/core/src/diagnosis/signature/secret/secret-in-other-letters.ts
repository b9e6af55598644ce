import type { Mistake } from '../mistake.js'
import { spelt } from './spelt.js'

/** Small and capital letters, or the parts of accented letters, were not kept. */
export const secretInOtherLetters: Mistake = {
  code: 'secret_in_other_letters',
  name: 'the secret in small or capital letters, or with accents apart',
  family: 'secret',
  givesWay: true,
  sentence:
    'The shared secret was entered in other letters at one end: small ones for capitals, or accents apart from their letters.',
  ours: 'Copy the shared secret again; do not type it off.',
  theirs: 'Copy the shared secret again; look whether the field or the database changes letters.',
  ways: ({ held: { sharedSecret: held } }) =>
    spelt(held, [
      [held.toLowerCase(), 'all letters small'],
      [held.toUpperCase(), 'all letters capital'],
      [held.slice(0, 1).toUpperCase() + held.slice(1), 'its first letter capital'],
      [held.slice(0, 1).toLowerCase() + held.slice(1), 'its first letter small'],
      [held.normalize('NFD'), 'accents apart from their letters'],
      [held.normalize('NFC'), 'accents joined with their letters'],
      [held.normalize('NFKC'), 'letters of other forms made plain'],
      [held.normalize('NFD').replace(/\p{M}+/gu, ''), 'without its accents'],
      [held.replace(/[^\u0000-\u007f]/gu, '?'), '“?” for letters beyond ASCII'],
    ]),
}
