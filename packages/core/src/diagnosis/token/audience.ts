import { nearestAddress } from '../difference.js'
import { nearestIdentifier, placeOf } from '../nearly.js'
import { Proof } from '../proof.js'
import { isOurs, shown, type TokenCause, type TriedToken } from './facts.js'

/** For whom the token is (RFC 7519 section 4.1.3; RFC 7523 section 3). */
export const audience: TokenCause = (facts) => {
  const { claims, kind } = facts
  if (kind === 'access_token' || kind === 'unknown') return undefined
  const given = [claims['aud']].flat().map(shown)
  return isOurs(facts) ? ofLaunch(facts, given) : ofToolsToken(facts, given)
}

function ofLaunch({ tools }: TriedToken, given: string[]) {
  const clients = tools.map(({ clientId }) => clientId)
  if (given.some((one) => clients.includes(one))) return undefined
  const near = given.map((one) => nearestIdentifier(one, clients)).find((one) => one !== undefined)
  return {
    code: 'audience',
    sentence: near
      ? `The token is for nearly the client identifier of ${tools.find(({ clientId }) => clientId === near.identifier)!.label}: ${near.difference}.`
      : 'The token is for a client identifier that is no registration’s here.',
    evidence: [['aud', given.join(', ')], ...(near ? [['expected', near.identifier]] : [])] as [string, string][],
    ours: 'Check whether the registration was deleted or created again.',
    theirs: 'Compare the client identifier with the exchange sheet.',
    proof: Proof.byNoneOf(given, clients),
  }
}

function ofToolsToken({ kind, tokenUrl, issuer, earlierIssuers }: TriedToken, given: string[]) {
  const wanted = kind === 'assertion' ? [tokenUrl, issuer] : [issuer]
  if (given.some((one) => wanted.includes(one))) return undefined
  const earlier = given.find((one) => earlierIssuers.some((before) => [before, before + tokenUrl.slice(issuer.length)].includes(one))) // oxfmt-ignore
  const near = given
    .flatMap((one) => {
      const found = nearestAddress(one, wanted)
      return found ? [{ ...found, given: one }] : []
    })
    .at(0)
  return {
    code: earlier === undefined ? 'audience' : 'earlier_address',
    sentence:
      earlier !== undefined
        ? `The token is for ${earlier.slice(0, 200)}, under which this platform was run before; it is ${issuer} now.`
        : near
          ? `The token is for an address that is nearly ours: ${near.difference}.`
          : kind === 'picked' && given.includes(tokenUrl)
            ? 'The token is for our token address; a picker’s answer is for our issuer.'
            : 'The token is for somebody else.',
    evidence: [
      ['aud', given.join(', ')],
      ['expected', wanted.join(' or ')],
      ...(near && earlier === undefined ? [['differs', placeOf(near.given, near.address)]] : []),
    ] as [string, string][],
    ours: null,
    theirs: `Put “${wanted[0]!}” into aud, exactly so.`,
    proof: Proof.byNoneOf(given, wanted),
  }
}
