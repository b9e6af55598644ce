import { nearestAddress } from '../difference.js'
import { Proof } from '../proof.js'
import { isOurs, shown, type TokenCause } from './facts.js'

/** For whom the token is (RFC 7519 section 4.1.3; RFC 7523 section 3). */
export const audience: TokenCause = (facts) => {
  const { claims, kind, tools } = facts
  if (kind === 'access_token' || kind === 'unknown') return undefined
  const given = [claims['aud']].flat().map(shown)
  if (isOurs(facts)) {
    if (given.some((one) => tools.some(({ clientId }) => clientId === one))) return undefined
    return {
      code: 'audience',
      sentence: 'The token is for a client identifier that is no registration’s here.',
      evidence: [['aud', given.join(', ')]],
      ours: 'Look whether the registration was deleted or made anew.',
      theirs: 'Compare the client identifier with the exchange sheet.',
      proof: Proof.byNoneOf(
        given,
        tools.map(({ clientId }) => clientId),
      ),
    }
  }
  const wanted = kind === 'assertion' ? [facts.tokenUrl, facts.issuer] : [facts.issuer]
  if (given.some((one) => wanted.includes(one))) return undefined
  const near = given.map((one) => nearestAddress(one, wanted)).find((one) => one !== undefined)
  return {
    code: 'audience',
    sentence: near
      ? `The token is for an address that is nearly ours: ${near.difference}.`
      : 'The token is for somebody else.',
    evidence: [
      ['aud', given.join(', ')],
      ['expected', wanted.join(' or ')],
    ],
    ours: null,
    theirs: `Put “${wanted[0]!}” into aud, letter by letter.`,
    proof: Proof.byNoneOf(given, wanted),
  }
}
