import { cutEnd } from '../../../text/index.js'
import type { Mistake } from '../mistake.js'
import { spelt } from './spelt.js'

/** Sizes that fields and columns are given. */
const SIZES = [64, 60, 50, 48, 40, 36, 32, 30, 24, 20, 16, 12, 10, 8]
const SHORTEST_LEFT = 4

export const secretCut: Mistake = {
  code: 'secret_cut',
  name: 'a part of the secret missing',
  family: 'secret',
  givesWay: true,
  sentence:
    'A part of the shared secret is missing at the other end: it was not copied whole, or cut by a field that is too short.',
  ours: 'Agree on a shorter secret, if the tool’s field is too short for this one.',
  theirs: 'Enter the shared secret again, whole, and look how many characters are kept.',
  ways: ({ held: { sharedSecret: held } }) =>
    spelt(
      held,
      (
        [
          [held.slice(0, -1), 'without its last character'],
          [held.slice(1), 'without its first character'],
          [cutEnd(held, '='), 'without the “=” at its end'],
          [held.slice(0, -2), 'without its last two characters'],
          [held.slice(1, -1), 'without its first and last character'],
          ...SIZES.map((size) => [held.slice(0, size), `its first ${size} characters`] as const),
          ...[' ', '#', ';', '&', '$', '%', '+', '"', "'", '\\', '/', ':', '-'].map(
            (mark) => [held.split(mark)[0]!, `cut at “${mark}”`] as const,
          ),
        ] as const
      ).filter(([one]) => one.length >= Math.min(SHORTEST_LEFT, held.length - 1) && one !== ''),
    ),
}
