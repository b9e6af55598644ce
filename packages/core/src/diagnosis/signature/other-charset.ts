import { normaliseParameters, splitAddress } from '../../oauth1/base-string.js'
import { decodeForm, percentEncode } from '../../oauth1/encoding.js'
import type { SignatureCause } from './facts.js'

/** RFC 5849 section 3.6: text is UTF-8 before it is encoded. */
export const otherCharset: SignatureCause = {
  code: 'other_charset',
  name: 'another character set than UTF-8',
  sentence: 'Letters beyond ASCII were signed in Latin-1, or read so, in place of UTF-8.',
  ours: null,
  theirs: 'Sign and send text in UTF-8.',
  variants: ({ request }) => {
    const address = splitAddress(request.url)
    const all = address ? [...decodeForm(address.query), ...request.parameters] : []
    const beyond = all.filter(([name, value]) => /[^\u0000-\u007f]/.test(name + value))
    if (!address || beyond.length === 0) return []
    const latin = normaliseParameters(all)
      .replace(/%C2%([89AB][0-9A-F])/g, '%$1')
      .replace(/%C3%([89AB][0-9A-F])/g, (_, low: string) => `%${(parseInt(low, 16) + 0x40).toString(16).toUpperCase()}`)
    const misread = normaliseParameters(all.map(([name, value]) => [asLatin1(name), asLatin1(value)] as const))
    const evidence: [string, string][] = [
      [
        'values beyond ASCII',
        beyond
          .map(([name]) => name)
          .join(', ')
          .slice(0, 200),
      ],
    ]
    return [latin, misread].map((parameters) => ({
      baseString: [request.method.toUpperCase(), address.base, parameters].map(percentEncode).join('&'),
      evidence,
    }))
  },
}

/** What UTF-8 becomes when its bytes are taken for Latin-1 letters. */
function asLatin1(text: string): string {
  return String.fromCharCode(...new TextEncoder().encode(text))
}
