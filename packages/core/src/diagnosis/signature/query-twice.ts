import { normaliseParameters, signatureBaseString, splitAddress } from '../../oauth1/base-string.js'
import { decodeForm, percentEncode } from '../../oauth1/encoding.js'
import type { SignatureCause } from './facts.js'

export const queryTwice: SignatureCause = {
  code: 'query_twice',
  name: 'query parameters signed twice',
  sentence: 'The parameters of the address’s own query were signed twice, or left standing in the address as well.',
  ours: null,
  theirs: 'Sign each parameter once; the address enters the base string without its query (RFC 5849 section 3.4.1.2).',
  variants: ({ request }) => {
    const address = splitAddress(request.url)
    if (!address || address.query === '') return []
    const query = decodeForm(address.query)
    const standing = [
      request.method.toUpperCase(),
      `${address.base}?${address.query}`,
      normaliseParameters([...query, ...request.parameters]),
    ]
    return [
      {
        request: { ...request, parameters: [...request.parameters, ...query] },
        evidence: [['signed twice', address.query.slice(0, 200)]],
      },
      {
        baseString: standing.map(percentEncode).join('&'),
        evidence: [['address in the base string', `${address.base}?${address.query}`.slice(0, 300)]],
      },
      {
        baseString: signatureBaseString({ ...request, url: address.base }).replace(
          percentEncode(address.base),
          percentEncode(`${address.base}?${address.query}`),
        ),
        evidence: [['address in the base string', `${address.base}?${address.query}`.slice(0, 300)]],
      },
    ]
  },
}
