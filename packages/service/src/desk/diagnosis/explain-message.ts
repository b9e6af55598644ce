import { Problem } from '@bathyscribe/core/result'
import type { ExplainedMessage, PastedMessage } from '@bathyscribe/contract'
import { compareMessages, diagnoseClock, readPasted, type Pasted, type TokenKind } from '@bathyscribe/core/diagnosis'
import {
  readOAuthParameters,
  signatureBaseString,
  splitAddress,
  verifyRequest,
  type Parameter,
  type SignedRequest,
} from '@bathyscribe/core/oauth1'
import type { z } from 'zod'
import { maskParameters } from '../../wire/mask.js'
import { requireTeaching } from '../identity/access.js'
import type { Actor, Context } from '../context.js'
import { withLetter } from './explained-entry.js'
import { heldSecrets, otherHosts, otherSecretsOf } from './known.js'
import { tokenFacts } from './token-facts.js'

type Part = Omit<ExplainedMessage, 'kind'>
type Of<K extends Pasted['kind']> = Extract<Pasted, { kind: K }>

const NOTHING: Part = { what: '', tool: null, parts: [], entry: null, differences: [], diagnosis: null }
/** A shorter one may stand in any message. */
const SHORTEST_NONCE = 8
const TOKEN_NAMES: Record<TokenKind, string> = {
  launch: 'An id_token, as a platform signs it',
  picked: 'A picker’s answer, as a tool signs it',
  assertion: 'A client assertion, by which a tool asks for an access token',
  access_token: 'An access token',
  unknown: 'A token of another kind',
}

/**
 * Says what somebody pasted is, and what is wrong with it, by what they may know of: tools of their courses and of the institution. Never answers with a secret, nor with what
 * a signature should have been. @throws Refusal for those who do not teach
 */
export async function explainMessage(
  context: Context,
  actor: Actor,
  { text, address }: z.output<typeof PastedMessage>,
): Promise<ExplainedMessage> {
  const courses = await requireTeaching(context.records, actor)
  const pasted = readPasted(text)
  switch (pasted.kind) {
    case 'unreadable':
      return { ...NOTHING, kind: pasted.kind, what: pasted.why }
    case 'token':
      return { kind: pasted.kind, ...(await explainToken(context, courses, pasted)) }
    case 'base_string':
      return { kind: pasted.kind, ...(await explainBaseString(context, courses, pasted)) }
    case 'form':
      return {
        kind: pasted.kind,
        ...(await explainForm(context, courses, { ...pasted, address: address || pasted.address })),
      }
  }
}

async function explainToken(context: Context, courses: string[] | null, pasted: Of<'token'>): Promise<Part> {
  const { header, claims, token } = pasted
  const entry =
    typeof claims['nonce'] === 'string' && claims['nonce'].length >= SHORTEST_NONCE
      ? await context.records.diagnoses.sentWithNonce(claims['nonce'], courses)
      : undefined
  // When it was pasted says nothing of when it came.
  const { facts, tool } = await tokenFacts(context, courses, { header, claims, token, at: entry?.at ?? null })
  return {
    ...NOTHING,
    what: `${TOKEN_NAMES[facts.kind]}${tool ? `, of ${tool.label}` : ''}.`,
    tool: tool ? await toolRef(context, tool.id) : null,
    parts: [
      { title: 'Header', rows: rowsOf(header) },
      { title: 'Claims', rows: rowsOf(claims) },
    ],
    entry: entry ? { id: entry.id, at: entry.at.toISOString() } : null,
    diagnosis: withLetter(context, await context.workers.diagnoseToken(facts), {
      tool: tool?.label ?? 'the tool',
      what: 'a token was looked at',
      at: null,
      reference: null,
    }),
  }
}

async function explainBaseString(context: Context, courses: string[] | null, pasted: Of<'base_string'>): Promise<Part> {
  const { address, parameters } = pasted
  const { entry, differences, registrationId, request } = await besideOurs(context, courses, { address, parameters })
  const held = holderOf(await heldSecrets(context, courses), parameters, registrationId)
  const beside = request && baseStringBeside(request, pasted.text)
  return {
    ...NOTHING,
    what: !beside
      ? 'A signature base string. No message of ours that is still kept carries its nonce, so there is nothing to hold it against.'
      : beside.isSame
        ? 'A signature base string. It is that of what was sent, letter by letter: where the signature differs all the same, key or hash do.'
        : `A signature base string. It differs from that of what was sent, first at character ${beside.at}: that is why the signatures differ.`,
    tool: held ? await toolRef(context, held.registrationId) : null,
    parts: [
      {
        title: 'Message',
        rows: [
          ['method', pasted.method],
          ['address', address],
        ],
      },
      { title: 'Parameters', rows: maskParameters(parameters) },
    ],
    entry,
    differences: [...differences, ...(beside?.differences ?? [])],
    diagnosis:
      held && request && beside && !beside.isSame
        ? withLetter(
            context,
            await context.workers.diagnoseBaseString({
              request,
              theirs: pasted.text,
              held,
              previous: [],
              others: [],
              hosts: [],
            }),
            {
              tool: held.label,
              what: 'a base string was looked at',
              at: null,
              reference: entry ? `wire entry ${entry.id}` : null,
            },
          )
        : null,
  }
}

/** Signs of a base string that are shown around the place where two differ. */
const SHOWN_AROUND = 40

/** A base string, letter by letter, beside the one that we come to. */
function baseStringBeside(request: SignedRequest, theirs: string) {
  const ours = signatureBaseString(request)
  if (ours === theirs) return { isSame: true, at: 0, differences: [] }
  let at = 0
  while (at < ours.length && ours[at] === theirs[at]) at++
  const around = (text: string) =>
    `${at > SHOWN_AROUND ? '…' : ''}${text.slice(Math.max(0, at - SHOWN_AROUND), at + SHOWN_AROUND)}`
  const part = `base string, at character ${at + 1}`
  return { isSame: false, at: at + 1, differences: [{ part, theirs: around(theirs), ours: around(ours) }] }
}

async function explainForm(context: Context, courses: string[] | null, pasted: Of<'form'>): Promise<Part> {
  const { address, parameters } = pasted
  const { registrationId, request: _, ...beside } = await besideOurs(context, courses, pasted)
  const known = await heldSecrets(context, courses)
  const held = holderOf(known, parameters, registrationId)
  const part: Part = {
    ...NOTHING,
    ...beside,
    what: 'A signed form post.',
    tool: held ? await toolRef(context, held.registrationId) : null,
    parts: [{ title: 'Parameters', rows: maskParameters(parameters) }],
  }
  const oauth = readOAuthParameters(parameters)
  if (oauth instanceof Problem)
    return { ...part, what: `A form post that is not signed as it must be: ${oauth.code} (${oauth.detail}).` }
  if (!held)
    return {
      ...part,
      what: `A signed form post with the key “${oauth.consumerKey.slice(0, 80)}”, which is no registration’s here.`,
    }
  const url = address ?? (await context.records.tools.byId(held.registrationId)).launchUrl
  if (!url || !splitAddress(url))
    return { ...part, what: 'A signed form post. Say the address that it was sent to, for that is signed, too.' }
  const about = {
    tool: held.label,
    what: 'a form post was looked at',
    at: null,
    reference: beside.entry ? `wire entry ${beside.entry.id}` : null,
  }
  const windowSeconds = context.settings.clockToleranceSeconds
  const request = { method: 'POST', url, parameters: parameters.filter(([name]) => name !== 'oauth_signature') }
  const problem = verifyRequest(request, oauth, {
    sharedSecret: held.sharedSecret,
    signatureMethod: oauth.signatureMethod,
    nowSeconds: oauth.timestampSeconds,
    windowSeconds,
  })
  if (!problem) {
    // Judged by when it came, where that is known; when it was pasted says nothing. Its unit can be told by itself.
    const sent = oauth.timestampSeconds
    const came = beside.entry ? secondsOf(new Date(beside.entry.at)) : isInMilliseconds(sent) ? sent / 1000 : undefined
    const late = came !== undefined && Math.abs(sent - came) > windowSeconds
    return {
      ...part,
      what: `A form post that is signed rightly by the secret of ${held.label}, for ${url}.`,
      ...(late && {
        diagnosis: withLetter(context, diagnoseClock({ sent, nowSeconds: came, windowSeconds }), about),
      }),
    }
  }
  const found = await context.workers.diagnoseSignature({
    request,
    signature: oauth.signature,
    signatureMethod: oauth.signatureMethod,
    held,
    previous: await otherSecretsOf(context, held.registrationId),
    others: known.filter((one) => one.registrationId !== held.registrationId),
    hosts: otherHosts(context, undefined),
  })
  return {
    ...part,
    what: `A form post whose signature is not that of ${held.label} for ${url}.`,
    diagnosis: withLetter(context, found, about),
  }
}

/** The registration whose key a message names; of several with the same key the one that it was sent for, if that is known. */
function holderOf<T extends { registrationId: string; consumerKey: string }>(
  known: readonly T[],
  parameters: readonly Parameter[],
  registrationId: string | null,
): T | undefined {
  const key = parameters.find(([name]) => name === 'oauth_consumer_key')?.[1]
  const holders = known.filter((one) => one.consumerKey === key)
  return holders.find((one) => one.registrationId === registrationId) ?? holders[0]
}

/** The message of ours with the same nonce, if it is still kept. */
type Beside = Pick<ExplainedMessage, 'entry' | 'differences'> & {
  registrationId: string | null
  request: SignedRequest | undefined
}

/** In seconds such a moment is thousands of years away. */
const isInMilliseconds = (timestamp: number) => timestamp > 1e11
const secondsOf = (at: Date) => Math.floor(at.getTime() / 1000)

/** What we sent under the same nonce, and where the other end’s form differs from it. */
async function besideOurs(
  context: Context,
  courses: string[] | null,
  theirs: { address: string | null; parameters: readonly Parameter[] },
): Promise<Beside> {
  const nonce = theirs.parameters.find(([name]) => name === 'oauth_nonce')?.[1] ?? ''
  const sent =
    nonce.length >= SHORTEST_NONCE ? await context.records.diagnoses.sentWithNonce(nonce, courses) : undefined
  if (!sent) return { entry: null, differences: [], registrationId: null, request: undefined }
  return {
    registrationId: sent.registrationId,
    request: {
      method: sent.request.method ?? 'POST',
      url: sent.request.url,
      parameters: (sent.request.parameters ?? []).filter(([name]) => name !== 'oauth_signature'),
    },
    entry: { id: sent.id, at: sent.at.toISOString() },
    differences: compareMessages(theirs, { address: sent.request.url, parameters: withQuery(sent.request) }),
  }
}

function withQuery({ url, parameters }: { url: string; parameters?: [string, string][] }): Parameter[] {
  return [...new URL(url).searchParams, ...(parameters ?? [])]
}

async function toolRef({ records }: Context, id: string): Promise<ExplainedMessage['tool']> {
  const { slug, name, state } = await records.tools.byId(id)
  return { id, slug, name, state }
}

function rowsOf(value: Readonly<Record<string, unknown>>): [string, string][] {
  return Object.entries(value)
    .slice(0, 200)
    .map(([name, one]) => [name.slice(0, 300), (typeof one === 'string' ? one : JSON.stringify(one)).slice(0, 2000)])
}
