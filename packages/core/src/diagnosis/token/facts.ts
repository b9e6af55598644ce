import type { Claims } from '../../lti13/index.js'
import type { Found } from '../cause.js'

export type TokenKind = 'launch' | 'picked' | 'assertion' | 'access_token' | 'unknown'

/** A tool as far as tokens name it. */
export interface TokenTool {
  label: string
  clientId: string
  deployments: readonly string[]
}

/** A token taken apart, and what is known around it. */
export interface TokenFacts {
  kind: TokenKind
  header: Claims
  claims: Claims
  /** When it was received; null when that is not known, and its times say nothing. */
  nowSeconds: number | null
  leewaySeconds: number
  /** This platform’s issuer and token address. */
  issuer: string
  tokenUrl: string
  /** Those that whoever asks may know of. */
  tools: readonly TokenTool[]
  /** The keys by which it could be verified, and when they were read; null when it is not known whose keys those would be. */
  keys: { owner: string; ids: readonly string[]; readAt: string | null } | null
  /** The key by which its signature verifies; null when by none, undefined when there was nothing to try. */
  signedBy: string | null | undefined
}

/** Finds one fault of a token, or none. */
export type TokenCause = (facts: TokenFacts) => Found | undefined

/** A claim as it may be shown. */
export function shown(value: unknown): string {
  if (value === undefined) return 'nothing'
  return (typeof value === 'string' ? value : JSON.stringify(value)).slice(0, 200)
}

const CONTENT_ITEMS = 'https://purl.imsglobal.org/spec/lti-dl/claim/content_items'

/** What a token is, read off its claims alone (LTI 1.3 section 5.3; RFC 7523 section 3). */
export function kindOfToken(claims: Claims): TokenKind {
  const type = claims['https://purl.imsglobal.org/spec/lti/claim/message_type']
  if (type === 'LtiDeepLinkingResponse' || CONTENT_ITEMS in claims) return 'picked'
  if (typeof type === 'string' || 'nonce' in claims) return 'launch'
  if (typeof claims['scope'] === 'string') return 'access_token'
  return claims['iss'] !== undefined && claims['iss'] === claims['sub'] ? 'assertion' : 'unknown'
}

/** Whether this platform made it, or should have. */
export function isOurs({ kind }: Pick<TokenFacts, 'kind'>): boolean {
  return kind === 'launch' || kind === 'access_token'
}
