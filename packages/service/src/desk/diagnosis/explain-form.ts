import { Problem } from '@bathyscribe/core/result'
import {
  diagnoseClock,
  diagnoseConsumerKey,
  isInMilliseconds,
  type Diagnosis,
  type HeldSecret,
  type SignatureFacts,
} from '@bathyscribe/core/diagnosis'
import { readOAuthParameters, splitAddress, verifyRequest, type OAuthParameters } from '@bathyscribe/core/oauth1'
import { maskParameters } from '../../wire/mask.js'
import type { Context } from '../context.js'
import { outcomesUrl } from '../platform/addresses.js'
import { besideOurs } from './beside-ours.js'
import { LOOKED_AT, withLetter } from './explained-entry.js'
import { heldSecrets, otherHosts, otherSecretsOf } from './known.js'
import { holdersOf, NOTHING, type Of, type Part } from './message-part.js'

/** A registration that may have signed a form, and where the form was sent then. */
interface Candidate {
  held: HeldSecret & { registrationId: string }
  tool: Part['tool']
  url: string | null
}

/** What a signed form is, and why its signature is not right where it is not. */
export async function explainForm(context: Context, courses: string[] | null, pasted: Of<'form'>): Promise<Part> {
  const { parameters, method } = pasted
  const { registrationId, request: _, ...beside } = await besideOurs(context, courses, pasted)
  // What has the hash of a body is no form.
  const isCall = parameters.some(([name]) => name === 'oauth_body_hash')
  const noun = isCall ? 'A call' : 'A form post'
  const part: Part = { ...NOTHING, ...beside, parts: [{ title: 'Parameters', rows: maskParameters(parameters) }] }
  const known = await heldSecrets(context, courses)
  const key = parameters.find(([name]) => name === 'oauth_consumer_key')?.[1]
  // A call was sent to us; where a form was, if it does not say so, is where the tool is launched.
  const address = pasted.address ?? (isCall ? outcomesUrl(context.settings) : null)
  const candidates = await Promise.all(
    holdersOf(known, key, registrationId).map((held) => candidateOf(context, held, address)),
  )
  const [first] = candidates
  const oauth = readOAuthParameters(parameters)
  if (oauth instanceof Problem) {
    const what = `${noun} that is not signed as it must be: ${oauth.code} (${oauth.detail}).`
    return { ...part, tool: first?.tool ?? null, what }
  }
  const letter = (found: Diagnosis, label: string | null) =>
    withLetter(context, found, {
      tool: label,
      kind: 'message',
      what: LOOKED_AT.form,
      at: null,
      reference: beside.entry ? `wire entry ${beside.entry.id}` : null,
    })
  if (!first)
    return {
      ...part,
      what: `${noun} signed with the key “${oauth.consumerKey.slice(0, 80)}”, which is no registration’s here.`,
      diagnosis: await letter(diagnoseConsumerKey({ given: oauth.consumerKey, expected: null, others: known }), null),
    }
  const request = (url: string) => ({ method, url, parameters: parameters.filter(([name]) => name !== 'oauth_signature') }) // oxfmt-ignore
  // Of two with the same key the one whose secret fits is meant.
  const right = candidates.find(({ held, url }) => isAddress(url) && isSignedBy(held, request(url), oauth))
  const { held, tool, url } = right ?? first
  const found: Part = { ...part, tool }
  if (!isAddress(url))
    return { ...found, what: `${noun} that is signed. Say the address that it was sent to, for that is signed, too.` }
  if (right) {
    const late = lateness(context, oauth, beside.entry?.at)
    return {
      ...found,
      what: `${noun} that is signed rightly by the secret of ${held.label}, for ${url}.`,
      diagnosis: late && (await letter(late, held.label)),
    }
  }
  const why = await firstExplained(candidates, (one) =>
    isAddress(one.url) ? signatureOf(context, { request: request(one.url), oauth, held: one.held, known }) : undefined,
  )
  return {
    ...found,
    what: `${noun} whose signature is not that of ${held.label} for ${url}.`,
    diagnosis: why && (await letter(why, held.label)),
  }
}

async function candidateOf({ records }: Context, held: Candidate['held'], address: string | null): Promise<Candidate> {
  const { id, slug, name, state, launchUrl } = await records.tools.byId(held.registrationId)
  return { held, tool: { id, slug, name, state }, url: address ?? launchUrl }
}

/** Whether something can have been signed for it. */
const isAddress = (url: string | null): url is string => url !== null && splitAddress(url) !== undefined

/** Candidates that are searched through, for each costs as much as a message. */
const MOST_SEARCHED = 3

/** What is found for the first candidate that something is found for, else for the first. */
async function firstExplained(
  candidates: readonly Candidate[],
  find: (one: Candidate) => Promise<Diagnosis> | undefined,
): Promise<Diagnosis | null> {
  let first: Diagnosis | undefined
  for (const one of candidates.slice(0, MOST_SEARCHED)) {
    const found = await find(one)
    if (found && found.causes.length > 0) return found
    first ??= found
  }
  return first ?? null
}

async function signatureOf(
  context: Context,
  facts: Pick<SignatureFacts, 'request'> & {
    oauth: OAuthParameters
    held: Candidate['held']
    known: Candidate['held'][]
  },
): Promise<Diagnosis> {
  const { request, oauth, held, known } = facts
  return context.workers.diagnoseSignature({
    request,
    signature: oauth.signature,
    signatureMethod: oauth.signatureMethod,
    held,
    previous: await otherSecretsOf(context, held.registrationId),
    others: known.filter((one) => one.registrationId !== held.registrationId),
    hosts: otherHosts(context, undefined),
  })
}

function isSignedBy(
  { sharedSecret }: HeldSecret,
  request: Parameters<typeof verifyRequest>[0],
  oauth: OAuthParameters,
): boolean {
  const { signatureMethod, timestampSeconds } = oauth
  return verifyRequest(request, oauth, { sharedSecret, signatureMethod, nowSeconds: timestampSeconds, windowSeconds: 0 }) === undefined // oxfmt-ignore
}

/** Judged by when it came, where that is known; when it was pasted says nothing. Its unit can be told by itself. */
function lateness(
  { settings: { clockToleranceSeconds: windowSeconds } }: Context,
  { timestampSeconds: sent }: OAuthParameters,
  cameAt: string | undefined,
): Diagnosis | null {
  const came = cameAt !== undefined ? Math.floor(Date.parse(cameAt) / 1000) : isInMilliseconds(sent) ? sent / 1000 : sent // oxfmt-ignore
  return Math.abs(sent - came) <= windowSeconds ? null : diagnoseClock({ sent, nowSeconds: came, windowSeconds })
}
