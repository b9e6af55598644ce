import { ERRORS, Refusal, type ErrorCode } from '@bathyscribe/contract'
import { readReturn, type ToolAnswer } from '@bathyscribe/core/checks'
import type { Parameter } from '@bathyscribe/core/oauth1'
import { CookieJar } from 'tough-cookie'
import type { Outgoing } from './outgoing.js'

export interface FollowStep {
  method: string
  url: string
  status: number
  durationMs: number
}

/** How a launch went when the service itself posted the form, as a browser would, and followed the redirects. */
export interface Followed extends ToolAnswer {
  headers: Record<string, string>
  steps: FollowStep[]
  durationMs: number
  code: ErrorCode | null
}

const MAX_STEPS = 10
const KEPT_BODY_CHARACTERS = 8000

/**
 * Posts a launch form and follows redirects with a cookie jar. Stops, without calling it, when the tool sends the browser back
 * to `returnUrl`. Never throws for what the tool's end does; that is in the answer.
 */
export async function followLaunch(
  outgoing: Outgoing,
  launch: { url: string; fields: readonly Parameter[]; returnUrl: string; signal?: AbortSignal | undefined },
): Promise<Followed> {
  const jar = new CookieJar()
  const steps: FollowStep[] = []
  const started = performance.now()
  let method: 'GET' | 'POST' = 'POST'
  let url = new URL(launch.url)
  let body: string | undefined = new URLSearchParams(
    launch.fields.map(([name, value]): [string, string] => [name, value]),
  ).toString()

  const end = (part: Partial<Followed>): Followed => ({
    status: 0,
    url: url.href,
    body: '',
    headers: {},
    returned: null,
    failure: null,
    code: null,
    steps,
    durationMs: performance.now() - started,
    ...part,
  })

  for (;;) {
    if (steps.length >= MAX_STEPS) return refused(end, new Refusal('outgoing.too_many_redirects', `${MAX_STEPS} steps`))
    let answer
    try {
      answer = await outgoing.send({
        method,
        url,
        headers: {
          cookie: await jar.getCookieString(url.href),
          ...(body !== undefined && { 'content-type': 'application/x-www-form-urlencoded' }),
        },
        ...(body !== undefined && { body }),
        signal: launch.signal,
      })
    } catch (error) {
      if (error instanceof Refusal) return refused(end, error)
      throw error
    }
    steps.push({ method, url: url.href, status: answer.status, durationMs: answer.durationMs })
    for (const cookie of answer.setCookies) await jar.setCookie(cookie, url.href, { ignoreError: true })

    const location = answer.headers['location']
    const redirects = [301, 302, 303, 307, 308].includes(answer.status) && location !== undefined
    if (!redirects)
      return end({ status: answer.status, headers: answer.headers, body: answer.body.slice(0, KEPT_BODY_CHARACTERS) })

    const next = URL.canParse(location, url.href) ? new URL(location, url) : undefined
    if (!next || !/^https?:$/.test(next.protocol))
      return refused(end, new Refusal('outgoing.bad_redirect', location.slice(0, 200)))
    if (next.href.startsWith(launch.returnUrl))
      return end({ status: answer.status, headers: answer.headers, url: next.href, returned: readReturn(next.href) })
    // 301 and 302 turn a post into a get in every browser; 307 and 308 keep it (Fetch section 4.4).
    if (answer.status !== 307 && answer.status !== 308) {
      method = 'GET'
      body = undefined
    }
    url = next
  }
}

function refused(end: (part: Partial<Followed>) => Followed, refusal: Refusal): Followed {
  const detail = refusal.detail ? ` (${refusal.detail})` : ''
  return end({ failure: `${ERRORS[refusal.code].sentence}${detail}`, code: refusal.code })
}
