import { addressDifference } from '../difference.js'
import { Proof } from '../proof.js'
import { isOurs, shown, type TokenCause } from './facts.js'

/** Of our own tokens: this platform’s issuer. Of a tool’s: its client identifier (LTI 1.3 section 5.1.1; RFC 7523 section 3). */
export const issuer: TokenCause = (facts) => {
  const { claims, tools } = facts
  const { iss, sub } = claims
  if (isOurs(facts)) {
    if (iss === facts.issuer) return undefined
    const difference = addressDifference(shown(iss), facts.issuer)
    return {
      code: 'issuer',
      sentence: difference ? `The issuer is nearly ours: ${difference}.` : 'The token was made by another platform.',
      evidence: [
        ['iss', shown(iss)],
        ['ours', facts.issuer],
      ],
      ours: 'If this service has changed its address, the tool must be given the new one.',
      theirs: 'Compare the issuer in the tool’s settings, letter by letter.',
      proof: Proof.byNoneOf([iss], [facts.issuer]),
    }
  }
  const tool = tools.find(({ clientId }) => clientId === iss)
  if (tool && (facts.kind !== 'assertion' || sub === iss)) return undefined
  return {
    code: tool ? 'subject' : 'client_unknown',
    sentence: tool
      ? 'The token’s subject is not its issuer; in a client assertion both are the client identifier.'
      : 'The token’s issuer is no client identifier that is known here.',
    evidence: [
      ['iss', shown(iss)],
      ['sub', shown(sub)],
      ...(iss === facts.issuer ? [['remark', 'it is this platform’s own address'] as [string, string]] : []),
    ],
    ours: null,
    theirs: 'Put the client identifier that stands on the exchange sheet into iss (and sub).',
    proof: tool
      ? Proof.byNoneOf([sub], [iss])
      : Proof.byNoneOf(
          [iss],
          tools.map(({ clientId }) => clientId),
        ),
  }
}
