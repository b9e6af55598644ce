import { compareMessages } from '@bathyscribe/core/diagnosis'
import type { Parameter } from '@bathyscribe/core/oauth1'
import type { Actor, Context } from '../context.js'
import type { WireDetailRow, WireRecords } from '../../records/wire.js'
import { visibleEntry } from './visible-entry.js'

/** Of every message another, so that they say nothing of what has changed. */
const ALWAYS_OTHERS = /^(oauth_(nonce|timestamp|signature|body_hash)|nonce|iat|exp|jti|state|login_hint|lti_message_hint|id_token|imsx_messageIdentifier|launch_presentation_return_url|.*launch_presentation\.return_url)$/ // oxfmt-ignore
const MOST = 200
const XML_LEAF = /<(?:\w+:)?(\w+)(?:\s[^>]*)?>([^<]*)<\/(?:\w+:)?\1>/g

/** The last good message of the same kind, what is other than in it, and what was changed here in between. */
export interface WireDifference {
  good: WireDetailRow | null
  /** What a part said then and says now; at most 200. */
  differences: { part: string; then: string; now: string }[]
  changes: Awaited<ReturnType<WireRecords['changesBetween']>>
}

type Request = { url: string; parameters?: Parameter[]; body?: string }

/** How a message differs from the last good one of its kind, for the same link and, where there is one, the same person. @throws Refusal `wire.not_found` */
export async function wireDifference(context: Context, actor: Actor, id: string): Promise<WireDifference> {
  const { records } = context
  const { entry } = await visibleEntry(context, actor, id)
  const goodId = await records.wire.lastGoodBefore(id)
  if (goodId === undefined) return { good: null, differences: [], changes: [] }
  const good = await records.wire.show(goodId)
  const [then, now] = [partsOf(good.request), partsOf(entry.request)]
  const differences = compareMessages(
    { address: good.request.url, parameters: then },
    { address: entry.request.url, parameters: now },
  )
  return {
    good,
    changes: await records.wire.changesBetween(good.id, id),
    differences: differences.slice(0, MOST).map(({ part, theirs, ours }) => ({ part, then: theirs, now: ours })),
  }
}

/** Query, form and claims as one list; a body of another form as one part. */
function partsOf({ url, parameters = [], body }: Request): Parameter[] {
  const query = URL.canParse(url) ? [...new URL(url).searchParams] : []
  return [...query, ...parameters, ...bodyParts(body)].filter(([name]) => !ALWAYS_OTHERS.test(name))
}

function bodyParts(body: string | undefined): Parameter[] {
  if (!body) return []
  // Of an envelope what stands between its tags, by their names.
  if (body.trimStart().startsWith('<')) return [...body.matchAll(XML_LEAF)].map(([, name, value]) => [name!, value!])
  try {
    return flat(JSON.parse(body), '')
  } catch {
    return [['body', body]]
  }
}

function flat(value: unknown, name: string): Parameter[] {
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    return [[name || 'body', Array.isArray(value) ? value.map(text).join(' | ') : text(value)]]
  return Object.entries(value).flatMap(([key, one]) => flat(one, name ? `${name}.${key}` : key))
}

function text(value: unknown): string {
  return typeof value === 'string' ? value : JSON.stringify(value)
}
