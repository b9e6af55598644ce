import { ERRORS } from '@bathyscribe/contract'
import type { Follower } from '@bathyscribe/core/checks'
import { checkInitiation, type Claims, type Hints } from '@bathyscribe/core/lti13'
import type { Parameter } from '@bathyscribe/core/oauth1'
import { CookieJar } from 'tough-cookie'
import type { Link } from '../../records/statements/links.js'
import { followLaunch, toFollowed, type Followed } from '../../wire/follow-launch.js'
import type { LookedAt } from '../../wire/browser/follow.js'
import { parametersOf, walk, type WalkRequest } from '../../wire/walk.js'
import type { Context } from '../context.js'
import { authorizationUrl, returnUrl } from '../platform/addresses.js'
import type { LaunchOptions } from './launch-facts.js'
import { originsOf } from './stage-origins.js'
import { claimsFor, prepareLogin } from './login.js'

/** A launch of LTI 1.3 that was walked through: both ends of it. */
export interface Tried13 {
  followed: Followed
  jar: CookieJar
  seen: LookedAt | null
  /** What was posted to the tool in the end. */
  sent: Answered | undefined
  /** What mends it, when the login itself went wrong. */
  remedy: string | null
}

/** What is wrong with a tool's authorisation request. */
interface Wrong {
  statement: string
  remedy: string | null
}

/** The answer to a tool's authorisation request. */
interface Answered {
  url: string
  fields: Parameter[]
  claims: Claims
}

type Options13 = LaunchOptions & {
  signal?: AbortSignal | undefined
  follower?: Follower | undefined
  /** Whose submission is to be reviewed. */
  about?: Link | undefined
}

/**
 * Walks the login: initiation, the tool's authorisation request (which is judged and answered in place), id_token, and what the tool makes
 * of it. Never throws for what the tool's end does. @throws Refusal when we would not launch at all.
 */
export async function tryLaunch13(context: Context, link: Link, options: Options13): Promise<Tried13> {
  const { about } = options
  const login = prepareLogin(context, link, {
    actorId: link.person.id,
    target: options.target,
    ...(about && { aboutId: about.person.id }),
  })
  const jar = new CookieJar()
  const answer = (asked: WalkRequest) => answerAuthorization(context, link, login.hints, asked, options)
  return options.follower === 'browser'
    ? lookAt13(context, link, login, answer, jar, options)
    : walk13(context, link, login, answer, jar, options)
}

async function walk13(
  context: Context,
  link: Link,
  login: { url: string; fields: Parameter[] },
  answer: (asked: WalkRequest) => Promise<Answered | Wrong>,
  jar: CookieJar,
  { signal }: Options13,
): Promise<Tried13> {
  const begun = await walk(
    context.outgoing,
    { method: 'POST', url: login.url, fields: login.fields },
    { stopAt: (url) => url.startsWith(authorizationUrl(context.settings)), jar, signal },
  )
  const ended = (followed: Followed, remedy: string | null = null): Tried13 => ({
    followed,
    jar,
    seen: null,
    sent: undefined,
    remedy,
  })
  if (begun.failure !== null || begun.status >= 400) return ended(toFollowed(begun))
  const answered = begun.stopped ? await answer(begun.stopped) : NOT_SENT_BACK
  if ('statement' in answered)
    return ended({ ...toFollowed(begun), returned: null, failure: answered.statement }, answered.remedy)

  const { url, fields } = answered
  const followed = await followLaunch(context.outgoing, { url, fields, returnUrl: returnUrl(context, link), jar, signal }) // oxfmt-ignore
  return {
    jar,
    seen: null,
    sent: answered,
    remedy: null,
    followed: {
      ...followed,
      steps: [...begun.steps, ...followed.steps],
      setCookies: [...begun.setCookies, ...followed.setCookies],
      durationMs: begun.durationMs + followed.durationMs,
    },
  }
}

async function lookAt13(
  context: Context,
  link: Link,
  login: { url: string; fields: Parameter[] },
  answer: (asked: WalkRequest) => Promise<Answered | Wrong>,
  jar: CookieJar,
  { signal, target }: Options13,
): Promise<Tried13> {
  let sent: Answered | undefined
  let remedy: string | null = null
  const looked = await context.browser.follow({
    platformUrl: context.settings.publicUrl,
    target: target ?? link.resource.documentTarget,
    origins: originsOf(link),
    url: login.url,
    fields: login.fields,
    returnUrl: returnUrl(context, link),
    authorizationUrl: authorizationUrl(context.settings),
    answer: async (asked) => {
      const answered = await answer(asked)
      if ('statement' in answered) {
        remedy = answered.remedy
        return answered.statement
      }
      sent = answered
      return answered
    },
    signal,
  })
  const followed = toFollowed(looked.walked)
  if (!sent && followed.failure === null && followed.status < 400)
    return {
      followed: { ...followed, returned: null, failure: NOT_SENT_BACK.statement },
      jar,
      seen: looked,
      sent,
      remedy: NOT_SENT_BACK.remedy,
    }
  return { followed, jar, seen: looked, sent, remedy }
}

const NOT_SENT_BACK: Wrong = {
  statement: 'The initiation address does not send the browser back to us.',
  remedy:
    'Check that the address is the tool’s login initiation address, and that its end knows our issuer and client ID.',
}

/** Judges a tool's authorisation request as ours would be judged, and makes the answer. @returns what is wrong with it, in words, when something is */
async function answerAuthorization(
  context: Context,
  link: Link,
  hints: Hints,
  request: WalkRequest,
  options: Options13,
): Promise<Answered | Wrong> {
  const asked = parametersOf(request)
  const wrong = checkInitiation(
    { url: request.url, parameters: asked },
    {
      authorizationUrl: authorizationUrl(context.settings),
      clientId: link.registration.clientId!,
      redirectUris: link.registration.redirectUris,
      hints,
    },
  ).find((finding) => finding.verdict === 'fail')
  if (wrong) return wrong
  const claims = claimsFor(context, link, asked['nonce']!, options)
  const fields: Parameter[] = [['id_token', await context.keyring.sign(claims)]]
  if (asked['state'] !== undefined) fields.push(['state', asked['state']])
  return { url: asked['redirect_uri']!, fields, claims }
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
