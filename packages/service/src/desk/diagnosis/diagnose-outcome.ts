import { concluded, diagnoseBodyHash, diagnoseClock, Proof, type Diagnosis } from '@bathyscribe/core/diagnosis'
import type { OAuthParameters, Parameter } from '@bathyscribe/core/oauth1'
import type { Context } from '../context.js'
import { heldSecrets, otherHosts, otherSecretsOf } from './known.js'

/** A signed call that was refused for its signature, and who seems to have signed it. */
export interface RefusedCall {
  code: string
  url: string
  host: string | undefined
  body: Uint8Array
  parameters: readonly Parameter[]
  oauth: OAuthParameters
  signer: { id: string; name: string; consumerKey: string; sharedSecret: string }
}

const MINUTE_MS = 60_000
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

/** Finds out why a call’s signature was refused, after it was answered. @returns undefined for refusals that explain themselves */
export async function diagnoseOutcome(context: Context, call: RefusedCall): Promise<Diagnosis | undefined> {
  const { oauth, signer } = call
  const now = context.clock.now()
  switch (call.code) {
    case 'oauth.timestamp_outside_window':
      return diagnoseClock({
        sent: oauth.timestampSeconds,
        nowSeconds: Math.floor(now.getTime() / 1000),
        windowSeconds: context.settings.clockToleranceSeconds,
      })
    case 'oauth.body_hash_mismatch':
      return diagnoseBodyHash({ body: call.body, sent: oauth.bodyHash!, signatureMethod: oauth.signatureMethod })
    case 'oauth.signature_mismatch':
      return context.workers.diagnoseSignature({
        request: { method: 'POST', url: call.url, parameters: call.parameters },
        signature: oauth.signature,
        signatureMethod: oauth.signatureMethod,
        held: { label: signer.name, consumerKey: signer.consumerKey, sharedSecret: signer.sharedSecret },
        previous: await otherSecretsOf(context, signer.id),
        others: (await heldSecrets(context, null)).filter((one) => one.registrationId !== signer.id),
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
