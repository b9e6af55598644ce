import { hinted } from '../cause.js'
import { stripHidden } from '../hidden.js'
import type { SignatureCause } from './facts.js'

const AROUND = [' ', '\n', '\r\n', '\t', '\u00a0', '\ufeff']

/** Blanks or invisible characters were copied along with the secret, at one end or the other. */
export const secretHasBlanks: SignatureCause = {
  code: 'secret_has_blanks',
  name: 'blanks around the secret',
  sentence: 'The shared secret carries blanks or invisible characters at one of the two ends.',
  ours: 'Enter the shared secret again without the characters around it.',
  theirs: 'Enter the shared secret again without the characters around it.',
  variants({ held: { sharedSecret } }) {
    const bare = stripHidden(sharedSecret)
    const here: [string, string][] = [['secret held here', hinted(sharedSecret)]]
    return [
      ...(bare !== sharedSecret
        ? [{ secret: bare, evidence: [...here, ['signed with', `${hinted(bare)}: without them`] as [string, string]] }]
        : []),
      ...AROUND.flatMap((blank) => [
        {
          secret: bare + blank,
          evidence: [...here, ['signed with', `one more at its end: ${named(blank)}`] as [string, string]],
        },
        {
          secret: blank + bare,
          evidence: [...here, ['signed with', `one more at its start: ${named(blank)}`] as [string, string]],
        },
      ]).filter(({ secret }) => secret !== sharedSecret),
    ]
  },
}

function named(blank: string): string {
  return { ' ': 'a blank', '\n': 'a line end', '\r\n': 'a line end', '\t': 'a tab' }[blank] ?? 'an invisible character'
}
