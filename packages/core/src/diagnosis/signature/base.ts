import { sortedParameters, splitAddress } from '../../oauth1/base-string.js'
import { decodeForm, percentEncode } from '../../oauth1/encoding.js'
import type { SignedRequest } from '../../oauth1/index.js'

/** A request’s base string in its parts, so that a part can be changed without making the others anew. */
export interface BaseParts {
  method: string
  /** Not encoded yet. */
  address: string
  query: string
  /** Each `name=value` in the order of RFC 5849 section 3.4.1.3.2, encoded for its place in the base string. */
  pairs: readonly string[]
  /** `pairs`, joined. */
  parameters: string
}

const known = new WeakMap<SignedRequest, BaseParts>()

/** @throws RangeError when the address is not an absolute http(s) one */
export function baseParts(request: SignedRequest): BaseParts {
  const before = known.get(request)
  if (before) return before
  const split = splitAddress(request.url)
  if (!split) throw new RangeError('A signature needs an absolute http or https address.')
  const pairs = sortedParameters([...decodeForm(split.query), ...request.parameters]).map(([name, value]) =>
    percentEncode(`${name}=${value}`),
  )
  const parts = {
    method: request.method.toUpperCase(),
    address: split.base,
    query: split.query,
    pairs,
    parameters: pairs.join('%26'),
  }
  known.set(request, parts)
  return parts
}

export function baseString({ method, address, parameters }: BaseParts): string {
  return `${method}&${percentEncode(address)}&${parameters}`
}
