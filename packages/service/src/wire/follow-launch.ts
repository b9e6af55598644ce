import type { ErrorCode } from '@bathyscribe/contract'
import { readReturn, type ToolAnswer } from '@bathyscribe/core/checks'
import type { Parameter } from '@bathyscribe/core/oauth1'
import type { CookieJar } from 'tough-cookie'
import { clip, maskHeaders } from './mask.js'
import type { Outgoing } from './outgoing.js'
import { walk, type Walked, type WalkStep } from './walk.js'

/** How a launch went when the service itself posted the form, as a browser would, and followed the redirects. */
export interface Followed extends ToolAnswer {
  headers: Record<string, string>
  setCookies: string[]
  steps: WalkStep[]
  durationMs: number
  code: ErrorCode | null
}

const KEPT_BODY_CHARACTERS = 8000

/**
 * Posts a launch form and follows redirects with a cookie jar. Stops, without calling it, when the tool sends the browser back
 * to `returnUrl`. Never throws for what the tool's end does; that is in the answer.
 */
export async function followLaunch(
  outgoing: Outgoing,
  launch: {
    url: string
    fields: readonly Parameter[]
    returnUrl: string
    jar?: CookieJar
    signal?: AbortSignal | undefined
  },
): Promise<Followed> {
  const walked = await walk(
    outgoing,
    { method: 'POST', url: launch.url, fields: launch.fields },
    {
      stopAt: (url) => url.startsWith(launch.returnUrl),
      signal: launch.signal,
      ...(launch.jar && { jar: launch.jar }),
    },
  )
  return toFollowed(walked)
}

export function toFollowed({ stopped, ...walked }: Walked): Followed {
  return {
    ...walked,
    body: stopped ? '' : walked.body.slice(0, KEPT_BODY_CHARACTERS),
    returned: stopped ? readReturn(stopped.url) : null,
  }
}

/** What is kept of a tool's answer in a wire entry. */
export function answerKept({ status, headers, body, steps }: Followed) {
  return { status, headers: maskHeaders(headers), body: clip(body), steps }
}
