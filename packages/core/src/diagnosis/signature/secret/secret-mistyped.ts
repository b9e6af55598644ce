import type { Mistake } from '../mistake.js'
import { spelt } from './spelt.js'

/** Characters that are taken for each other when they are read off. */
const ALIKE = ['0Oo', '1lI|', '5S', '2Z', '8B', '-_', '6b', '9gq', 'vu', 'cC', 'kK', 'mn', 'xX', 'zZ']
const MOST = 120

/** One character was read for another that looks like it, left out, or exchanged with its neighbour. */
export const secretMistyped: Mistake = {
  code: 'secret_mistyped',
  name: 'one character of the secret mistyped',
  family: 'secret',
  givesWay: true,
  sentence: 'One character of the shared secret differs between the two ends: it was typed off and not copied.',
  ours: 'Copy the shared secret again; do not type it off.',
  theirs: 'Copy the shared secret again; do not type it off.',
  ways: ({ held: { sharedSecret: held } }) => {
    const put = (i: number, text: string, length = 1) => held.slice(0, i) + text + held.slice(i + length)
    const found: [string, string][] = []
    for (const [i, one] of [...held.slice(0, MOST)].entries()) {
      for (const alike of ALIKE)
        if (alike.includes(one))
          for (const other of alike)
            if (other !== one) found.push([put(i, other), `another that looks like it in place ${i + 1}`])
    }
    for (let i = 0; i < Math.min(held.length - 1, MOST); i++) {
      found.push([put(i, `${held[i + 1]!}${held[i]!}`, 2), `places ${i + 1} and ${i + 2} exchanged`])
      if (i > 0) found.push([put(i, ''), `place ${i + 1} left out`])
      found.push([put(i, held[i]! + held[i]!), `place ${i + 1} twice`])
    }
    return spelt(held, found)
  },
}
