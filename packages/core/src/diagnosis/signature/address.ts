import { splitAddress } from '../../oauth1/base-string.js'
import { upTo } from '../../text/index.js'
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

/** An address in three parts: scheme with host, path, and the rest from its query on; undefined when it is none. */
export function partsOf(url: string): { start: string; path: string; rest: string } | undefined {
  const scheme = /^https?:\/\//i.exec(url)?.[0]
  if (scheme === undefined) return undefined
  const host = upTo(url.slice(scheme.length), '/?#')
  const start = scheme + host
  const path = upTo(url.slice(start.length), '?#')
  return host === '' ? undefined : { start, path, rest: url.slice(start.length + path.length) }
}

function shown(url: string): string {
  return url.slice(0, 300)
}
