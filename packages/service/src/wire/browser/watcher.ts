import { Refusal, sentenceOf, type ErrorCode } from '@bathyscribe/contract'
import type { Seen } from '@bathyscribe/core/checks'
import { visibleText } from '@bathyscribe/core/text'
import { FRAME_PERMISSIONS, framingRefusal, POLICY_FEATURES, type FramePermission } from '@bathyscribe/core/links'
import type { Frame, Page, Request, Response } from 'playwright-core'
import type { Walked, WalkRequest, WalkStep } from '../walk.js'
import type { BrowserLaunch } from './launch.js'

const LOOK_EVERY_MS = 60
/** A page is taken to be done when nothing new has come for so long after something was to be seen. */
const QUIET_MS = 350
/** One that says little may be on its way to another: “One moment …”. */
const LITTLE_CHARACTERS = 80
const LITTLE_QUIET_MS = 1500
/** A page that answers no question for so long is kept busy by a script of its own. */
const ANSWERS_WITHIN_MS = 2500
const KEPT_CHARACTERS = 20_000
const MOST = 20

interface Shown {
  words: string
  visible: boolean
}

/** Asked inside the tool's page: what a person could read, and whether anything is drawn. */
const WHAT_IS_SHOWN = `(() => {
  const body = document.body
  // Of what is not drawn at all, innerText says everything (HTML section 3.2.7).
  const isDrawn = body && getComputedStyle(body).display !== 'none' && getComputedStyle(body).visibility !== 'hidden'
  const words = isDrawn ? body.innerText.trim() : ''
  const drawn = [...document.querySelectorAll('img, svg, canvas, video, iframe, object')].some((one) => {
    const box = one.getBoundingClientRect()
    return box.width > 8 && box.height > 8
  })
  return { words, visible: words !== '' || (isDrawn && drawn) }
})()`

/** By what name a page's asking is told. Whoever else calls it can say no more than what a page may be refused. */
const ASKED = 'bathyscribeAsked'
/**
 * Run before anything of a page: tells what it asks for while its frame has that shut. Whether a person would then agree is another matter, which nobody is here to say.
 * Of the policy itself only Chromium's own name for it is known to scripts (`featurePolicy`).
 */
const TELL_WHAT_IS_SHUT = `(() => {
  const tell = globalThis.${ASKED}
  const policy = document.featurePolicy
  if (!tell || !policy) return
  const isShut = (feature) => !policy.allowsFeature(feature)
  const wrap = (owner, name, featuresOf) => {
    const original = owner && owner[name]
    if (typeof original !== 'function') return
    owner[name] = function (...given) {
      for (const feature of featuresOf(...given)) if (isShut(feature)) void tell(feature)
      return original.apply(this, given)
    }
  }
  wrap(globalThis.MediaDevices && MediaDevices.prototype, 'getUserMedia', (wanted = {}) => [
    ...(wanted.video ? ['camera'] : []),
    ...(wanted.audio ? ['microphone'] : []),
  ])
  wrap(globalThis.MediaDevices && MediaDevices.prototype, 'getDisplayMedia', () => ['display-capture'])
  wrap(globalThis.Clipboard && Clipboard.prototype, 'writeText', () => ['clipboard-write'])
  wrap(globalThis.Clipboard && Clipboard.prototype, 'write', () => ['clipboard-write'])
  wrap(Element.prototype, 'requestFullscreen', () => ['fullscreen'])
})()`

/** Asked inside our own page around the frame. */
const KEPT_BY_PLATFORM = `document.documentElement.dataset.kept === 'yes'`

/** What happens in a browser while it follows one launch. */
export class Watcher {
  stuck = false
  private readonly steps: (WalkStep & { at: number })[] = []
  private readonly setCookies: string[] = []
  private readonly scriptErrors: string[] = []
  private readonly mixedContent: string[] = []
  private readonly popups: string[] = []
  private readonly blockedCookies: Seen['blockedCookies'] = []
  private readonly shutPermissions = new Set<FramePermission>()
  private readonly begunAt = new Map<Request, number>()
  private ended: { failure?: string; stopped?: WalkRequest } | undefined
  private broken: { url: string; reason: string } | undefined
  private last: { status: number; url: string; headers: Record<string, string> } | undefined
  private visibleMs: number | null = null
  private shown: Shown = { words: '', visible: false }
  private html = ''
  private keptByPlatform = false
  /** Whether the tool's page could be asked at all. */
  private hasAnswered = false
  /** The last answer that was a page. */
  private answer: Response | undefined
  private changedAt = 0
  /** Looks since something was new: on a busy machine they are as slow as the page itself, which a clock is not. */
  private quietLooks = 0
  /** Whether the tool has asked for what it is launched with; of LTI 1.1 it has it from the start. */
  private isAnswered: boolean
  /** Where the last answer redirects to. */
  private ledTo: string | undefined

  constructor(
    private readonly page: Page,
    private readonly launch: BrowserLaunch,
  ) {
    this.isAnswered = launch.answer === undefined
  }

  /** The tool has asked, and was answered. */
  answered(): void {
    this.isAnswered = true
    this.isNew()
  }

  private isNew(): void {
    this.changedAt = performance.now()
    this.quietLooks = 0
  }

  async begin(): Promise<void> {
    const { page } = this
    page.on('request', (request) => {
      this.begunAt.set(request, performance.now())
      this.isNew()
    })
    page.on('response', (response) => void this.note(response))
    page.on('requestfailed', (request) => {
      if (
        request.isNavigationRequest() &&
        this.isTools(request.url()) &&
        !/ERR_ABORTED/.test(request.failure()?.errorText ?? '')
      )
        this.broken = { url: request.url(), reason: request.failure()?.errorText ?? 'it was not loaded' }
    })
    page.on('pageerror', (error) => keep(this.scriptErrors, error.message.split('\n')[0]!))
    page.on('console', (message) => {
      if (/mixed content/i.test(message.text())) keep(this.mixedContent, message.text().slice(0, 200))
    })
    page.on('dialog', (dialog) => void dialog.dismiss().catch(() => undefined))
    page.context().on('page', (other) => {
      if (other === page) return
      keep(this.popups, other.url())
      void other.close().catch(() => undefined)
    })
    await page.exposeBinding(ASKED, (_, feature: unknown) => {
      const one = FRAME_PERMISSIONS.find((permission) => POLICY_FEATURES[permission] === feature)
      if (one) this.shutPermissions.add(one)
    })
    await page.addInitScript(TELL_WHAT_IS_SHUT)
    const session = await page.context().newCDPSession(page)
    const pages = new Set<string>()
    session.on('Network.requestWillBeSent', ({ requestId, type }) => type === 'Document' && pages.add(requestId))
    session.on('Network.responseReceivedExtraInfo', ({ requestId, statusCode, headers, blockedCookies }) => {
      const location = pages.has(requestId) && statusCode >= 300 && statusCode < 400 ? (headers['location'] ?? headers['Location']) : undefined // oxfmt-ignore
      if (location && URL.canParse(location, this.launch.url)) this.ledTo = new URL(location, this.launch.url).href
      for (const { blockedReasons, cookieLine } of blockedCookies)
        if (this.blockedCookies.length < MOST)
          this.blockedCookies.push({ name: cookieLine.split('=')[0]!.slice(0, 60), reason: blockedReasons.join(', ') })
    })
    await session.send('Network.enable')
  }

  end(how: { failure?: string; stopped?: WalkRequest }): void {
    this.ended ??= how
  }

  /** Waits until the tool's page is there and quiet, or shows that it will not be. */
  async settle(frameOf: () => Frame | undefined, limitMs: number): Promise<void> {
    const started = performance.now()
    this.isNew()
    while (performance.now() - started < limitMs && !this.ended && !this.page.isClosed()) {
      await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS))
      const frame = frameOf()
      if (this.broken) break
      if (!frame || !this.isTools(frame.url())) {
        // That it failed may be told a moment after the error is shown.
        if (frame?.url().startsWith('chrome-error:')) {
          await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS))
          this.broken ??= { url: this.last?.url ?? this.launch.url, reason: 'the browser shows an error' }
        }
        // The driver does not hear of every frame that is drawn: then there is the answer itself to read.
        if (this.last && performance.now() - this.changedAt > this.patience(ANSWERS_WITHIN_MS, limitMs)) break
        continue
      }
      const shown = await this.ask(frame)
      if (this.stuck) break
      if (!shown) continue
      this.hasAnswered = true
      if (shown.words !== this.shown.words) this.isNew()
      this.quietLooks++
      this.shown = shown
      if (shown.visible) this.visibleMs ??= performance.now() - started
      const quietMs = this.patience(quietFor(shown, limitMs), limitMs)
      if (performance.now() - this.changedAt > quietMs && this.quietLooks > quietMs / LOOK_EVERY_MS / 2) break
    }
    const frame = frameOf()
    if (!this.stuck && frame && this.isTools(frame.url()))
      this.html = await within(frame.content(), ANSWERS_WITHIN_MS, '').catch(() => '')
    if (this.html === '' && !this.hasAnswered && !this.stuck && !this.broken && this.answer) {
      this.html = await within(this.answer.text(), ANSWERS_WITHIN_MS, '').catch(() => '')
      const words = visibleText(this.html)
      this.shown = { words, visible: words !== '' }
      if (words !== '') this.visibleMs = this.changedAt - started
    }
    if (this.launch.target === 'frame' && !this.stuck)
      this.keptByPlatform = await within(this.page.evaluate<boolean>(KEPT_BY_PLATFORM), ANSWERS_WITHIN_MS, false).catch(() => false) // oxfmt-ignore
  }

  found(
    durationMs: number,
    refusalOf: (host: string) => { failure: string; refusal: Refusal } | undefined,
    isSending: boolean,
  ): { walked: Walked; seen: Seen } {
    const { broken, ended, last, launch } = this
    const isFramed = launch.target === 'frame'
    const host = broken && URL.canParse(broken.url) ? new URL(broken.url).host : new URL(launch.url).host
    const ledAway =
      isFramed && broken && /BLOCKED_BY_CSP/.test(broken.reason) ? new URL(this.ledTo ?? broken.url).origin : null
    const refusedBy = isFramed && last && broken && ledAway === null ? framingRefusal(last.headers, last.url, new URL(launch.platformUrl).origin) : undefined // oxfmt-ignore
    const frameRefused = refusedBy === undefined ? null : `it is answered with “${refusedBy.slice(0, 120)}”`
    const isHidden = ledAway !== null || frameRefused !== null
    // A page that was cut off may have begun well; the guard knows why it did not end.
    const refused = !isHidden && (broken || this.stuck || this.html === '') && !ended ? (gaveUp(broken, host) ?? refusalOf(host) ?? endless(isSending, host)) : undefined // oxfmt-ignore
    if (refused) this.stuck = false
    const failure =
      ended?.failure ??
      refused?.failure ??
      (broken && !isHidden ? `The browser could not open ${host}: ${broken.reason}.` : null) ??
      (last || ended || isHidden ? null : `The browser got no answer from ${host} in time.`)
    return {
      walked: {
        status: last?.status ?? (isHidden ? 200 : 0),
        url: last?.url ?? this.launch.url,
        body: (this.html || this.shown.words).slice(0, KEPT_CHARACTERS),
        headers: last?.headers ?? {},
        setCookies: this.setCookies,
        steps: this.steps.map(({ at: _, ...step }) => step),
        durationMs: this.visibleMs ?? durationMs,
        stopped: ended?.stopped ?? null,
        failure: this.stuck ? null : failure,
        code: refused?.refusal.code ?? null,
      },
      seen: {
        visibleMs: this.visibleMs,
        frameRefused,
        ledAway,
        keptByPlatform: this.keptByPlatform,
        blockedCookies: this.blockedCookies,
        scriptErrors: this.scriptErrors,
        mixedContent: this.mixedContent,
        popups: this.popups,
        shutPermissions: [...this.shutPermissions],
        stuck: this.stuck,
        words: this.shown.words.slice(0, KEPT_CHARACTERS),
        html: this.html.slice(0, KEPT_CHARACTERS),
      },
    }
  }

  private async note(response: Response): Promise<void> {
    const request = response.request()
    this.isNew()
    if (!request.isNavigationRequest() || !this.isTools(response.url())) return
    const begun = this.begunAt.get(request) ?? performance.now()
    if (this.steps.length < MOST)
      this.steps.push({
        method: request.method(),
        url: response.url(),
        status: response.status(),
        durationMs: performance.now() - begun,
        at: begun,
      })
    this.steps.sort((a, b) => a.at - b.at)
    if (response.status() < 300 || response.status() >= 400) {
      this.last = { status: response.status(), url: response.url(), headers: response.headers() }
      this.answer = response
    }
    const all = await response.headersArray().catch(() => [])
    this.setCookies.push(...all.filter(({ name }) => name.toLowerCase() === 'set-cookie').map(({ value }) => value))
  }

  /** A tool that was begun and has not asked yet may be slow; that it does not ask at all is said of no tool too early. */
  private patience(quietMs: number, limitMs: number): number {
    const isRefused = this.last !== undefined && this.last.status >= 400
    return this.isAnswered || isRefused ? quietMs : Math.max(quietMs, limitMs / 2)
  }

  private async ask(frame: Frame): Promise<Shown | undefined> {
    const hung = Symbol('hung')
    const answer = await within(
      frame.evaluate<Shown>(WHAT_IS_SHOWN).catch(() => undefined),
      ANSWERS_WITHIN_MS,
      hung,
    )
    if (answer !== hung) return answer
    // A page that is still on its way asks nothing of its scripts; one that has begun and does not answer is busy for good.
    if (this.last) this.stuck = true
    return undefined
  }

  private isTools(url: string): boolean {
    return /^https?:/.test(url) && !url.startsWith(`${this.launch.platformUrl}/`)
  }
}

function quietFor({ visible, words }: Shown, limitMs: number): number {
  if (!visible) return limitMs / 2
  return words.length < LITTLE_CHARACTERS ? LITTLE_QUIET_MS : QUIET_MS
}

const GAVE_UP: readonly [RegExp, ErrorCode][] = [
  [/TOO_MANY_REDIRECTS/, 'outgoing.too_many_redirects'],
  [/CLIENT_AUTH_CERT/, 'outgoing.wants_certificate'],
  [/ERR_(CERT|SSL)_/, 'outgoing.tls'],
]
/** Where Chromium gave up by itself. */
function gaveUp(broken: { reason: string } | undefined, host: string) {
  const code = broken && GAVE_UP.find(([reason]) => reason.test(broken.reason))?.[1]
  if (!code) return undefined
  return asFailure(new Refusal(code, code === 'outgoing.tls' ? `${host}: ${broken.reason}` : host))
}

/** A page that keeps the browser busy before it has come to its end is not held up by a script, as far as anybody can tell. */
function endless(isSending: boolean, host: string) {
  return isSending ? asFailure(new Refusal('outgoing.timeout', host)) : undefined
}

function asFailure(refusal: Refusal) {
  return { failure: sentenceOf(refusal), refusal }
}

function keep(list: string[], text: string): void {
  if (list.length < MOST && !list.includes(text)) list.push(text)
}

function within<T, U>(promise: Promise<T>, ms: number, otherwise: U): Promise<T | U> {
  return Promise.race([promise, new Promise<U>((resolve) => setTimeout(() => resolve(otherwise), ms).unref())])
}
