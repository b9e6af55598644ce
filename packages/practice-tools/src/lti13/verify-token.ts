import { createLocalJWKSet, createRemoteJWKSet, jwtVerify, type JSONWebKeySet, type JWTPayload } from 'jose'
import { LaunchRefused } from '../lti1/verify-launch.js'
import type { Platform } from './state.js'

const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim/'
const remote = new Map<string, ReturnType<typeof createRemoteJWKSet>>()

/** The claims of a launch that this tool reads. */
export interface LaunchClaims {
  sub: string
  name: string
  instructor: boolean
  deploymentId: string
  linkId: string
  linkTitle: string
  contextTitle: string
  returnUrl: string | undefined
  custom: Record<string, string>
  contextId: string
  /** What the platform's picker request asks for; undefined for launches. */
  picking: Picking | undefined
  /** Whose submission is to be looked at (Submission Review 1.0); undefined for launches. */
  review: { userId: string; name: string } | undefined
  all: JWTPayload
}

/**
 * Verifies an id_token as LTI 1.3 core section 5.1.3 demands it of a tool: signature by the platform's keyset, issuer, audience, times, nonce, then deployment, version,
 * message type and what must be there. @throws LaunchRefused
 */
export async function verifyIdToken(
  platform: Platform,
  token: string,
  nonce: string,
  options: { keyset?: JSONWebKeySet; nowMs?: number } = {},
): Promise<LaunchClaims> {
  const { keyset, nowMs } = options
  const keys = keyset ? createLocalJWKSet(keyset) : remoteKeys(platform.keysetUrl)
  let all: JWTPayload
  try {
    const { payload } = await jwtVerify(token, keys, {
      issuer: platform.issuer,
      audience: platform.clientId,
      algorithms: ['RS256'],
      requiredClaims: ['sub', 'iat', 'exp', 'nonce'],
      clockTolerance: 30,
      ...(nowMs !== undefined && { currentDate: new Date(nowMs) }),
    })
    all = payload
  } catch (error) {
    throw new LaunchRefused(401, `The tool does not accept the id_token: ${(error as Error).message}.`)
  }
  if (all['nonce'] !== nonce) throw new LaunchRefused(401, 'The nonce of the id_token is not the one we sent.')
  const claim = (name: string) => all[`${CLAIM}${name}`]
  if (claim('deployment_id') !== platform.deploymentId)
    throw new LaunchRefused(401, 'The tool does not know this deployment.')
  if (claim('version') !== '1.3.0') throw new LaunchRefused(400, 'This is not a launch of LTI 1.3.')
  const picking = claim('message_type') === 'LtiDeepLinkingRequest' ? readPicking(all) : undefined
  const review = claim('message_type') === 'LtiSubmissionReviewRequest' ? readReview(claim('for_user')) : undefined
  if (claim('message_type') !== 'LtiResourceLinkRequest' && !picking && !review)
    throw new LaunchRefused(400, 'This is not a launch of a resource link, nor a picking, nor a review.')
  const link = claim('resource_link') as { id?: string; title?: string } | undefined
  const roles = claim('roles')
  if ((!link?.id && !picking) || !Array.isArray(roles))
    throw new LaunchRefused(400, 'The launch names no link or no roles.')
  return {
    sub: all.sub!,
    name: typeof all['name'] === 'string' ? all['name'] : `Navigator ${all.sub!.slice(0, 6)}`,
    instructor: roles.some((role) => /#(Instructor|Administrator|TeachingAssistant)$/.test(String(role))),
    deploymentId: platform.deploymentId,
    linkId: link?.id ?? '',
    linkTitle: link?.title ?? 'Untitled',
    picking,
    review,
    contextId: (claim('context') as { id?: string } | undefined)?.id ?? '',
    contextTitle: (claim('context') as { title?: string } | undefined)?.title ?? '',
    returnUrl: (claim('launch_presentation') as { return_url?: string } | undefined)?.return_url,
    custom: (claim('custom') as Record<string, string> | undefined) ?? {},
    all,
  }
}

function readReview(forUser: unknown): { userId: string; name: string } {
  const { user_id: userId, name } = (forUser ?? {}) as { user_id?: unknown; name?: unknown }
  if (typeof userId !== 'string' || userId === '') throw new LaunchRefused(400, 'The review names nobody.')
  return { userId, name: typeof name === 'string' ? name : userId.slice(0, 6) }
}

/** The settings of a deep linking request (Deep Linking 2.0 section 4.4.1). */
export interface Picking {
  returnUrl: string
  data: string | undefined
  multiple: boolean
  types: string[]
  columns: boolean
}

function readPicking(all: JWTPayload): Picking {
  const settings = all['https://purl.imsglobal.org/spec/lti-dl/claim/deep_linking_settings'] as
    | Record<string, unknown>
    | undefined
  if (typeof settings?.['deep_link_return_url'] !== 'string')
    throw new LaunchRefused(400, 'The picking names no address to return to.')
  return {
    returnUrl: settings['deep_link_return_url'],
    data: typeof settings['data'] === 'string' ? settings['data'] : undefined,
    multiple: settings['accept_multiple'] === true,
    types: Array.isArray(settings['accept_types']) ? settings['accept_types'].map(String) : [],
    columns: settings['accept_lineitem'] === true,
  }
}

function remoteKeys(url: string) {
  let keys = remote.get(url)
  if (!keys) {
    keys = createRemoteJWKSet(new URL(url), { cooldownDuration: 1000 })
    remote.set(url, keys)
  }
  return keys
}
