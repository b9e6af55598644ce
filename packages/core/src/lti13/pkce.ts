import { sha256 } from '@noble/hashes/sha2'
import { base64url } from './jws.js'

/** Proof Key for Code Exchange (RFC 7636), with the method S256 only. */
const VERIFIER = /^[A-Za-z0-9._~-]{43,128}$/
const CHALLENGE = /^[A-Za-z0-9_-]{43}$/

export function isCodeChallenge(text: string): boolean {
  return CHALLENGE.test(text)
}

/** Whether a verifier is the one that a challenge was made of (RFC 7636 section 4.6). */
export function codeVerifies(verifier: string, challenge: string): boolean {
  return VERIFIER.test(verifier) && base64url(sha256(new TextEncoder().encode(verifier))) === challenge
}
