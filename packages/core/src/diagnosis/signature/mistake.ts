import type { SignedFacts } from './facts.js'
import type { Signing } from './signing.js'

/** What of the signing a mistake is about. Two of different families can be made at once, and are looked for together. */
export type Family =
  | 'secret'
  | 'key'
  | 'method'
  | 'scheme'
  | 'host'
  | 'path'
  | 'query'
  | 'fields'
  | 'text'
  | 'encoding'
  | 'order'
  | 'whole'

/** One way in which a mistake can be made with a message. */
export interface Way {
  change: (signing: Signing) => Partial<Signing>
  /** What shows it, when it turns out to be what was done. Never holds a secret. */
  evidence: [name: string, value: string][]
  /** The end that is at fault, where that can be told. */
  at?: 'ours' | 'theirs'
}

/** A mistake of which it can be computed how the message would be signed by it. */
export interface Mistake {
  code: string
  /** In words, for the list of what was ruled out. */
  name: string
  family: Family
  sentence: string
  ours: string | null
  theirs: string | null
  /** It is told only where no mistake before it comes to the same: it takes more, or says less. */
  givesWay?: boolean
  /** What would tell it apart from another one that fits as well; undefined where any other message does. */
  toTell?: string
  /** The likeliest first. Empty where the message has nothing that it could be made with. @param right how it should have been signed */
  ways: (facts: SignedFacts, right: Signing) => Way[]
}

/** Ways that only spell a text otherwise: those that leave it as it is are none. */
export function otherwise(
  text: string,
  spellings: readonly (readonly [spelt: string, words: string, at?: 'ours' | 'theirs'])[],
  way: (spelt: string, words: string, at: 'ours' | 'theirs' | undefined) => Way,
): Way[] {
  const seen = new Set([text])
  return spellings.flatMap(([spelt, words, at]) => {
    if (seen.has(spelt)) return []
    seen.add(spelt)
    return [way(spelt, words, at)]
  })
}
