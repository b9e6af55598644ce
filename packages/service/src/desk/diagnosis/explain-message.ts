import type { ExplainedMessage, ExplainedOne, PastedMessage } from '@bathyscribe/contract'
import { readAllPasted, type Pasted, type TokenKind } from '@bathyscribe/core/diagnosis'
import { signatureBaseString, type SignedRequest } from '@bathyscribe/core/oauth1'
import type { z } from 'zod'
import { maskParameters } from '../../wire/mask.js'
import type { Actor, Context } from '../context.js'
import { requireTeaching } from '../identity/access.js'
import { besideOurs, SHORTEST_NONCE } from './beside-ours.js'
import { explainForm } from './explain-form.js'
import { LOOKED_AT, withLetter } from './explained-entry.js'
import { heldSecrets } from './known.js'
import { holdersOf, NOTHING, toolRef, type Of, type Part } from './message-part.js'
import { tokenFacts } from './token-facts.js'

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
  const [first, ...also] = await Promise.all(
    readAllPasted(text).map((pasted) => explained(context, courses, pasted, address)),
  )
  return { ...first!, also }
}

async function explained(
  context: Context,
  courses: string[] | null,
  pasted: Pasted,
  address: string | undefined,
): Promise<ExplainedOne> {
  if (pasted.kind === 'unreadable') return { ...NOTHING, kind: pasted.kind, what: pasted.why, takenFor: '' }
  return { kind: pasted.kind, takenFor: pasted.takenFor, ...(await partOf(context, courses, pasted, address)) }
}

function partOf(
  context: Context,
  courses: string[] | null,
  pasted: Exclude<Pasted, { kind: 'unreadable' }>,
  address: string | undefined,
): Promise<Part> {
  switch (pasted.kind) {
    case 'token':
      return explainToken(context, courses, pasted)
    case 'base_string':
      return explainBaseString(context, courses, pasted)
    case 'form':
      return explainForm(context, courses, { ...pasted, address: address || pasted.address })
  }
}

async function explainToken(context: Context, courses: string[] | null, pasted: Of<'token'>): Promise<Part> {
  const { header, claims, token } = pasted
  const entry =
    typeof claims['nonce'] === 'string' && claims['nonce'].length >= SHORTEST_NONCE
      ? await context.records.diagnoses.withNonce(claims['nonce'], courses)
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
    ].filter(({ rows }) => rows.length > 0),
    entry: entry ? { id: entry.id, at: entry.at.toISOString(), direction: entry.direction } : null,
    diagnosis: await withLetter(context, await context.workers.diagnoseToken(facts), {
      tool: tool?.label ?? null,
      kind: 'token',
      what: LOOKED_AT.token,
      at: null,
      reference: null,
    }),
  }
}

async function explainBaseString(context: Context, courses: string[] | null, pasted: Of<'base_string'>): Promise<Part> {
  const { address, parameters } = pasted
  const { entry, differences, registrationId, request } = await besideOurs(context, courses, {
    address,
    parameters,
  })
  const key = parameters.find(([name]) => name === 'oauth_consumer_key')?.[1]
  const [held] = holdersOf(await heldSecrets(context, courses), key, registrationId)
  const crossed = entry?.direction === 'received' ? 'came' : 'was sent'
  const beside = request && baseStringBeside(request, pasted.text)
  return {
    ...NOTHING,
    what: !beside
      ? 'A signature base string. No message that is still kept carries its nonce, so there is nothing to hold it against.'
      : beside.isSame
        ? `A signature base string. It is exactly that of what ${crossed}: if the signature still differs, the key or the hash does.`
        : `A signature base string. It differs from that of what ${crossed}, first at character ${beside.at}: that is why the signatures differ.`,
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
        ? await withLetter(
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
              kind: 'message',
              what: LOOKED_AT.base_string,
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

function rowsOf(value: Readonly<Record<string, unknown>>): [string, string][] {
  return Object.entries(value)
    .slice(0, 200)
    .map(([name, one]) => [name.slice(0, 300), (typeof one === 'string' ? one : JSON.stringify(one)).slice(0, 2000)])
}
