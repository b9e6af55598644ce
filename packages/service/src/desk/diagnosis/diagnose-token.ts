import { tokenParts } from '@bathyscribe/core/diagnosis'
import type { Context } from '../context.js'
import { mayDiagnose } from './diagnose-signed.js'
import { tokenFacts, type SeenToken } from './token-facts.js'

/** A token that was refused, as what it was sent, and by whom as far as that is known. */
export interface RefusedToken {
  token: string
  kind: NonNullable<SeenToken['kind']>
  /** The registration that the message belongs to, or that it names. */
  registrationId: string | null
  courseId: string | null
  /** That it had to come from that registration. */
  isAsked: boolean
}

/** Keeps with a wire entry what is wrong with its token, as far as the brake lets it be looked for. Where nothing is found, nothing is kept. */
export async function explainToken(
  context: Context,
  wireEntryId: string,
  { token, kind, registrationId, courseId, isAsked }: RefusedToken,
): Promise<void> {
  const parts = tokenParts(token)
  if (!parts || !mayDiagnose(context, registrationId ?? 'nobody')) return
  const of = registrationId === null ? {} : isAsked ? { askedId: registrationId } : { namedId: registrationId }
  const seen = { ...parts, token, kind, at: context.clock.now(), ...of }
  // Whoever may see the entry may see what it says of others. Without a course administrators alone may.
  const { facts } = await tokenFacts(context, courseId === null ? null : [courseId], seen)
  const found = await context.workers.diagnoseToken(facts)
  if (found.causes.length > 0) await context.records.diagnoses.keep(wireEntryId, found)
}
