import { isOurs, kindOfToken, type TokenFacts, type TokenKeys, type TokenKind } from '@bathyscribe/core/diagnosis'
import type { Claims, PublicKey } from '@bathyscribe/core/lti13'
import type { Context } from '../context.js'
import { tokenUrl } from '../platform/addresses.js'
import { tokenTools } from './known.js'

/** Keys of others that are tried. */
const MOST_OTHERS = 200
/** What this platform is called where keys are told apart. */
const PLATFORM = 'this platform'

/** A token as far as it can be read, and how it came. */
export interface SeenToken {
  header: Claims
  claims: Claims
  token: string
  /** What it was sent as; undefined for what its claims say. */
  kind?: TokenKind
  /** The tool that it had to come from, and the one that it is taken to be of where it names several. */
  askedId?: string
  namedId?: string
  /** When it came; null when that is not known. */
  at: Date | null
}

type Tool = Awaited<ReturnType<typeof tokenTools>>[number]

/** All that is known around a token, and the tool that it names or had to come from. @param courseIds of whoever is told; null for all */
export async function tokenFacts(
  context: Context,
  courseIds: string[] | null,
  seen: SeenToken,
): Promise<{ facts: TokenFacts; tool: Tool | undefined }> {
  const { settings, records } = context
  const { header, claims, token, askedId, namedId, at } = seen
  const places = { issuer: settings.publicUrl, tokenUrl: tokenUrl(settings) }
  const kind = seen.kind ?? kindOfToken(claims, places)
  const tools = await tokenTools(context, courseIds)
  const named = [claims['iss'], claims['sub'], claims['aud']].flat()
  const asked = askedId === undefined ? undefined : tools.find(({ id }) => id === askedId)
  const tool = asked ?? tools.find(({ id }) => id === namedId) ?? tools.find(({ clientId }) => named.includes(clientId))
  const ours = isOurs({ kind })
  const facts: TokenFacts = {
    ...places,
    kind,
    header,
    claims,
    token,
    nowSeconds: at && Math.floor(at.getTime() / 1000),
    leewaySeconds: Math.min(60, settings.clockToleranceSeconds),
    earlierIssuers: await records.ownAddresses.earlier(settings.publicUrl),
    tools: tools.map(({ label, clientId, deployments }) => ({ label, clientId, deployments })),
    asked: asked ?? null,
    keys: ours ? await platformKeys(context) : tool ? await toolKeys(context, tool) : null,
    others: await othersKeys(context, courseIds, ours ? null : (tool?.id ?? '')),
  }
  return { facts, tool }
}

async function platformKeys({ keyring, records }: Context): Promise<TokenKeys> {
  const now = await keyring.published()
  return { owner: PLATFORM, now, before: notAmong(now, await records.publishedKeys.of(null)), readAt: null }
}

/** As they were read last: explaining asks no tool anything. Where nothing was ever read, nothing can be said of keys. */
async function toolKeys({ records }: Context, { id, label }: Tool): Promise<TokenKeys | null> {
  const registration = await records.tools.byId(id)
  const kept = await records.secrets.keyset(id)
  const now = registration.publicKeys?.length ? registration.publicKeys : (kept?.keys ?? [])
  const before = notAmong(now, await records.publishedKeys.of(id))
  if (now.length === 0 && before.length === 0) return null
  return { owner: label, now, before, readAt: kept?.readAt.toISOString() ?? null }
}

function notAmong(now: readonly PublicKey[], all: readonly { key: PublicKey; lastAt: Date }[]) {
  return all.flatMap(({ key, lastAt }) =>
    now.some(({ n }) => n === key.n) ? [] : [{ key, until: lastAt.toISOString() }],
  )
}

/** @param registrationId whose keys are none of others; null for the platform’s own */
async function othersKeys({ records, keyring }: Context, courseIds: string[] | null, registrationId: string | null) {
  const kept = await records.publishedKeys.ofOthers(registrationId, courseIds, MOST_OTHERS)
  const ours = registrationId === null ? [] : await keyring.published()
  return [
    ...ours.map((key) => ({ key, owner: PLATFORM })),
    ...kept.map(({ key, name }) => ({ key, owner: name ?? PLATFORM })),
  ]
}
