import { CLAIM, LTI13_VERSION, MESSAGE_TYPES } from '../../lti13/names.js'
import { Proof } from '../proof.js'
import { shown, type TokenCause, type TokenKind } from './facts.js'

const ALWAYS = ['message_type', 'version', 'deployment_id'].map((name) => CLAIM + name)
const PICKED = 'https://purl.imsglobal.org/spec/lti-dl/claim/'
const REQUIRED: Readonly<Record<TokenKind, readonly string[]>> = {
  launch: ['nonce', ...ALWAYS, `${CLAIM}target_link_uri`, `${CLAIM}roles`],
  picked: ['nonce', ...ALWAYS, `${PICKED}content_items`, `${PICKED}data`],
  assertion: ['iat', 'jti'],
  access_token: [],
  unknown: [],
}
/** A picker is opened by a message that names no address of a link (Deep Linking 2.0 section 4.4). */
const NOT_FOR_PICKERS = `${CLAIM}target_link_uri`

/** Claims that a message of its kind cannot be without (LTI 1.3 section 5.3; Deep Linking 2.0 sections 4.4 and 4.5; RFC 7523 section 3). */
export const required: TokenCause = ({ claims, kind }) => {
  const opensPicker = claims[`${CLAIM}message_type`] === 'LtiDeepLinkingRequest'
  const missing = REQUIRED[kind].filter(
    (name) => claims[name] === undefined && !(opensPicker && name === NOT_FOR_PICKERS),
  )
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

/** LTI 1.3 section 5.3.2: the version is always the same. */
export const version: TokenCause = ({ claims, kind }) => {
  const given = claims[`${CLAIM}version`]
  if ((kind !== 'launch' && kind !== 'picked') || given === undefined || given === LTI13_VERSION) return undefined
  return {
    code: 'version',
    sentence: `The token’s version is “${shown(given)}”; it must be “${LTI13_VERSION}”.`,
    evidence: [['version', shown(given)]],
    ours: null,
    theirs: `Put “${LTI13_VERSION}” into the version claim, as text.`,
    proof: Proof.byNoneOf([given], [LTI13_VERSION]),
  }
}

/** LTI 1.3 section 5.3.1; Deep Linking 2.0 section 4.5. */
export const messageType: TokenCause = ({ claims, kind }) => {
  const given = claims[`${CLAIM}message_type`]
  const wanted: readonly string[] = kind === 'picked' ? ['LtiDeepLinkingResponse'] : kind === 'launch' ? MESSAGE_TYPES : [] // oxfmt-ignore
  if (wanted.length === 0 || given === undefined || wanted.includes(given as string)) return undefined
  return {
    code: 'message_type',
    sentence: `The token’s message type is “${shown(given)}”; ${kind === 'picked' ? 'an answer of a picker has “LtiDeepLinkingResponse”' : 'no message of a platform has that'}.`,
    evidence: [['message_type', shown(given)]],
    ours: null,
    theirs: `Put “${wanted[0]!}” into the message type claim.`,
    proof: Proof.byNoneOf([given], wanted),
  }
}
