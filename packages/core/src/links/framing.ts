/**
 * Whether a page may be shown in a frame of ours, read from its headers: CSP `frame-ancestors` first, as browsers do, else
 * `X-Frame-Options` (CSP 3 section 6.4.2). Returns the header that forbids it, undefined when it is allowed.
 */
export function framingRefusal(
  headers: Readonly<Record<string, string | undefined>>,
  pageUrl: string,
  platformOrigin: string,
): string | undefined {
  const csp = headers['content-security-policy'] ?? ''
  for (const policy of csp.split(',')) {
    const directive = policy
      .split(';')
      .map((one) => one.trim())
      .find((one) => /^frame-ancestors(\s|$)/i.test(one))
    if (directive === undefined) continue
    const sources = directive.split(/\s+/).slice(1)
    return sources.some((source) => matches(source, pageUrl, platformOrigin)) ? undefined : directive
  }
  const option = headers['x-frame-options']?.trim().toUpperCase()
  if (option === 'DENY') return 'X-Frame-Options: DENY'
  if (option === 'SAMEORIGIN' && new URL(pageUrl).origin !== platformOrigin) return 'X-Frame-Options: SAMEORIGIN'
  return undefined
}

function matches(source: string, pageUrl: string, platformOrigin: string): boolean {
  const ours = new URL(platformOrigin)
  const lower = source.toLowerCase()
  if (lower === "'none'") return false
  if (lower === '*') return true
  if (lower === "'self'") return new URL(pageUrl).origin === platformOrigin
  if (/^[a-z][a-z0-9+.-]*:$/.test(lower)) return lower === ours.protocol
  const parts = /^(?:([a-z][a-z0-9+.-]*):\/\/)?(\*\.)?([^:/]+)(?::(\d+|\*))?(?:\/.*)?$/.exec(lower)
  if (!parts) return false
  const [, scheme, wildcard, host, port] = parts
  if (scheme && `${scheme}:` !== ours.protocol && !(scheme === 'http' && ours.protocol === 'https:')) return false
  if (wildcard ? !ours.hostname.endsWith(`.${host}`) : ours.hostname !== host) return false
  return port === '*' || (port ?? '') === ours.port
}
