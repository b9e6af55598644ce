import type { ErrorCode } from '@bathyscribe/contract'
import {
  parseAuthorizationHeader,
  readOAuthParameters,
  verifyRequest,
  type OAuthParameters,
  type Parameter,
} from '@bathyscribe/core/oauth1'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import { secretKey } from '../../records/statements/key-use.js'
import type { Link } from '../../records/statements/links.js'
import type { Context } from '../context.js'
import { promoteSecret } from '../tools/secrets.js'

/** A call of the outcomes service as it came in. `path` is that of the request, with its query. */
export interface OutcomeCall {
  path: string
  headers: Readonly<Record<string, string | string[] | undefined>>
  body: Uint8Array
}

/** A refusal on the way: what is wrong, and at which HTTP status the envelope goes out. */
export interface Refused {
  code: ErrorCode
  detail: string
  authenticated: boolean
}
export type Signer = Pick<RegistrationRecord, 'id' | 'name' | 'consumerKey' | 'secretSealed' | 'signatureMethod'>

export interface Signed {
  oauth: OAuthParameters
  parameters: Parameter[]
}

/** The OAuth parameters of a call, or why it carries none that can be read. */
export function readSigned(call: OutcomeCall): Signed | Refused {
  const header = call.headers['authorization']
  if (typeof header !== 'string' || header === '') return unauthenticated('oauth.header_missing', '')
  const parameters = parseAuthorizationHeader(header)
  if (!parameters) return unauthenticated('oauth.header_malformed', header.slice(0, 40))
  const oauth = readOAuthParameters(parameters)
  return 'code' in oauth ? unauthenticated(oauth.code, oauth.detail) : { oauth, parameters }
}

/** The result names the registration; where it cannot, the key does, if it is the key of one only. */
export async function findSigner(
  context: Context,
  link: Link | undefined,
  oauth: OAuthParameters,
): Promise<Signer | undefined> {
  if (link) return link.registration
  const [first] = await context.records.tools.byKey(oauth.consumerKey)
  return first
}

/** Checks who signed, by the secrets that are taken now. @returns undefined when it is good */
export async function checkSignature(
  context: Context,
  call: OutcomeCall,
  signed: Signed,
  signer: Signer | undefined,
  link: Link | undefined,
): Promise<Refused | undefined> {
  const { oauth, parameters } = signed
  if (!signer?.secretSealed) return unauthenticated('oauth.key_unknown', `“${oauth.consumerKey.slice(0, 80)}”`)
  if (oauth.consumerKey !== signer.consumerKey)
    return unauthenticated(
      link ? 'oauth.key_of_another_tool' : 'oauth.key_unknown',
      `“${oauth.consumerKey.slice(0, 80)}”`,
    )
  const now = context.clock.now()
  const verifyBy = (sealed: Buffer) =>
    verifyRequest({ method: 'POST', url: `${context.settings.publicUrl}${call.path}`, parameters }, oauth, {
      sharedSecret: context.keys.unseal(sealed, signer.id),
      signatureMethod: signer.signatureMethod,
      nowSeconds: Math.floor(now.getTime() / 1000),
      windowSeconds: context.settings.clockToleranceSeconds,
      body: call.body,
    })
  const problem = verifyBy(signer.secretSealed)
  if (!problem) {
    context.keyUses.note(signer.id, secretKey(signer.secretSealed), now)
    return undefined
  }
  if (problem.code === 'oauth.signature_mismatch') {
    for (const other of await context.records.secrets.others(signer.id, now)) {
      if (verifyBy(other.sealed)) continue
      context.keyUses.note(signer.id, secretKey(other.sealed), now)
      if (other.role === 'next') await promoteSecret(context, signer.id, other)
      return undefined
    }
    // The secret may have changed hands between our two readings.
    const { secretSealed } = await context.records.tools.byId(signer.id)
    if (secretSealed && !secretSealed.equals(signer.secretSealed) && !verifyBy(secretSealed)) return undefined
  }
  return unauthenticated(problem.code, problem.detail)
}

export function unauthenticated(code: ErrorCode, detail: string): Refused {
  return { code, detail, authenticated: false }
}
