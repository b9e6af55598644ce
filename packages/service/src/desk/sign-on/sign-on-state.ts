import { z } from 'zod'
import type { Context } from '../context.js'

const SEALED_FOR_COOKIE = 'sign-on that was begun'
/** How long somebody may take at the provider. */
export const BEGUN_MS = 10 * 60_000

const Begun = z.object({
  state: z.string(),
  nonce: z.string(),
  verifier: z.string(),
  providerId: z.string(),
  purpose: z.enum(['sign-in', 'confirm', 'tie']),
  next: z.string(),
  /** Of whoever confirms or ties. */
  sessionId: z.string().nullable(),
  at: z.number(),
})

/** A sign-on that was begun, kept sealed by the browser that began it, and nowhere else. */
export type Begun = z.infer<typeof Begun>

export const sealBegun = ({ keys }: Pick<Context, 'keys'>, begun: Begun): string =>
  keys.seal(JSON.stringify(begun), SEALED_FOR_COOKIE).toString('base64url')

/** @returns undefined for what is none of ours, is too old, or belongs to another answer */
export function openBegun(
  { keys, clock }: Pick<Context, 'keys' | 'clock'>,
  kept: string | undefined,
  state: string | null,
): Begun | undefined {
  if (kept === undefined || state === null || kept.length > 6000) return undefined
  let text: string
  try {
    text = keys.unseal(Buffer.from(kept, 'base64url'), SEALED_FOR_COOKIE)
  } catch {
    return undefined
  }
  const begun = Begun.parse(JSON.parse(text))
  const age = clock.now().getTime() - begun.at
  return begun.state === state && age >= 0 && age <= BEGUN_MS ? begun : undefined
}
