import { hinted } from '../cause.js'
import { stripHidden } from '../../text/index.js'
import type { SignatureCause, Variant } from './facts.js'

const BLANKS: Readonly<Record<string, string>> = {
  ' ': 'a blank',
  '\n': 'a line end',
  '\r\n': 'a line end',
  '\t': 'a tab',
  '\u00a0': 'an invisible character',
  '\ufeff': 'an invisible character',
}

/** Blanks or invisible characters were copied along with the secret, at one end or the other. */
export const secretHasBlanks: SignatureCause = {
  code: 'secret_has_blanks',
  name: 'blanks around the secret',
  sentence: 'The shared secret carries blanks or invisible characters at one of the two ends.',
  ours: 'Enter the shared secret again, here, without the characters around it.',
  theirs: 'Enter the shared secret again, there, without the characters around it.',
  variants({ held: { sharedSecret } }) {
    const bare = stripHidden(sharedSecret)
    const signed = (secret: string, words: string, at: 'ours' | 'theirs'): Variant => ({
      secret,
      at,
      evidence: [
        ['secret held here', hinted(sharedSecret)],
        ['signed with', words],
      ],
    })
    return [
      signed(bare, `${hinted(bare)}: without what stands around it here`, 'ours'),
      ...Object.entries(BLANKS).flatMap(([blank, name]) => [
        signed(bare + blank, `${hinted(bare + blank)}: ${name} at its end`, 'theirs'),
        signed(blank + bare, `${hinted(blank + bare)}: ${name} at its start`, 'theirs'),
      ]),
    ].filter(({ secret }) => secret !== sharedSecret)
  },
}
