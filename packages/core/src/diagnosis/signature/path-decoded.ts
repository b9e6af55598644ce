import { atAddresses, partsOf } from './address.js'
import type { SignatureCause } from './facts.js'

export const pathDecoded: SignatureCause = {
  code: 'path_decoded',
  name: 'path decoded or in other letters',
  sentence: 'The path was decoded, encoded or put into small letters before it was signed.',
  ours: null,
  theirs: 'Sign the path letter by letter as it is called, escapes included.',
  variants: (facts) => {
    const parts = partsOf(facts.request.url)
    if (!parts) return []
    const { start, path, rest } = parts
    return atAddresses(facts, [
      ...(decoded(path) === undefined ? [] : [`${start}${decoded(path)}${rest}`]),
      `${start}${encodeURI(path)}${rest}`,
      `${start}${path.toLowerCase()}${rest}`,
      `${start}${path.replace(/%[0-9a-f]{2}|[A-Z]+/gi, (one) => (one.startsWith('%') ? one : one.toLowerCase()))}${rest}`,
      `${start}${path.replace(/%[0-9a-f]{2}/gi, (one) => one.toUpperCase())}${rest}`,
      `${start}${path.replace(/%[0-9a-f]{2}/gi, (one) => one.toLowerCase())}${rest}`,
    ])
  },
}

function decoded(path: string): string | undefined {
  try {
    return decodeURIComponent(path)
  } catch {
    return undefined
  }
}
