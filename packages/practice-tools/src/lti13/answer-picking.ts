import { randomUUID } from 'node:crypto'
import { SignJWT } from 'jose'
import type { Tool13Fault } from './faults.js'
import type { Platform, SigningKey } from './state.js'
import type { Picking } from './verify-token.js'

const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim/'
const DL = 'https://purl.imsglobal.org/spec/lti-dl/claim/'

/** An item as Deep Linking 2.0 has it. */
export type Item = Record<string, unknown>

/** The answer of a picker (Deep Linking 2.0 section 4.5), signed by the tool's key; misbehaving as told. */
export async function pickingToken(
  platform: Platform,
  { kid, key }: SigningKey,
  picking: Pick<Picking, 'data'>,
  items: readonly Item[],
  options: { does?: (fault: Tool13Fault) => boolean; message?: string; error?: string } = {},
): Promise<string> {
  const does = options.does ?? (() => false)
  const spoiled = does('pick_error') ? [] : spoil(items, does)
  const error = does('pick_error') ? 'The shelf is empty today.' : options.error
  const claims: Record<string, unknown> = {
    nonce: randomUUID(),
    [`${CLAIM}deployment_id`]: does('pick_other_deployment') ? 'somebody-elses' : platform.deploymentId,
    [`${CLAIM}message_type`]: 'LtiDeepLinkingResponse',
    [`${CLAIM}version`]: '1.3.0',
    [`${DL}content_items`]: spoiled,
    ...(picking.data !== undefined && { [`${DL}data`]: does('pick_wrong_data') ? 'not what you sent' : picking.data }),
    ...(options.message && { [`${DL}msg`]: options.message }),
    ...(error && { [`${DL}errormsg`]: error, [`${DL}errorlog`]: 'picker: nothing to offer' }),
  }
  if (does('pick_unsigned')) {
    const part = (value: object) => Buffer.from(JSON.stringify(value)).toString('base64url')
    const now = Math.floor(Date.now() / 1000)
    return `${part({ alg: 'none', kid })}.${part({ ...claims, iss: platform.clientId, aud: platform.issuer, iat: now, exp: now + 300 })}.AA`
  }
  return new SignJWT(claims)
    .setProtectedHeader({ alg: 'RS256', kid, typ: 'JWT' })
    .setIssuer(platform.clientId)
    .setAudience(platform.issuer)
    .setIssuedAt()
    .setExpirationTime('5m')
    .sign(key)
}

function spoil(items: readonly Item[], does: (fault: Tool13Fault) => boolean): Item[] {
  const first = items[0] ?? {}
  return [
    ...(does('pick_many')
      ? Array.from({ length: 200 }, (_, i) => ({ ...first, title: `${String(first['title'])} ${i + 1}` }))
      : items),
    ...(does('pick_no_url') ? [{ type: 'file', title: 'A chart that was never drawn' }] : []),
    ...(does('pick_unknown_type') ? [{ type: 'semaphore', title: 'Flags' }] : []),
  ].map((item) =>
    does('pick_other_points') && 'lineItem' in item
      ? { ...item, lineItem: { ...(item['lineItem'] as object), scoreMaximum: 7 } }
      : item,
  )
}
