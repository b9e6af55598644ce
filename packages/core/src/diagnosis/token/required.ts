import { CLAIM } from '../../lti13/names.js'
import { Proof } from '../proof.js'
import type { TokenCause, TokenKind } from './facts.js'

const ALWAYS = ['message_type', 'version', 'deployment_id'].map((name) => CLAIM + name)
const REQUIRED: Readonly<Record<TokenKind, readonly string[]>> = {
  launch: ['nonce', ...ALWAYS, `${CLAIM}target_link_uri`, `${CLAIM}roles`],
  picked: ['nonce', ...ALWAYS, 'https://purl.imsglobal.org/spec/lti-dl/claim/content_items'],
  assertion: ['iat', 'jti'],
  access_token: [],
  unknown: [],
}

/** Claims that a message of its kind cannot be without (LTI 1.3 section 5.3; Deep Linking 2.0 section 4.5; RFC 7523 section 3). */
export const required: TokenCause = ({ claims, kind }) => {
  const missing = REQUIRED[kind].filter((name) => claims[name] === undefined)
  return missing.length === 0
    ? undefined
    : {
        code: 'claims_missing',
        sentence: `The token lacks what a message of its kind must say: ${missing.map((name) => name.replace(/^.*\//, '')).join(', ')}.`,
        evidence: missing.map((name) => [name, 'missing']),
        ours: null,
        theirs: 'Add the claims that are missing.',
        proof: Proof.byNoneOf(
          missing,
          Object.keys(claims).filter((name) => claims[name] !== undefined),
        ),
      }
}
