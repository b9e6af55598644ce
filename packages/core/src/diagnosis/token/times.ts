import type { Found } from '../cause.js'
import { Proof } from '../proof.js'
import { shown, type TokenCause, type TokenFacts } from './facts.js'

const evidenceOf = ({ claims, nowSeconds, leewaySeconds }: TokenFacts, name: string): [string, string][] => [
  [name, moment(claims[name])],
  ['our clock', nowSeconds === null ? 'not known' : moment(nowSeconds)],
  ['allowed', `${leewaySeconds} seconds`],
]

/** RFC 7519 section 4.1.4. */
export const expired: TokenCause = (facts) => {
  const { claims, nowSeconds, leewaySeconds } = facts
  const { exp } = claims
  if (typeof exp !== 'number')
    return fault(
      'expiry_missing',
      'The token does not say in seconds since 1970 when it ends.',
      [['exp', shown(exp)]],
      'Set exp in seconds since 1970.',
      Proof.byNoneOf([typeof exp], ['number']),
    )
  if (exp > 1e11)
    return fault(
      'milliseconds',
      'The token’s times are in milliseconds; they must be in seconds since 1970.',
      [['exp', shown(exp)]],
      'Divide the times by 1000.',
      Proof.byOrder(1e11, exp),
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

/** RFC 7519 sections 4.1.5 and 4.1.6. */
export const fromTheFuture: TokenCause = (facts) => {
  const { claims, nowSeconds, leewaySeconds } = facts
  for (const name of ['iat', 'nbf'] as const) {
    const at = claims[name]
    if (typeof at === 'number' && at < 1e11 && nowSeconds !== null && at > nowSeconds + leewaySeconds)
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

function moment(value: unknown): string {
  return typeof value === 'number' && Math.abs(value) < 1e11
    ? `${value} (${new Date(value * 1000).toISOString()})`
    : shown(value)
}
