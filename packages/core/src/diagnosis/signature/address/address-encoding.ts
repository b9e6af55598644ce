import { percentEncode } from '../../../oauth1/encoding.js'
import type { Mistake, Way } from '../mistake.js'
import { smallEscapes } from '../spellings.js'

const way = (wrapAddress: (text: string) => string, words: string): Way => ({
  change: () => ({ wrapAddress }),
  evidence: [['address in the base string', words]],
})

export const addressEncoding: Mistake = {
  code: 'address_encoding',
  name: 'the address not encoded, or encoded otherwise',
  family: 'whole',
  sentence: 'The address was not percent-encoded as a part of the base string, or otherwise than it must be.',
  ours: null,
  theirs:
    'Percent-encode the address once as it enters the base string, “/” and “:” included (RFC 5849 section 3.4.1.1).',
  ways: () => [
    way((text) => text, 'not encoded'),
    way((text) => percentEncode(percentEncode(text)), 'encoded twice'),
    way((text) => percentEncode(text).replaceAll('%2F', '/'), '“/” not encoded'),
    way((text) => percentEncode(text).replaceAll('%3A', ':'), '“:” not encoded'),
    way((text) => percentEncode(text).replaceAll('%3A', ':').replaceAll('%2F', '/'), '“:” and “/” not encoded'),
    way((text) => smallEscapes(percentEncode(text)), 'escapes in small letters'),
  ],
}
