import { Refusal, type SecretRotation, type ToolKeys } from '@bathyscribe/contract'
import { randomBytes } from 'node:crypto'
import type { z } from 'zod'
import { checkCredentials } from './fields.js'
import { bitsOf } from '../../keys/rsa.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { OtherSecret } from '../../records/secrets.js'
import { kidKey, secretKey } from '../../records/statements/key-use.js'
import { ownTool } from '../identity/access.js'
import { by, type Actor, type Context } from '../context.js'
import { refuseEnded, store } from './change-tool.js'

const HOUR_MS = 3600_000

/** Shows the shared secret. That it was shown, to whom and when stays in the audit log. */
export async function revealSecret(context: Context, actor: Actor, ref: string): Promise<string> {
  const tool = await ownTool(context.records, actor, ref)
  if (!tool.secretSealed) throw new Refusal('tool.secret_missing')
  const secret = context.keys.unseal(tool.secretSealed, tool.id)
  await context.records.audit.note({
    at: context.clock.now(),
    ...by(actor),
    action: 'show shared secret',
    subject: `tool ${tool.slug}`,
    courseId: tool.courseId,
  })
  return secret
}

/**
 * Brings in a new secret. Both are taken for the overlap, and the use of each is counted. Launches are signed with the new one at once, or with
 * the old one until the first message comes that is signed with the new one: then the tool has it.
 * @returns the new secret when it was made here, to be shown this once
 */
export async function rotateSecret(
  context: Context,
  actor: Actor,
  ref: string,
  wanted: z.output<typeof SecretRotation>,
): Promise<string | null> {
  const tool = await ownTool(context.records, actor, ref)
  refuseEnded(tool)
  if (!tool.secretSealed) throw new Refusal(tool.version === '1.3' ? 'tool.no_secret_in_1_3' : 'tool.secret_missing')
  checkCredentials(wanted)
  const made = wanted.sharedSecret === undefined
  const secret = wanted.sharedSecret ?? randomBytes(24).toString('base64url')
  if (context.keys.unseal(tool.secretSealed, tool.id) === secret) throw new Refusal('tool.secret_unchanged')
  const now = context.clock.now()
  const endsAt = new Date(now.getTime() + wanted.overlapHours * HOUR_MS)
  const sealed = context.keys.seal(secret, tool.id)
  const other: OtherSecret =
    wanted.launchesWith === 'new'
      ? { ...previousOf(context, tool, endsAt), setAt: tool.secretSetAt ?? now }
      : { id: context.ids.next(), registrationId: tool.id, sealed, role: 'next', setAt: now, endsAt }
  await store(
    context,
    actor,
    tool,
    tool.revision,
    { ...(wanted.launchesWith === 'new' && { secretSealed: sealed, secretSetAt: now }), updatedAt: now },
    'rotate secret',
    (records) => records.secrets.insertOther(other),
    { overlapHours: wanted.overlapHours, launchesWith: wanted.launchesWith, made },
  )
  return made ? secret : null
}

function previousOf(context: Context, tool: Pick<RegistrationRecord, 'id' | 'secretSealed'>, endsAt: Date) {
  return {
    id: context.ids.next(),
    registrationId: tool.id,
    sealed: tool.secretSealed!,
    role: 'previous' as const,
    endsAt,
  }
}

/** A message came that was signed with the next secret, so the tool has it: from now on launches are signed with it, too. */
export async function promoteSecret(context: Context, registrationId: string, next: OtherSecret): Promise<void> {
  const tool = await context.records.tools.byId(registrationId)
  const now = context.clock.now()
  const previous = { ...previousOf(context, tool, next.endsAt ?? now), setAt: tool.secretSetAt ?? now }
  await store(
    context,
    null,
    tool,
    tool.revision,
    { secretSealed: next.sealed, secretSetAt: next.setAt, updatedAt: now },
    'go on to the next secret',
    async (records) => {
      // Only one of several that saw the first message does this.
      if (!(await records.secrets.removeOther(registrationId, next.id))) throw new Refusal('record.changed_meanwhile')
      await records.secrets.insertOther(previous)
    },
  ).catch((error: unknown) => {
    if (!(error instanceof Refusal)) throw error
  })
}

/** Ends a secret beside the current one before its time. @throws Refusal */
export async function endSecret(context: Context, actor: Actor, ref: string, id: string): Promise<void> {
  const tool = await ownTool(context.records, actor, ref)
  await context.records.transaction(async (records) => {
    if (!(await records.secrets.removeOther(tool.id, id))) throw new Refusal('tool.secret_not_found', id)
    await records.audit.add({
      at: context.clock.now(),
      ...by(actor),
      action: 'end secret',
      subject: `tool ${tool.slug}`,
      courseId: tool.courseId,
    })
  })
  context.changes.publish({ kind: 'tool', courseId: tool.courseId })
}

/** Every key of a registration with its use. */
export async function toolKeys(context: Context, tool: RegistrationRecord): Promise<ToolKeys> {
  const { secrets } = context.records
  const [others, uses, keyset] = await Promise.all([
    secrets.others(tool.id, context.clock.now()),
    secrets.uses(tool.id),
    secrets.keyset(tool.id),
  ])
  const useOf = (key: string) => {
    const use = uses.find((one) => one.key === key)
    return { uses: use?.uses ?? 0, lastUsedAt: use?.lastAt.toISOString() ?? null }
  }
  const keys = tool.publicKeys ?? (keyset && keyset.url === tool.keysetUrl ? (keyset.keys ?? []) : [])
  return {
    secrets: [
      ...(tool.secretSealed && tool.secretSetAt
        ? [
            {
              id: 'current',
              role: 'current' as const,
              setAt: tool.secretSetAt.toISOString(),
              endsAt: null,
              ...useOf(secretKey(tool.secretSealed)),
            },
          ]
        : []),
      ...others.map((one) => ({
        id: one.id,
        role: one.role,
        setAt: one.setAt.toISOString(),
        endsAt: one.role === 'next' ? null : (one.endsAt?.toISOString() ?? null),
        ...useOf(secretKey(one.sealed)),
      })),
    ],
    keyset:
      tool.version === '1.3'
        ? {
            address: tool.keysetUrl,
            readAt: keyset?.readAt.toISOString() ?? null,
            reads: keyset?.reads ?? 0,
            failure: keyset?.failure ?? null,
            keys: keys.map((key) => ({ kid: key.kid, bits: bitsOf(key), ...useOf(kidKey(key.kid)) })),
          }
        : null,
  }
}
