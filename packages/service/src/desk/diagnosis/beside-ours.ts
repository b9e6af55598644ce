import type { ExplainedMessage } from '@bathyscribe/contract'
import { compareMessages } from '@bathyscribe/core/diagnosis'
import { parseAuthorizationHeader, type Parameter, type SignedRequest } from '@bathyscribe/core/oauth1'
import type { KeptMessage } from '../../records/diagnoses.js'
import type { Context } from '../context.js'

/** A shorter one may stand in any message. */
export const SHORTEST_NONCE = 8

/** The message with the same nonce, if it is still kept. */
type Beside = Pick<ExplainedMessage, 'entry' | 'differences'> & {
  registrationId: string | null
  request: SignedRequest | undefined
}

/** What crossed the wire under the same nonce, and where the other end’s form differs from it. */
export async function besideOurs(
  context: Context,
  courses: string[] | null,
  theirs: { address: string | null; parameters: readonly Parameter[] },
): Promise<Beside> {
  const nonce = theirs.parameters.find(([name]) => name === 'oauth_nonce')?.[1] ?? ''
  const kept = nonce.length >= SHORTEST_NONCE ? await context.records.diagnoses.withNonce(nonce, courses) : undefined
  if (!kept) return { entry: null, differences: [], registrationId: null, request: undefined }
  const { id, at, direction, registrationId, request } = kept
  const parameters = parametersOf(request)
  return {
    registrationId,
    request: {
      method: request.method ?? 'POST',
      url: request.url,
      parameters: parameters.filter(([name]) => name !== 'oauth_signature'),
    },
    entry: { id, at: at.toISOString(), direction },
    differences: compareMessages(theirs, {
      address: request.url,
      parameters: [...new URL(request.url).searchParams, ...parameters],
    }),
  }
}

/** Of a form its fields, of a signed call those of its header. Its signature was masked when it was kept, perhaps in the middle of an escape. */
function parametersOf({ parameters, headers }: KeptMessage['request']): readonly Parameter[] {
  const header = (headers?.['authorization'] ?? '').replace(/oauth_signature="[^"]*"/, 'oauth_signature=""')
  return parameters ?? parseAuthorizationHeader(header) ?? []
}
