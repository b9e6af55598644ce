import { addressDifference } from '../difference.js'
import { nearestIdentifier, placeOf } from '../nearly.js'
import { Proof } from '../proof.js'
import { isOurs, shown, type TokenCause, type TriedToken } from './facts.js'

/** Of our own tokens: this platform’s issuer. Of a tool’s: its client identifier (LTI 1.3 section 5.1.1; RFC 7523 section 3). */
export const issuer: TokenCause = (facts) => (isOurs(facts) ? ofPlatform(facts) : ofTool(facts))

const ofPlatform: TokenCause = ({ claims: { iss }, issuer: ours, earlierIssuers }) => {
  if (iss === ours) return undefined
  const given = shown(iss)
  const isEarlier = earlierIssuers.includes(given)
  const difference = addressDifference(given, ours)
  return {
    code: isEarlier ? 'earlier_address' : 'issuer',
    sentence: isEarlier
      ? `The issuer is an address under which this platform was run before; it is ${ours} now.`
      : difference
        ? `The issuer is nearly ours: ${difference}.`
        : 'The token was made by another platform.',
    evidence: [
      ['iss', given],
      ['ours', ours],
      ...(difference && !isEarlier ? [['differs', placeOf(given, ours)] as [string, string]] : []),
    ],
    ours: 'If this service has changed its address, the tool must be given the new one.',
    theirs: isEarlier
      ? 'Enter our present address, with all that is on the exchange sheet.'
      : 'Compare the issuer in the tool’s settings: it must be exactly the same.',
    proof: Proof.byNoneOf([iss], [ours]),
  }
}

function ofTool(facts: TriedToken) {
  const { claims, tools, kind, asked, signed } = facts
  const { iss, sub } = claims
  const tool = tools.find(({ clientId }) => clientId === iss)
  if (tool && asked && tool.clientId !== asked.clientId)
    return {
      code: 'other_registration',
      sentence: `The token is one of ${tool.label}, and ${asked.label} was asked.`,
      evidence: [
        ['iss', shown(iss)],
        [`of ${asked.label}`, asked.clientId],
      ] as [string, string][],
      ours: 'If both are the same tool, registered twice, use one of the two for its links and its picker.',
      theirs: 'Answer under the client identifier that the request was for.',
      proof: Proof.byNoneOf([iss], [asked.clientId]),
    }
  if (tool) return kind === 'assertion' ? subject(facts, tool.label) : undefined
  const clients = tools.map(({ clientId }) => clientId)
  const near = nearestIdentifier(shown(iss), clients)
  return {
    code: 'client_unknown',
    sentence: near
      ? `The token’s issuer is nearly the client identifier of ${labelOf(facts, near.identifier)}: ${near.difference}.`
      : 'The token’s issuer is no client identifier that is known here.',
    evidence: [
      ['iss', shown(iss)],
      ['sub', shown(sub)],
      ...(near ? [['expected', near.identifier]] : []),
      ...(signed ? [['signed by', `a key of ${signed.owner}`]] : []),
      ...(iss === facts.issuer ? [['remark', 'it is this platform’s own address']] : []),
    ] as [string, string][],
    ours: null,
    theirs: 'Put the client identifier from the exchange sheet into iss (and sub).',
    proof: Proof.byNoneOf([iss], clients),
  }
}

/** In a client assertion issuer and subject are the same (RFC 7523 section 3). */
function subject(facts: TriedToken, label: string) {
  const { iss, sub } = facts.claims
  if (sub === iss) return undefined
  const other = labelOf(facts, sub)
  return {
    code: 'subject',
    sentence: other
      ? `The token’s issuer is ${label}, and its subject is ${other}; in a client assertion both are the same client identifier.`
      : `The token ${sub === undefined ? 'has no subject' : 'has a subject that is not its issuer'}; in a client assertion both are the client identifier.`,
    evidence: [
      ['iss', shown(iss)],
      ['sub', shown(sub)],
    ] as [string, string][],
    ours: null,
    theirs: 'Put the client identifier from the exchange sheet into iss and sub.',
    proof: Proof.byNoneOf([sub], [iss]),
  }
}

function labelOf({ tools }: TriedToken, clientId: unknown): string | undefined {
  return tools.find((one) => one.clientId === clientId)?.label
}
