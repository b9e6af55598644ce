import { Refusal } from '@bathyscribe/contract'
import type { OfficeRow } from '../../records/handed-on.js'
import type { Context } from '../context.js'

const SCOPE = 'https://purl.imsglobal.org/spec/or/v1p2/scope/gradebook.createput'
const BASE = '/ims/oneroster/gradebook/v1p2'
/** A token is asked for anew this long before it ends. */
const EARLY_MS = 15_000

/** What the office made of one entry. */
export type PutAnswer = { state: 'accepted' } | { state: 'refused' | 'waiting'; answer: string }

/** Asks for a token (RFC 6749 section 4.4, client credentials by Basic). @throws Refusal `office.*`, `outgoing.*` */
export async function officeToken(
  { outgoing, clock }: Pick<Context, 'outgoing' | 'clock'>,
  office: Pick<OfficeRow, 'tokenUrl' | 'clientId'>,
  secret: string,
): Promise<{ token: string; goodUntil: number }> {
  const answer = await outgoing.send({
    method: 'POST',
    url: new URL(office.tokenUrl),
    headers: {
      'content-type': 'application/x-www-form-urlencoded',
      accept: 'application/json',
      authorization: `Basic ${Buffer.from(`${encodeURIComponent(office.clientId)}:${encodeURIComponent(secret)}`).toString('base64')}`,
    },
    body: String(new URLSearchParams({ grant_type: 'client_credentials', scope: SCOPE })),
  })
  const body = parse(answer.body)
  const token = body?.['access_token']
  if (answer.status !== 200 || typeof token !== 'string' || token === '')
    throw new Refusal(
      answer.status >= 500 ? 'office.away' : 'office.no_token',
      `${answer.status}${typeof body?.['error'] === 'string' ? ` ${body['error'].slice(0, 80)}` : ''}`,
    )
  const seconds = typeof body?.['expires_in'] === 'number' ? body['expires_in'] : 300
  return { token, goodUntil: clock.now().getTime() + seconds * 1000 - EARLY_MS }
}

/** Puts entries at the office, by OneRoster 1.2 REST (Gradebook service). One for each office, so that tokens are asked for rarely. */
export function createOfficeClient(context: Pick<Context, 'outgoing' | 'clock'>, office: OfficeRow, secret: string) {
  let held: { token: string; goodUntil: number } | undefined
  async function token(): Promise<string> {
    if (!held || held.goodUntil <= context.clock.now().getTime()) held = await officeToken(context, office, secret)
    return held.token
  }
  return {
    async put(kind: string, plural: string, id: string, entry: Record<string, unknown>): Promise<PutAnswer> {
      try {
        const answer = await context.outgoing.send({
          method: 'PUT',
          url: new URL(`${office.url}${BASE}/${plural}/${encodeURIComponent(id)}`),
          headers: {
            'content-type': 'application/json',
            accept: 'application/json',
            authorization: `Bearer ${await token()}`,
          },
          body: JSON.stringify({ [kind]: entry }),
        })
        if (answer.status >= 200 && answer.status < 300) return { state: 'accepted' }
        const said = parse(answer.body)?.['imsx_description']
        const text = `${answer.status}${typeof said === 'string' ? `: ${said.slice(0, 300)}` : ''}`
        if (answer.status === 401) held = undefined
        // What may go away by itself is tried again; the rest needs somebody.
        return {
          state: [401, 408, 425, 429].includes(answer.status) || answer.status >= 500 ? 'waiting' : 'refused',
          answer: text,
        }
      } catch (error) {
        if (!(error instanceof Refusal)) throw error
        return {
          state: 'waiting',
          answer: `${error.toProblem().title}${error.detail ? ` (${error.detail.slice(0, 200)})` : ''}`,
        }
      }
    },
  }
}
export type OfficeClient = ReturnType<typeof createOfficeClient>

function parse(text: string): Record<string, unknown> | undefined {
  try {
    const value: unknown = JSON.parse(text)
    return typeof value === 'object' && value !== null ? (value as Record<string, unknown>) : undefined
  } catch {
    return undefined
  }
}
