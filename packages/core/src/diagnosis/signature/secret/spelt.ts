import { hinted } from '../../cause.js'
import { otherwise, type Way } from '../mistake.js'

type Spelling = readonly [spelt: string, words: string, at?: 'ours' | 'theirs']

/** Ways to sign with a secret that is spelt otherwise than it is held here. @param words say how, and never the secret */
export function spelt(held: string, spellings: readonly Spelling[]): Way[] {
  return otherwise(held, spellings, (secret, words, at) => ({
    change: () => ({ secret }),
    evidence: [
      ['secret held here', hinted(held)],
      ['signed with', `${hinted(secret)}: ${words}`],
    ],
    ...(at && { at }),
  }))
}
