import {
  concluded,
  diagnoseBodyHash,
  diagnoseClock,
  diagnoseConsumerKey,
  Proof,
  type Diagnosis,
} from '@bathyscribe/core/diagnosis'
import type { OAuthParameters, Parameter } from '@bathyscribe/core/oauth1'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { Context } from '../context.js'
import { heldSecrets, otherHosts, otherSecretsOf } from './known.js'

/** A message signed by OAuth that was refused, and the registration that it belongs to or names. */
export interface RefusedCall {
  code: string
  url: string
  host: string | undefined
  /** What a body hash is of; empty for forms. */
  body: Uint8Array
  parameters: readonly Parameter[]
  oauth: OAuthParameters
  signer: Signer | undefined
  /** Of its entry: whoever may see that may see what is said of others. Null: administrators alone. */
  courseId: string | null
}
export type Signer = Pick<RegistrationRecord, 'id' | 'name' | 'consumerKey' | 'secretSealed'>

const MINUTE_MS = 60_000
/** Of it a tool's other messages say whether its clock is right. */
const HOUR_MS = 60 * MINUTE_MS
const KEY_REFUSED: readonly string[] = ['oauth.key_unknown', 'oauth.key_of_another_tool', 'picker.key_unknown']
/** Finding a cause costs more than a refusal, and anybody who has seen a key can have calls refused: the first ones of a minute tell as much as all of them. */
const MOST_A_MINUTE = 30

/** Whether the cause of one more refusal of a registration may be looked for now. A brake of this process, no count of anything. */
export function mayDiagnose({ clock, memory }: Pick<Context, 'clock' | 'memory'>, registrationId: string): boolean {
  const now = clock.now().getTime()
  const before = memory.explained.get(registrationId)
  if (before && now - before.since < MINUTE_MS && now >= before.since) return ++before.count <= MOST_A_MINUTE
  memory.explained.set(registrationId, { since: now, count: 1 })
  return true
}

/** Keeps with a wire entry why its signature was refused, as far as the brake lets it be looked for. Refusals that explain themselves are left alone. */
export async function explainSigned(context: Context, wireEntryId: string, call: RefusedCall): Promise<void> {
  if (!mayDiagnose(context, call.signer?.id ?? 'nobody')) return
  const found = await diagnoseSigned(context, wireEntryId, call)
  if (found) await context.records.diagnoses.keep(wireEntryId, found)
}

async function diagnoseSigned(
  context: Context,
  wireEntryId: string,
  call: RefusedCall,
): Promise<Diagnosis | undefined> {
  const { oauth, signer, courseId } = call
  const now = context.clock.now()
  const courses = courseId === null ? null : [courseId]
  if (KEY_REFUSED.includes(call.code)) {
    const known = await heldSecrets(context, courses)
    return diagnoseConsumerKey({
      given: oauth.consumerKey,
      expected: known.find((one) => one.registrationId === signer?.id) ?? null,
      others: known.filter((one) => one.registrationId !== signer?.id),
    })
  }
  if (!signer?.secretSealed) return undefined
  const sharedSecret = context.keys.unseal(signer.secretSealed, signer.id)
  switch (call.code) {
    case 'oauth.timestamp_outside_window':
      return diagnoseClock({
        sent: oauth.timestampSeconds,
        nowSeconds: Math.floor(now.getTime() / 1000),
        windowSeconds: context.settings.clockToleranceSeconds,
        others: await context.records.diagnoses.clockOffsets(signer.id, new Date(now.getTime() - HOUR_MS), wireEntryId),
      })
    case 'oauth.body_hash_mismatch':
      return diagnoseBodyHash({
        body: call.body,
        sent: oauth.bodyHash!,
        signatureMethod: oauth.signatureMethod,
        sharedSecret,
      })
    case 'oauth.signature_mismatch':
      return context.workers.diagnoseSignature({
        request: { method: 'POST', url: call.url, parameters: call.parameters },
        signature: oauth.signature,
        signatureMethod: oauth.signatureMethod,
        held: { label: signer.name, consumerKey: signer.consumerKey ?? '', sharedSecret },
        previous: await otherSecretsOf(context, signer.id),
        others: (await heldSecrets(context, courses)).filter((one) => one.registrationId !== signer.id),
        hosts: otherHosts(context, call.host),
      })
    case 'oauth.nonce_used': {
      const since = new Date(now.getTime() - context.settings.nonceMinutes * MINUTE_MS)
      const seen = await context.records.diagnoses.nonceSeen(signer.id, oauth.nonce, since)
      if (!seen) return undefined
      return concluded(
        [
          {
            code: 'nonce_seen',
            sentence: 'The nonce came before: this message was sent again, or another one was given the same nonce.',
            evidence: [
              ['nonce', oauth.nonce.slice(0, 80)],
              ['first seen', `${seen.at.toISOString()}, wire entry ${seen.id}: ${seen.statement}`],
            ],
            ours: 'Read the entry of the first one: if it was accepted, nothing is lost.',
            theirs: 'Make a new nonce and timestamp for each message, also when one is sent again.',
            proof: Proof.byComparing(oauth.nonce, seen.nonce ?? ''),
          },
        ],
        [],
        '',
      )
    }
    default:
      return undefined
  }
}
