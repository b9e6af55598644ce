import { inWords, type ErrorCode } from '@bathyscribe/contract'
import { checkInitiation, found, type Follower, type Found } from '@bathyscribe/core/checks'
import type { Claims, Hints } from '@bathyscribe/core/lti13'
import type { Parameter } from '@bathyscribe/core/oauth1'
import { CookieJar } from 'tough-cookie'
import type { Link } from '../../records/statements/links.js'
import { followLaunch, toFollowed, type Followed } from '../../wire/follow-launch.js'
import type { LookedAt } from '../../wire/browser/follow.js'
import { parametersOf, walk, type WalkRequest } from '../../wire/walk.js'
import type { Context } from '../context.js'
import { authorizationUrl, resultIdOf, returnUrl } from '../platform/addresses.js'
import type { LaunchOptions } from './launch-facts.js'
import { framedTool } from './stage-origins.js'
import { claimsFor, prepareLogin } from './login.js'

/** A launch of LTI 1.3 that was walked through: both ends of it. */
export interface Tried13 {
  followed: Followed
  jar: CookieJar
  seen: LookedAt | null
  /** What was posted to the tool in the end. */
  sent: Answered | undefined
  /** What is wrong with the tool's authorisation request. */
  wrong: Found | null
}

/** A tool's authorisation request, judged: answered, unless something is wrong with it. */
type Judged = { wrong: null; answered: Answered } | { wrong: Found }

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
  answer: (asked: WalkRequest) => Promise<Judged>,
  jar: CookieJar,
  { signal }: Options13,
): Promise<Tried13> {
  const begun = await walk(
    context.outgoing,
    { method: 'POST', url: login.url, fields: login.fields },
    { stopAt: (url) => url.startsWith(authorizationUrl(context.settings)), jar, signal },
  )
  const ended = { jar, seen: null, sent: undefined }
  if (begun.failure !== null || begun.status >= 400) return { ...ended, followed: toFollowed(begun), wrong: null }
  const judged = begun.stopped ? await answer(begun.stopped) : { wrong: NOT_SENT_BACK }
  if (judged.wrong) return { ...ended, followed: failedBy(judged.wrong, toFollowed(begun)), wrong: judged.wrong }

  const { url, fields } = judged.answered
  const followed = await followLaunch(context.outgoing, { url, fields, returnUrl: returnUrl(context.settings, resultIdOf(context, link)), jar, signal }) // oxfmt-ignore
  return {
    jar,
    seen: null,
    sent: judged.answered,
    wrong: null,
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
  answer: (asked: WalkRequest) => Promise<Judged>,
  jar: CookieJar,
  { signal, target }: Options13,
): Promise<Tried13> {
  let sent: Answered | undefined
  let wrong: Found | null = null
  const looked = await context.browser.follow({
    platformUrl: context.settings.publicUrl,
    target: target ?? link.resource.documentTarget,
    ...framedTool(link),
    url: login.url,
    fields: login.fields,
    returnUrl: returnUrl(context.settings, resultIdOf(context, link)),
    authorizationUrl: authorizationUrl(context.settings),
    answer: async (asked) => {
      const judged = await answer(asked)
      wrong = judged.wrong
      if (judged.wrong) return inWords(judged.wrong).statement
      sent = judged.answered
      return sent
    },
    signal,
  })
  const followed = toFollowed(looked.walked)
  if (!sent && followed.failure === null && followed.status < 400)
    return { followed: failedBy(NOT_SENT_BACK, followed), jar, seen: looked, sent, wrong: NOT_SENT_BACK }
  return { followed, jar, seen: looked, sent, wrong }
}

const NOT_SENT_BACK = found('initiation', 'not_sent_back', {})

/** A login that ended before anything was sent to the tool. */
function failedBy(wrong: Found, followed: Followed): Followed {
  return { ...followed, returned: null, failure: inWords(wrong).statement }
}

/** Judges a tool's authorisation request as ours would be judged, and makes the answer. */
async function answerAuthorization(
  context: Context,
  link: Link,
  hints: Hints,
  request: WalkRequest,
  options: Options13,
): Promise<Judged> {
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
  if (wrong) return { wrong }
  const claims = claimsFor(context, link, asked['nonce']!, options)
  const fields: Parameter[] = [['id_token', await context.keyring.sign(claims)]]
  if (asked['state'] !== undefined) fields.push(['state', asked['state']])
  return { wrong: null, answered: { url: asked['redirect_uri']!, fields, claims } }
}

/** What a tool's initiation address makes of an initiation, for the check of its end: nobody is launched. */
export async function probeInitiation(
  context: Context,
  initiation: { url: string; fields: readonly Parameter[] },
): Promise<{
  stopped: WalkRequest | null
  status: number
  failure: string | null
  code: ErrorCode | null
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
    code: walked.code,
    setCookies: walked.setCookies,
  }
}
