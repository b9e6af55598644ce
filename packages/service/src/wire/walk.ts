import { Refusal, sentenceOf, type ErrorCode } from '@bathyscribe/contract'
import { firstForm } from '@bathyscribe/core/text'
import { CookieJar } from 'tough-cookie'
import type { Outgoing } from './outgoing.js'

/** One request of a browser, before it is sent. */
export interface WalkRequest {
  method: 'GET' | 'POST'
  url: string
  /** Fields of a form, for POST. */
  fields?: readonly (readonly [string, string])[]
}

export interface WalkStep {
  method: string
  url: string
  status: number
  durationMs: number
}

/** Where a walk ended, and how. */
export interface Walked {
  status: number
  url: string
  body: string
  headers: Record<string, string>
  /** Lines of `Set-Cookie`, of all steps. */
  setCookies: string[]
  steps: WalkStep[]
  durationMs: number
  /** The request that was not sent, because it leads where the caller wanted to be told. */
  stopped: WalkRequest | null
  failure: string | null
  code: ErrorCode | null
}

const MAX_STEPS = 10
const KEPT_BODY_CHARACTERS = 20_000

/**
 * Goes where a browser would go: follows redirects with a cookie jar, and forms that post themselves. Stops, without calling it, before an
 * address that `stopAt` names. Never throws for what the other end does.
 */
export async function walk(
  outgoing: Outgoing,
  start: WalkRequest,
  options: { stopAt: (url: string) => boolean; jar?: CookieJar; signal?: AbortSignal | undefined },
): Promise<Walked> {
  const jar = options.jar ?? new CookieJar()
  const steps: WalkStep[] = []
  const setCookies: string[] = []
  const started = performance.now()
  let next = start
  const end = (part: Partial<Walked>): Walked => ({
    status: 0,
    url: next.url,
    body: '',
    headers: {},
    setCookies,
    steps,
    durationMs: performance.now() - started,
    stopped: null,
    failure: null,
    code: null,
    ...part,
  })
  const failed = (refusal: Refusal): Walked => end({ failure: sentenceOf(refusal), code: refusal.code })

  for (;;) {
    if (steps.length >= MAX_STEPS) return failed(new Refusal('outgoing.too_many_redirects', `${MAX_STEPS} steps`))
    const { method, url, fields } = next
    let answer
    try {
      answer = await outgoing.send({
        method,
        url: new URL(url),
        headers: {
          cookie: await jar.getCookieString(url),
          ...(fields && { 'content-type': 'application/x-www-form-urlencoded' }),
        },
        ...(fields && {
          body: new URLSearchParams(fields.map(([name, value]): [string, string] => [name, value])).toString(),
        }),
        signal: options.signal,
      })
    } catch (error) {
      if (error instanceof Refusal) return failed(error)
      throw error
    }
    steps.push({ method, url, status: answer.status, durationMs: answer.durationMs })
    setCookies.push(...answer.setCookies)
    for (const cookie of answer.setCookies) await jar.setCookie(cookie, url, { ignoreError: true })

    const here = { status: answer.status, headers: answer.headers, body: answer.body.slice(0, KEPT_BODY_CHARACTERS) }
    const location = answer.headers['location']
    const redirects = [301, 302, 303, 307, 308].includes(answer.status) && location !== undefined
    const onwards = redirects ? afterRedirect(next, answer.status, location) : selfPostingForm(answer.body, url)
    if (onwards === 'unusable') return failed(new Refusal('outgoing.bad_redirect', location!.slice(0, 200)))
    if (!onwards) return end({ ...here, url })
    if (options.stopAt(onwards.url)) return end({ ...here, url: onwards.url, stopped: onwards })
    // A form on a page is followed only to where the caller waits for it: other pages want a person.
    if (!redirects) return end({ ...here, url })
    next = onwards
  }
}

function afterRedirect(from: WalkRequest, status: number, location: string): WalkRequest | 'unusable' {
  const url = URL.canParse(location, from.url) ? new URL(location, from.url) : undefined
  if (!url || !/^https?:$/.test(url.protocol)) return 'unusable'
  // 301 and 302 turn a post into a get in every browser; 307 and 308 keep it (Fetch section 4.4).
  return status === 307 || status === 308 ? { ...from, url: url.href } : { method: 'GET', url: url.href }
}

function selfPostingForm(body: string, base: string): WalkRequest | undefined {
  const form = firstForm(body)
  const action = form?.action ?? base
  if (!form || !URL.canParse(action, base)) return undefined
  const url = new URL(action, base)
  if (form.method === 'post') return { method: 'POST', url: url.href, fields: form.fields }
  for (const [name, value] of form.fields) url.searchParams.set(name, value)
  return { method: 'GET', url: url.href }
}

/** Parameters of a request that was not sent: those of its address and of its form. */
export function parametersOf(request: WalkRequest): Record<string, string> {
  return { ...Object.fromEntries(new URL(request.url).searchParams), ...Object.fromEntries(request.fields ?? []) }
}
