import { ERRORS } from '@bathyscribe/contract'
import { checkInitiation } from '@bathyscribe/core/lti13'
import type { Parameter } from '@bathyscribe/core/oauth1'
import { CookieJar } from 'tough-cookie'
import type { Link } from '../../records/statements/links.js'
import { followLaunch, toFollowed, type Followed } from '../../wire/follow-launch.js'
import { parametersOf, walk, type WalkRequest } from '../../wire/walk.js'
import type { Context } from '../context.js'
import { authorizationUrl, returnUrl } from '../platform.js'
import type { LaunchOptions } from './launch-facts.js'
import { claimsFor, prepareLogin } from './login.js'

/** A launch of LTI 1.3 that the service itself walked through: both ends of it, without a browser. */
export interface Tried13 {
  followed: Followed
  /** What was posted to the tool in the end. */
  sent: { url: string; fields: Parameter[]; claims: unknown } | undefined
}

/**
 * Walks the login: initiation, the tool's authorisation request (which is judged and answered in place), id_token, and what the tool makes
 * of it. Never throws for what the tool's end does. @throws Refusal when we would not launch at all.
 */
export async function tryLaunch13(
  context: Context,
  link: Link,
  options: LaunchOptions & { signal?: AbortSignal | undefined },
): Promise<Tried13> {
  const { registration } = link
  const login = prepareLogin(context, link, { actorId: link.person.id, target: options.target })
  const jar = new CookieJar()
  const begun = await walk(
    context.outgoing,
    { method: 'POST', url: login.url, fields: login.fields },
    { stopAt: (url) => url.startsWith(authorizationUrl(context.settings)), jar, signal: options.signal },
  )
  if (begun.failure !== null || begun.status >= 400) return { followed: toFollowed(begun), sent: undefined }
  const asked = begun.stopped && parametersOf(begun.stopped)
  const wrong = checkInitiation(asked ? { url: begun.stopped!.url, parameters: asked } : undefined, {
    authorizationUrl: authorizationUrl(context.settings),
    clientId: registration.clientId!,
    redirectUris: registration.redirectUris,
    hints: login.hints,
  }).find((finding) => finding.verdict === 'fail')
  if (wrong) return { followed: { ...toFollowed(begun), returned: null, failure: wrong.statement }, sent: undefined }

  const claims = claimsFor(context, link, asked!['nonce']!, options)
  const fields: Parameter[] = [['id_token', await context.keyring.sign(claims)]]
  if (asked!['state'] !== undefined) fields.push(['state', asked!['state']])
  const url = asked!['redirect_uri']!
  const followed = await followLaunch(context.outgoing, {
    url,
    fields,
    returnUrl: returnUrl(context, link),
    jar,
    signal: options.signal,
  })
  return {
    followed: {
      ...followed,
      steps: [...begun.steps, ...followed.steps],
      setCookies: [...begun.setCookies, ...followed.setCookies],
      durationMs: begun.durationMs + followed.durationMs,
    },
    sent: { url, fields, claims },
  }
}

/** What a tool's initiation address makes of an initiation, for the check of its end: nobody is launched. */
export async function probeInitiation(
  context: Context,
  initiation: { url: string; fields: readonly Parameter[] },
): Promise<{
  stopped: WalkRequest | null
  status: number
  failure: string | null
  hint: string | null
  setCookies: string[]
}> {
  const walked = await walk(
    context.outgoing,
    { method: 'POST', url: initiation.url, fields: initiation.fields },
    // Wherever it leads outside of the tool's own site, that is the answer.
    { stopAt: (url) => new URL(url).host !== new URL(initiation.url).host },
  )
  return {
    stopped: walked.stopped,
    status: walked.status,
    failure: walked.failure,
    hint: walked.code ? ERRORS[walked.code].hint : null,
    setCookies: walked.setCookies,
  }
}
