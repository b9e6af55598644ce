import { percentEncode } from '../../oauth1/encoding.js'
import { baseParts, baseString } from './base.js'
import type { SignatureCause } from './facts.js'

const MOST_TRIED = 80
/** What stands between two parameters of a base string. */
const JOINED = '%26'

/** One parameter was added behind the signature: leaving it out makes it match. */
export const changedAfterSigning: SignatureCause = {
  code: 'changed_after_signing',
  name: 'a parameter added after signing',
  sentence: 'A parameter was added after the message was signed.',
  ours: 'Look what stands between the two ends: a proxy, a script of the page, a browser’s extension.',
  theirs: 'Sign after the last parameter is set; a submit button must have no name.',
  variants: ({ request }) => {
    const parts = baseParts(request)
    const starts: number[] = []
    parts.pairs.reduce((at, pair) => (starts.push(at), at + pair.length + JOINED.length), 0)
    const without = (n: number) => {
      const [from, length] = [starts[n]!, parts.pairs[n]!.length + JOINED.length]
      return n === starts.length - 1
        ? parts.parameters.slice(0, Math.max(0, from - JOINED.length))
        : parts.parameters.slice(0, from) + parts.parameters.slice(from + length)
    }
    return request.parameters
      .filter(([name, value]) => value !== '' && (!name.startsWith('oauth_') || name === 'oauth_callback'))
      .slice(0, MOST_TRIED)
      .map(([name, value]) => ({
        baseString: baseString({
          ...parts,
          parameters: without(parts.pairs.indexOf(percentEncode(`${percentEncode(name)}=${percentEncode(value)}`))),
        }),
        evidence: [['not signed', `${name}=${value}`.slice(0, 200)]],
      }))
  },
}
