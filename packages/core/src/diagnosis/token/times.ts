import { ASSERTION_SECONDS } from '../../lti13/token.js'
import type { Found } from '../cause.js'
import { isInMilliseconds, MOST_SECONDS } from '../clock.js'
import { Proof } from '../proof.js'
import { shown, type TokenCause, type TokenFacts } from './facts.js'

const NAMES = ['exp', 'iat', 'nbf'] as const

const evidenceOf = ({ claims, nowSeconds, leewaySeconds }: TokenFacts, name: string): [string, string][] => [
  [name, moment(claims[name])],
  ['our clock', nowSeconds === null ? 'not known' : moment(nowSeconds)],
  ['allowed', `${leewaySeconds} seconds`],
]

/** What is no moment in seconds (RFC 7519 section 2, NumericDate). */
export const unit: TokenCause = ({ claims }) => {
  const large = NAMES.filter((name) => isLarge(claims[name]))
  if (large[0])
    return fault(
      'milliseconds',
      `${large.length === 1 ? `The token’s “${large[0]}” is` : 'The token’s times are'} in milliseconds; ${large.length === 1 ? 'it' : 'they'} must be in seconds since 1970.`,
      large.map((name) => [name, shown(claims[name])]),
      'Divide the times by 1000, and leave fractions out.',
      Proof.byOrder(MOST_SECONDS, Number(claims[large[0]])),
    )
  const texts = NAMES.filter((name) => typeof claims[name] === 'string')
  return texts.length === 0
    ? undefined
    : fault(
        'times_as_text',
        `The token’s ${texts.map((name) => `“${name}”`).join(' and ')} ${texts.length === 1 ? 'is text' : 'are texts'}; a time must be a number, in seconds since 1970.`,
        texts.map((name) => [name, `“${shown(claims[name])}”`]),
        'Write times as numbers, without quotes.',
        Proof.byNoneOf(texts.map((name) => typeof claims[name]), ['number']), // oxfmt-ignore
      )
}

function isLarge(value: unknown): boolean {
  const number = typeof value === 'string' && /^\d{1,20}$/.test(value) ? Number(value) : value
  return typeof number === 'number' && isInMilliseconds(number)
}

/** RFC 7519 section 4.1.4. */
export const expired: TokenCause = (facts) => {
  const { claims, nowSeconds, leewaySeconds } = facts
  const { exp } = claims
  // Text, and what is far too large, are told as that.
  if (typeof exp === 'string' || isLarge(exp)) return undefined
  if (typeof exp !== 'number')
    return fault(
      'expiry_missing',
      'The token does not say in seconds since 1970 when it ends.',
      [['exp', shown(exp)]],
      'Set exp in seconds since 1970.',
      Proof.byNoneOf([typeof exp], ['number']),
    )
  if (nowSeconds === null || exp > nowSeconds - leewaySeconds) return undefined
  return fault(
    'expired',
    `The token ended ${Math.round(nowSeconds - exp)} seconds ago.`,
    evidenceOf(facts, 'exp'),
    'Make a new token for each message; if it is new, have the clock kept by a time server.',
    Proof.byOrder(exp, nowSeconds - leewaySeconds),
  )
}

/** A token that is over before it was made, and an assertion that is good for longer than any may be (Security Framework 1.0 section 4.1.1). */
export const lifetime: TokenCause = ({ claims, kind, leewaySeconds, nowSeconds }) => {
  const { exp, iat } = claims
  if (typeof exp !== 'number' || typeof iat !== 'number' || isLarge(exp) || isLarge(iat)) return undefined
  const evidence: [string, string][] = [
    ['iat', moment(iat)],
    ['exp', moment(exp)],
  ]
  // By the clock it is over, or of the future: that is told then.
  if (exp <= iat && nowSeconds !== null) return undefined
  if (exp <= iat)
    return fault(
      'ends_before_made',
      'By its own times the token ends before it was made.',
      evidence,
      'Set iat to now and exp to some minutes later.',
      Proof.byOrder(exp, iat),
    )
  if (kind !== 'assertion' || exp - iat <= ASSERTION_SECONDS + leewaySeconds) return undefined
  return fault(
    'good_for_too_long',
    `The token is good for ${Math.round(exp - iat)} seconds; ${ASSERTION_SECONDS} at most are taken.`,
    evidence,
    'Let a client assertion be good for some minutes.',
    Proof.byOrder(ASSERTION_SECONDS + leewaySeconds, exp - iat),
  )
}

/** RFC 7519 sections 4.1.5 and 4.1.6. */
export const fromTheFuture: TokenCause = (facts) => {
  const { claims, nowSeconds, leewaySeconds } = facts
  for (const name of ['iat', 'nbf'] as const) {
    const at = claims[name]
    if (typeof at === 'number' && !isLarge(at) && nowSeconds !== null && at > nowSeconds + leewaySeconds)
      return fault(
        'from_the_future',
        name === 'iat'
          ? `The token says that it was made ${Math.round(at - nowSeconds)} seconds from now: the clock that made it is ahead of ours.`
          : `The token is not good for another ${Math.round(at - nowSeconds)} seconds, by its own “nbf”.`,
        evidenceOf(facts, name),
        name === 'iat'
          ? 'Have the clock kept by a time server.'
          : 'Set “nbf” to the moment from which the token is good, or leave it out.',
        Proof.byOrder(nowSeconds + leewaySeconds, at),
      )
  }
  return undefined
}

function fault(
  code: string,
  sentence: string,
  evidence: [string, string][],
  theirs: string,
  proof: Proof | undefined,
): Found {
  return { code, sentence, evidence, ours: null, theirs, proof }
}

/** Seconds that a calendar has, up to the year 9999. */
const MOST_OF_CALENDAR = 253_402_300_800

function moment(value: unknown): string {
  return typeof value === 'number' && Math.abs(value) < MOST_OF_CALENDAR
    ? `${value} (${new Date(value * 1000).toISOString()})`
    : shown(value)
}
