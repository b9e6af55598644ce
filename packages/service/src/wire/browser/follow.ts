import { Refusal, sentenceOf } from '@bathyscribe/contract'
import type { Seen } from '@bathyscribe/core/checks'
import type { BrowserContext, CDPSession, Frame, Page } from 'playwright-core'
import { createGuard } from '../guard.js'
import type { Walked } from '../walk.js'
import { Chromium, findChromium, type BrowserSettings } from './chromium.js'
import { createGuardedProxy, type GuardedProxy } from './guarded-proxy.js'
import type { BrowserLaunch, StagePages } from './launch.js'
import { FORM, playPlatform, STAGE } from './platform-part.js'
import { Watcher } from './watcher.js'

/** Where a launch ended, as by the other follower, and what was to be seen. */
export interface LookedAt {
  walked: Walked
  seen: Seen
  /** JPEG; null when the page could not be pictured. */
  picture: Buffer | null
}

export interface BrowserFollower {
  /** Whether there is a browser at all. */
  found: boolean
  /** Why there is none to be used. */
  reason: string | null
  /** Never throws for what the tool's end does. @throws Refusal without a browser */
  follow(launch: BrowserLaunch): Promise<LookedAt>
  close(): Promise<void>
}

const SIDE_BY_SIDE = 2
const CLOSE_MS = 3000
const PICTURE_MS = 4000

export function createBrowserFollower(
  settings: { outgoingAllow: readonly string[]; outgoingTimeoutMs: number } & BrowserSettings,
  pages: StagePages,
): BrowserFollower {
  const found = findChromium(settings)
  const proxy = createGuardedProxy(createGuard(settings.outgoingAllow))
  const chromium =
    'path' in found ? new Chromium(found.path, () => proxy.address(), settings.browserSandbox === 'on') : undefined
  const reason = 'reason' in found ? found.reason : null
  const waiting: (() => void)[] = []
  let busy = 0

  const turn = async () => {
    if (busy >= SIDE_BY_SIDE) await new Promise<void>((resolve) => waiting.push(resolve))
    else busy++
  }
  const pass = () => {
    const next = waiting.shift()
    if (next) next()
    else busy--
  }

  return {
    found: chromium !== undefined,
    reason,
    async follow(launch) {
      if (!chromium) throw new Refusal('sounding.no_browser', reason ?? undefined)
      await turn()
      try {
        const { browser, giveBack } = await chromium.borrow().catch((cause: unknown) => {
          throw new Refusal('sounding.no_browser', (cause as Error).message.split('\n')[0], undefined, { cause })
        })
        let broken = true
        try {
          const context = await browser.newContext({
            viewport: { width: 1280, height: 800 },
            serviceWorkers: 'block',
            acceptDownloads: false,
          })
          try {
            const looked = await look(context, launch, pages, proxy, settings.outgoingTimeoutMs)
            broken = looked.seen.stuck
            return looked
          } finally {
            // A page that never ends does not let go by itself: then the whole browser is ended.
            const closed = await Promise.race([context.close().then(() => true), after(CLOSE_MS, false)])
            if (!closed) broken = true
          }
        } finally {
          await giveBack(broken)
        }
      } finally {
        pass()
      }
    },
    async close() {
      await chromium?.end()
      await proxy.close()
    },
  }
}

async function look(
  context: BrowserContext,
  launch: BrowserLaunch,
  pages: StagePages,
  proxy: GuardedProxy,
  limitMs: number,
): Promise<LookedAt> {
  const since = performance.now()
  const page = await context.newPage()
  const watcher = new Watcher(page, launch)
  await watcher.begin()
  const session = await context.newCDPSession(page)
  await playPlatform(session, launch, pages, watcher)
  const stop = () => void page.close().catch(() => undefined)
  launch.signal?.addEventListener('abort', stop, { once: true })
  const started = performance.now()
  try {
    const start = launch.target === 'frame' ? STAGE : FORM
    await page.goto(launch.platformUrl + start, { waitUntil: 'commit', timeout: limitMs }).catch(() => undefined)
    await watcher.settle(toolFrame(page, launch), limitMs)
  } finally {
    launch.signal?.removeEventListener('abort', stop)
  }
  launch.signal?.throwIfAborted()
  const durationMs = performance.now() - started
  const sending = proxy.isSending(new URL(launch.url).host)
  const picture = watcher.stuck ? null : await pictureOf(session)
  return { ...watcher.found(durationMs, (host) => refusalOf(proxy, host, since), sending), picture }
}

/** Chromium reports what the guard refused as a broken connection; the guard knows better. */
function refusalOf(
  proxy: GuardedProxy,
  host: string,
  since: number,
): { failure: string; refusal: Refusal } | undefined {
  const refusal = proxy.refusalOf(host, since)
  return refusal && { failure: sentenceOf(refusal), refusal }
}

/** What is on the page as it is now. Asked of Chromium itself: the driver waits for fonts and settles animations first, which takes longer than the launch. */
async function pictureOf(session: CDPSession): Promise<Buffer | null> {
  const taken = session
    .send('Page.captureScreenshot', { format: 'jpeg', quality: 60, optimizeForSpeed: true })
    .then(({ data }) => Buffer.from(data, 'base64'))
    .catch(() => null)
  return Promise.race([taken, after(PICTURE_MS, null)])
}

function toolFrame(page: Page, { target }: BrowserLaunch): () => Frame | undefined {
  return () => (target === 'window' ? page.mainFrame() : page.mainFrame().childFrames()[0])
}

function after<T>(ms: number, value: T): Promise<T> {
  return new Promise((resolve) => setTimeout(() => resolve(value), ms).unref())
}
