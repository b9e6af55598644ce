import { atAddresses, partsOf } from './address.js'
import type { SignatureCause } from './facts.js'

export const trailingSlash: SignatureCause = {
  code: 'trailing_slash',
  name: 'a slash at the end',
  sentence: 'The signature was made for the same address with, or without, a slash at the end of its path.',
  ours: null,
  theirs: 'Sign the address letter by letter as it is called.',
  variants: (facts) => {
    const parts = partsOf(facts.request.url)
    if (!parts) return []
    const { start, path, rest } = parts
    return atAddresses(facts, [path.endsWith('/') ? `${start}${path.slice(0, -1)}${rest}` : `${start}${path}/${rest}`])
  },
}
