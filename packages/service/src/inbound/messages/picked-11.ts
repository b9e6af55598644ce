import { Problem } from '@bathyscribe/core/result'
import { Refusal } from '@bathyscribe/contract'
import { readContentItems } from '@bathyscribe/core/lti1'
import { readOAuthParameters, verifyRequest } from '@bathyscribe/core/oauth1'
import type { Context } from '../../desk/context.js'
import { pickedUrl } from '../../desk/pickers/picker-facts.js'
import { nonceOf } from '../steps/freshness.js'
import { verifiedBySecret } from '../steps/secret-signature.js'
import { saidIn, type Answer, type OfPicking } from './picked-answer.js'

/** Content-Item Message 1.0: a form signed like a launch. */
export async function signedItems(context: Context, { picking, tool, fields }: OfPicking): Promise<Answer | Refusal> {
  const { settings, clock } = context
  const now = clock.now()
  const value = (name: string) => fields.find(([one]) => one === name)?.[1] ?? ''
  if (value('oauth_signature') === '') return new Refusal('picker.unsigned', 'oauth_signature')
  const oauth = readOAuthParameters(fields)
  if (oauth instanceof Problem) return Refusal.of(oauth)
  if (oauth.consumerKey !== tool.consumerKey)
    return new Refusal('picker.key_unknown', `“${oauth.consumerKey.slice(0, 80)}”`)
  const signed = await verifiedBySecret(context, tool, (sharedSecret) =>
    verifyRequest({ method: 'POST', url: pickedUrl(settings, picking.id), parameters: fields }, oauth, {
      sharedSecret,
      signatureMethod: tool.signatureMethod,
      nowSeconds: Math.floor(now.getTime() / 1000),
      windowSeconds: settings.clockToleranceSeconds,
    }),
  )
  if (signed instanceof Refusal) return signed
  if (value('lti_message_type') !== 'ContentItemSelection')
    return new Refusal('picker.wrong_message', value('lti_message_type').slice(0, 80))
  const read = readContentItems(value('content_items'), now)
  if (read instanceof Problem) return Refusal.of(read)
  return {
    ...read,
    data: value('data'),
    ...saidIn(value('lti_errormsg'), value('lti_errorlog'), value('lti_msg')),
    nonce: nonceOf(context, oauth),
  }
}
