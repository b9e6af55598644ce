import { splitAddress } from '../../oauth1/base-string.js'
import { atAddresses, partsOf } from './address.js'
import { baseParts, baseString } from './base.js'
import type { SignatureCause, SignatureFacts, Variant } from './facts.js'

const PORTS = [80, 443, 8080, 8443]

/** Signed for a name or port that this service has behind a reverse proxy, or with a default port written out. */
export const otherHost: SignatureCause = {
  code: 'other_host',
  name: 'another host or port',
  sentence: 'The signature was made for another host or port, as happens behind a reverse proxy.',
  ours: 'Set `publicUrl` to the address that tools are given, and have the proxy pass the host on.',
  theirs: 'Sign the address as it was given, not the one that a proxy calls.',
  variants: (facts) => {
    const own = hostOf(splitAddress(facts.request.url)?.base)
    const parts = partsOf(facts.request.url)
    if (own === undefined || !parts) return []
    const bare = parts.start.replace(/^https?:\/\//i, '').replace(/:\d+$/, '')
    const hosts = [bare, ...PORTS.map((port) => `${bare}:${port}`), ...facts.hosts]
    const urls = ['http', 'https']
      .flatMap((scheme) => hosts.map((host) => `${scheme}://${host}${parts.path}${parts.rest}`))
      .filter((url) => hostOf(splitAddress(url)?.base) !== own)
    return [...atAddresses(facts, urls), ...withDefaultPort(facts)]
  },
}

/** A default port that is written out is left out of a base string (RFC 5849 section 3.4.1.2); who keeps it signs something else. */
function withDefaultPort({ request }: SignatureFacts): Variant[] {
  const parts = baseParts(request)
  const host = hostOf(parts.address)
  if (host === undefined || /:\d+$/.test(host)) return []
  const written = `${host}:${parts.address.startsWith('https:') ? 443 : 80}`
  return [
    {
      baseString: baseString({ ...parts, address: parts.address.replace(`//${host}`, `//${written}`) }),
      evidence: [
        ['received at', host],
        ['signed for', written],
      ],
    },
  ]
}

function hostOf(base: string | undefined): string | undefined {
  return /^https?:\/\/([^/]+)/.exec(base ?? '')?.[1]
}
