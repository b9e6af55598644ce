import { splitAddress } from '../../oauth1/base-string.js'
import { baseParts, baseString } from './base.js'
import type { SignatureFacts, Variant } from './facts.js'

/** The message signed for other addresses than the one it came to; those that sign alike are left out. */
export function atAddresses({ request }: SignatureFacts, urls: readonly string[]): Variant[] {
  const parts = baseParts(request)
  return [...new Set(urls)].flatMap((url): Variant[] => {
    const split = splitAddress(url)
    if (!split || (split.base === parts.address && split.query === parts.query)) return []
    const evidence: Variant['evidence'] = [
      ['received at', shown(request.url)],
      ['signed for', shown(url)],
    ]
    return split.query === parts.query
      ? [{ baseString: baseString({ ...parts, address: split.base }), evidence }]
      : [{ request: { ...request, url }, evidence }]
  })
}

function shown(url: string): string {
  return url.slice(0, 300)
}
