import { z } from 'zod'
import { Moment } from './common.js'

export const DIGEST_EVERY = ['never', 'day', 'week'] as const

/** How often a person is mailed what needs them, and how that went. */
export const MailDigest = z.object({
  /** Whether this service sends mail at all. */
  on: z.boolean(),
  every: z.enum(DIGEST_EVERY),
  to: z.string().nullable(),
  nextAt: Moment.nullable(),
  sentAt: Moment.nullable(),
  /** What the mail server said at the last try, when it did not take it. */
  failure: z.string().nullable(),
})
export type MailDigest = z.infer<typeof MailDigest>

export const MailDigestChange = z.strictObject({ every: z.enum(DIGEST_EVERY) })
export type MailDigestChange = z.infer<typeof MailDigestChange>
