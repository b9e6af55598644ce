import { Problem } from '@bathyscribe/core/result'
import {
  diagnoseClock,
  diagnoseConsumerKey,
  type Diagnosis,
  type HeldSecret,
  type SignatureFacts,
} from '@bathyscribe/core/diagnosis'
import {
  readOAuthParameters,
  splitAddress,
  verifyRequest,
  type OAuthParameters,
  type Parameter,
} from '@bathyscribe/core/oauth1'
import { maskParameters } from '../../wire/mask.js'
import type { Context } from '../context.js'
import { outcomesUrl } from '../platform/addresses.js'
import { besideOurs } from './beside-ours.js'
import { LOOKED_AT, withLetter, type About } from './explained-entry.js'
import { heldSecrets, otherHosts, otherSecretsOf } from './known.js'
import { holdersOf, NOTHING, toolRef, type Of, type Part } from './message-part.js'

/** A registration that may have signed a form, and where the form was sent then. */
interface Candidate {
  held: HeldSecret & { registrationId: string }
  url: string | null
}

/** What a signed form is, and why its signature is not right where it is not. */
export async function explainForm(context: Context, courses: string[] | null, pasted: Of<'form'>): Promise<Part> {
  const { address, parameters, method } = pasted
  const { registrationId, request: _, ...beside } = await besideOurs(context, courses, pasted)
  // What has the hash of a body is no form.
  const noun = isCall(parameters) ? 'A call' : 'A form post'
  const part: Part = {
    ...NOTHING,
    ...beside,
    what: `${noun} that is signed.`,
    parts: [{ title: 'Parameters', rows: maskParameters(parameters) }],
  }
  const known = await heldSecrets(context, courses)
  const oauth = readOAuthParameters(parameters)
  const key = parameters.find(([name]) => name === 'oauth_consumer_key')?.[1]
  const holders = holdersOf(known, key, registrationId)
  const tool = holders[0] ? await toolRef(context, holders[0].registrationId) : null
  if (oauth instanceof Problem)
    return { ...part, tool, what: `${noun} that is not signed as it must be: ${oauth.code} (${oauth.detail}).` }
  const about: About = {
    tool: holders[0]?.label ?? null,
    kind: 'message',
    what: LOOKED_AT.form,
    at: null,
    reference: beside.entry ? `wire entry ${beside.entry.id}` : null,
  }
  if (holders.length === 0)
    return {
      ...part,
      what: `${noun} signed with the key “${oauth.consumerKey.slice(0, 80)}”, which is no registration’s here.`,
      diagnosis: withLetter(context, diagnoseConsumerKey({ given: oauth.consumerKey, expected: null, others: known }), about), // oxfmt-ignore
    }
  const candidates = await Promise.all(
    holders.map(async (held): Promise<Candidate> => ({ held, url: address ?? (await addressOf(context, held.registrationId, parameters)) })), // oxfmt-ignore
  )
  const request = (url: string) => ({ method, url, parameters: parameters.filter(([name]) => name !== 'oauth_signature') }) // oxfmt-ignore
  const isRight = ({ held, url }: Candidate) => url !== null && splitAddress(url) !== undefined && isSignedBy(held, request(url), oauth) // oxfmt-ignore
  // Of two with the same key the one whose secret fits is meant.
  const { held, url } = candidates.find(isRight) ?? candidates[0]!
  const found: Part = { ...part, tool: await toolRef(context, held.registrationId) }
  if (!url || !splitAddress(url))
    return { ...found, what: `${noun} that is signed. Say the address that it was sent to, for that is signed, too.` }
  if (isRight({ held, url }))
    return {
      ...found,
      what: `${noun} that is signed rightly by the secret of ${held.label}, for ${url}.`,
      diagnosis: lateness(context, oauth, beside.entry?.at, { ...about, tool: held.label }),
    }
  const why = await firstExplained(candidates, ({ held: one, url: to }) =>
    to === null || !splitAddress(to)
      ? undefined
      : signatureOf(context, { request: request(to), oauth, held: one, known }),
  )
  return {
    ...found,
    what: `${noun} whose signature is not that of ${held.label} for ${url}.`,
    diagnosis: why && withLetter(context, why, { ...about, tool: held.label }),
  }
}

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

/** In seconds such a moment is thousands of years away. */
const isInMilliseconds = (timestamp: number) => timestamp > 1e11

/** Judged by when it came, where that is known; when it was pasted says nothing. Its unit can be told by itself. */
function lateness(
  context: Context,
  { timestampSeconds: sent }: OAuthParameters,
  cameAt: string | undefined,
  about: About,
): Part['diagnosis'] {
  const windowSeconds = context.settings.clockToleranceSeconds
  const came = cameAt !== undefined ? Math.floor(Date.parse(cameAt) / 1000) : isInMilliseconds(sent) ? sent / 1000 : sent // oxfmt-ignore
  if (Math.abs(sent - came) <= windowSeconds) return null
  return withLetter(context, diagnoseClock({ sent, nowSeconds: came, windowSeconds }), about)
}

const isCall = (parameters: readonly Parameter[]) => parameters.some(([name]) => name === 'oauth_body_hash')

/** Where a message was most likely sent: what has the hash of a body was sent to us. */
async function addressOf({ records, settings }: Context, registrationId: string, parameters: readonly Parameter[]) {
  if (isCall(parameters)) return outcomesUrl(settings)
  return (await records.tools.byId(registrationId)).launchUrl
}
