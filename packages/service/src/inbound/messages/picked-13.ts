import { Problem } from '@bathyscribe/core/result'
import { Refusal } from '@bathyscribe/contract'
import { DEEP_LINKING_MAX_CHARACTERS, readDeepLinkingAnswer, readJws } from '@bathyscribe/core/lti13'
import type { Context } from '../../desk/context.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import { kidKey } from '../../records/statements/key-use.js'
import { leewaySeconds, tokenNonce } from '../steps/freshness.js'
import { verifiedByKeyset } from '../steps/keyset-signature.js'
import { saidIn, type Answer, type OfPicking } from './picked-answer.js'

/** Deep Linking 2.0: one token, signed by the tool's own key. */
export async function itemsInToken(context: Context, { tool, picking, fields }: OfPicking): Promise<Answer | Refusal> {
  const { settings, clock, records, keyUses } = context
  const token = fields.find(([name]) => name === 'JWT')?.[1]
  if (!token) return new Refusal('picker.unsigned', 'JWT')
  const jws = readJws(token, DEEP_LINKING_MAX_CHARACTERS)
  if (jws instanceof Problem) return Refusal.of(jws)
  const refusal = await verifiedByKeyset(context, tool, jws)
  if (refusal) return refusal
  keyUses.note(tool.id, kidKey(jws.keyId), clock.now())
  const answer = readDeepLinkingAnswer(jws.claims, {
    clientId: tool.clientId ?? '',
    issuer: settings.publicUrl,
    deploymentId: (await records.tools.deploymentFor(tool.id, picking.courseId)) ?? '',
    nowSeconds: Math.floor(clock.now().getTime() / 1000),
    leewaySeconds: leewaySeconds(context),
  })
  if (answer instanceof Problem) return (await underAnother(context, tool, jws.claims['iss'])) ?? Refusal.of(answer)
  return {
    ...answer,
    ...saidIn(answer.errorMessage, answer.errorLog, answer.message),
    nonce: tokenNonce(context, `picked ${answer.nonce}`, answer.expiresSeconds),
  }
}

/** A tool that is registered twice answers under one client ID for both: then it is that which is wrong. */
async function underAnother(context: Context, tool: RegistrationRecord, iss: unknown): Promise<Refusal | undefined> {
  if (typeof iss !== 'string' || iss === tool.clientId) return undefined
  const other = await context.records.tools.byClientId(iss.slice(0, 200))
  return other === null
    ? undefined
    : new Refusal('picker.other_registration', `“${other.name}” (${other.slug}) instead of “${tool.name}”`)
}
