import { z } from 'zod'
import { line, Moment, prose } from './common.js'

const KeyUse = { uses: z.int(), lastUsedAt: Moment.nullable() }

/** A key of one registration and its use, so that one knows when it may go. */
export const ToolKeys = z.object({
  secrets: z.array(
    z.object({
      id: z.string(),
      role: z.enum(['current', 'next', 'previous']),
      setAt: Moment,
      endsAt: Moment.nullable(),
      ...KeyUse,
    }),
  ),
  keyset: z
    .object({
      address: z.string().nullable(),
      readAt: Moment.nullable(),
      reads: z.int(),
      failure: z.string().nullable(),
      keys: z.array(z.object({ kid: z.string(), bits: z.int(), ...KeyUse })),
    })
    .nullable()
    .describe('of LTI 1.3'),
})
export type ToolKeys = z.infer<typeof ToolKeys>

export const SecretRotation = z.strictObject({
  sharedSecret: prose(255).min(1).optional().describe('as the tool shows it; one is made unless given'),
  acceptBlanks: z.boolean().default(false),
  overlapHours: z
    .int()
    .min(0)
    .max(24 * 90)
    .default(72)
    .describe('how long the old one is still taken; hours, 0 to 2160'),
  launchesWith: z
    .enum(['new', 'old'])
    .default('new')
    .describe('which one launches are signed with; old: until the tool first uses the new one'),
})
export const SecretRotated = z.object({
  sharedSecret: z.string().nullable().describe('shown this once, when it was made here'),
  keys: ToolKeys,
})

export const PlatformKeys = z.object({
  keysetAddress: z.string(),
  keys: z.array(
    z.object({
      kid: z.string(),
      state: z.enum(['next', 'current', 'previous']),
      madeAt: Moment,
      currentSince: Moment.nullable(),
      endsAt: Moment.nullable(),
      ...KeyUse,
    }),
  ),
})
export const KeyRotation = z.strictObject({ reason: line(300).default('') })
