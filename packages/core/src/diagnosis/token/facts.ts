import type { Claims, PublicKey } from '../../lti13/index.js'
import type { Found } from '../cause.js'
import type { Proof } from '../proof.js'

export type TokenKind = 'launch' | 'picked' | 'assertion' | 'access_token' | 'unknown'

/** A tool as far as tokens name it. */
export interface TokenTool {
  label: string
  clientId: string
  deployments: readonly string[]
}

/** The keys by which a token has to verify, and those by which it would have before. */
export interface TokenKeys {
  owner: string
  now: readonly PublicKey[]
  before: readonly { key: PublicKey; until: string }[]
  /** When they were read; null for never, and for our own. */
  readAt: string | null
}

/** A token taken apart, and what is known around it. */
export interface TokenFacts {
  kind: TokenKind
  header: Claims
  claims: Claims
  /** As it was received. What has no signature is not verified. */
  token: string
  /** When it was received; null when that is not known, and its times say nothing. */
  nowSeconds: number | null
  leewaySeconds: number
  /** This platform’s issuer and token address, and issuers by which it was known before. */
  issuer: string
  tokenUrl: string
  earlierIssuers: readonly string[]
  /** Those that whoever asks may know of. */
  tools: readonly TokenTool[]
  /** The tool whose message it should be, where that is known by other means than the token. */
  asked: TokenTool | null
  /** Null when it is not known whose keys those would be. */
  keys: TokenKeys | null
  /** Keys of other registrations, and of this platform. */
  others: readonly { key: PublicKey; owner: string }[]
}

/** Algorithms that sign by an RSA key (RFC 7518 section 3.1). */
export const RSA_ALGORITHMS = ['RS256', 'RS384', 'RS512', 'PS256', 'PS384', 'PS512'] as const
export type RsaAlgorithm = (typeof RSA_ALGORITHMS)[number]
export type VerifyRsa = (algorithm: RsaAlgorithm, data: Uint8Array, signature: Uint8Array, key: PublicKey) => boolean

/** A key that verifies a token, and in which way. */
export interface Signed {
  key: PublicKey
  /** `here`: one of those by which it has to verify; `before`: one that was among them; `elsewhere`: another one’s. */
  place: 'here' | 'before' | 'elsewhere'
  owner: string
  /** Until when it was published. */
  until: string | null
  algorithm: RsaAlgorithm
  /** What was signed in place of what was sent, and how the signature is written where it is odd. */
  odd: string[]
  proof: Proof
}
/** With the key by which it verifies; null when by none, undefined when there was nothing to try. */
export type TriedToken = TokenFacts & { signed: Signed | null | undefined }

/** Finds one fault of a token, or none. */
export type TokenCause = (facts: TriedToken) => Found | undefined

/** A claim as it may be shown. */
export function shown(value: unknown): string {
  if (value === undefined) return 'nothing'
  return (typeof value === 'string' ? value : JSON.stringify(value)).slice(0, 200)
}

const CONTENT_ITEMS = 'https://purl.imsglobal.org/spec/lti-dl/claim/content_items'

/** What a token is, read off its claims alone (LTI 1.3 section 5.3; RFC 7523 section 3). @param at by which this platform is known */
export function kindOfToken(claims: Claims, at?: { issuer: string; tokenUrl: string }): TokenKind {
  const { iss, sub, aud, scope } = claims
  const type = claims['https://purl.imsglobal.org/spec/lti/claim/message_type']
  if (type === 'LtiDeepLinkingResponse' || CONTENT_ITEMS in claims) return 'picked'
  if (typeof type === 'string' || 'nonce' in claims) return 'launch'
  if (typeof scope === 'string') return 'access_token'
  if (iss !== undefined && iss === sub) return 'assertion'
  if (at && [aud].flat().includes(at.tokenUrl)) return 'assertion'
  // What is of us, and no access token, can be meant as a launch only.
  return at && iss === at.issuer ? 'launch' : 'unknown'
}

/** Whether this platform made it, or should have. */
export function isOurs({ kind }: Pick<TokenFacts, 'kind'>): boolean {
  return kind === 'launch' || kind === 'access_token'
}
