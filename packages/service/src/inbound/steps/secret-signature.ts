import { Refusal } from '@bathyscribe/contract'
import type { OAuthProblem } from '@bathyscribe/core/oauth1'
import type { Context } from '../../desk/context.js'
import { promoteSecret } from '../../desk/tools/secrets.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'

/** A registration of LTI 1.1, as far as its signatures go. */
export type Signer = Pick<RegistrationRecord, 'id' | 'name' | 'consumerKey' | 'secretSealed' | 'signatureMethod'>

/**
 * Verifies a signature by the secrets that a tool may sign with now: its own, one that is on its way out, one that is on its way in; the first message by the
 * last is how the tool says that it has it.
 * @param verifyBy checks the signature by one secret
 */
export async function verifiedBySecret(
  context: Context,
  signer: Signer,
  verifyBy: (sharedSecret: string) => OAuthProblem | undefined,
): Promise<{ signedBy: Signer } | Refusal> {
  if (!signer.secretSealed) return new Refusal('tool.secret_missing', signer.name)
  const now = context.clock.now()
  const problemOf = (sealed: Buffer) => verifyBy(context.keys.unseal(sealed, signer.id))
  const problem = problemOf(signer.secretSealed)
  if (!problem) {
    context.keyUses.note(signer.id, signer.secretSealed, now)
    return { signedBy: signer }
  }
  const refusal = Refusal.of(problem)
  if (problem.code !== 'oauth.signature_mismatch') return refusal
  const { current, others } = await context.statements.findSecrets(signer.id)
  for (const other of others) {
    if (problemOf(other.sealed)) continue
    context.keyUses.note(signer.id, other.sealed, now)
    if (other.role === 'next') await promoteSecret(context, signer.id, other)
    return { signedBy: signer }
  }
  // The secret may have changed hands between our two readings.
  return current && !current.equals(signer.secretSealed) && !problemOf(current) ? { signedBy: signer } : refusal
}
