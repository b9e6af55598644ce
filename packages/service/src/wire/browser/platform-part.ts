import type { CDPSession } from 'playwright-core'
import type { Parameter } from '@bathyscribe/core/oauth1'
import type { BrowserLaunch, StagePages } from './launch.js'
import type { Watcher } from './watcher.js'

/** Where a browser begins: the form itself, or our page around a frame with the form in it. */
export const FORM = '/lti/looking/form'
export const STAGE = '/lti/looking/stage'
const TITLE = 'Opening…'

interface Asked {
  url: string
  method: string
  postData?: string
}

/**
 * Plays the platform's part of a launch inside the browser, so that no session of anybody is needed; nothing of it reaches the service. Chromium itself is asked to hold such
 * requests, because the driver's own routes let pass what a tool redirects to, and that is how tools ask for an id_token.
 */
export async function playPlatform(
  session: CDPSession,
  launch: BrowserLaunch,
  pages: StagePages,
  watcher: Watcher,
): Promise<void> {
  session.on('Fetch.requestPaused', ({ requestId, request }) => {
    answerFor(request, launch, pages, watcher)
      .then(({ status = 200, headers, text }) =>
        session.send('Fetch.fulfillRequest', {
          requestId,
          responseCode: status,
          responseHeaders: Object.entries(headers).map(([name, value]) => ({ name, value })),
          body: Buffer.from(text).toString('base64'),
        }),
      )
      // The page was closed in the meantime.
      .catch(() => undefined)
  })
  await session.send('Fetch.enable', { patterns: [{ urlPattern: `${launch.platformUrl}/*` }] })
}

interface Answer {
  status?: number
  headers: Record<string, string>
  text: string
}

const plain = (text: string, status = 200): Answer => ({
  status,
  headers: { 'content-type': 'text/plain; charset=utf-8' },
  text,
})

async function answerFor(
  { url, method, postData }: Asked,
  launch: BrowserLaunch,
  pages: StagePages,
  watcher: Watcher,
): Promise<Answer> {
  const form = (of: { url: string; fields: readonly Parameter[] }) => pages.form({ ...of, doing: 'Opening' })
  const { pathname } = new URL(url)
  const asset = pages.assets[pathname]
  if (asset) return { headers: { 'content-type': asset.type }, text: asset.text }
  const { origins, permissions } = launch
  if (pathname === STAGE) return pages.stage({ title: TITLE, source: FORM, origins, permissions })
  if (pathname === FORM) return form(launch)
  if (launch.authorizationUrl && launch.answer && url.startsWith(launch.authorizationUrl)) {
    const fields = method === 'POST' ? [...new URLSearchParams(postData ?? '')] : undefined
    const answered = await launch.answer({ method: fields ? 'POST' : 'GET', url, ...(fields && { fields }) })
    watcher.answered()
    if (typeof answered !== 'string') return form(answered)
    watcher.end({ failure: answered })
    return plain(answered)
  }
  if (url.startsWith(launch.returnUrl)) {
    watcher.end({ stopped: { method: 'GET', url } })
    return plain('Back from the tool.')
  }
  return plain('', 404)
}
