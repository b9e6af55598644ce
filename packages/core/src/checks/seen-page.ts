import { found, type Found } from './findings/catalogue.js'
import { shortList } from './findings/page.js'
import { remarksOfPage } from './page-shown.js'
import type { FramePermission } from '../links/index.js'

/** What a real browser saw of a launch, in the frame or window that the assignment opens in. */
export interface Seen {
  /** Until the first words or images of the tool were to be seen; null when none came. */
  visibleMs: number | null
  /** Why the browser would not show it: its own name for the refusal. */
  frameRefused: string | null
  /** The origin that the tool led on to in our frame, which frames only the registration's own; null when it stayed. */
  ledAway: string | null
  /** Cookies that the browser did not take or send, by name, with its own reason. */
  blockedCookies: { name: string; reason: string }[]
  /** The tool kept values with the platform (Platform Storage), so that it needs no cookies in our frame. */
  keptByPlatform: boolean
  scriptErrors: string[]
  /** Addresses without TLS that a page with TLS asked for. */
  mixedContent: string[]
  /** Windows that the tool's page opened by itself. */
  popups: string[]
  /** What the page asked for and the frame does not let it use. */
  shutPermissions: FramePermission[]
  /** The page's script kept the browser busy until it was stopped. */
  stuck: boolean
  /** Words that a person could read. */
  words: string
  html: string
}

const COOKIES_NAMED = 3

/** Judges what a browser saw. Nothing is said of what is as it should be, but the time. @param tool short name of its registration */
export function judgeSeen(seen: Seen, target: 'frame' | 'window', tool: string): Found[] {
  const all: Found[] = []
  if (seen.stuck) all.push(found('script', 'never_ends', {}))
  if (seen.frameRefused !== null) all.push(found('framing', 'not_shown', { reason: seen.frameRefused }))
  if (seen.ledAway !== null) all.push(found('framing', 'led_away', { origin: seen.ledAway }))
  if (seen.blockedCookies.length > 0) {
    const lost = notKept(seen.blockedCookies)
    all.push(
      seen.keptByPlatform ? found('cookies', 'not_needed', lost) : found('cookies', 'not_kept', { ...lost, target }),
    )
  }
  const [error, ...errors] = seen.scriptErrors
  if (error !== undefined) all.push(found('script', 'fails', { error: error.slice(0, 200), more: errors.length }))
  if (seen.mixedContent.length > 0)
    all.push(found('mixed content', 'kept_out', { addresses: shortList(seen.mixedContent) }))
  if (seen.popups.length > 0) all.push(found('windows', 'opened', { addresses: shortList(seen.popups) }))
  if (seen.shutPermissions.length > 0)
    all.push(found('frame permissions', 'shut', { permissions: seen.shutPermissions, tool }))
  return hidden(seen) ? all : [...all, ...shown(seen)]
}

/** Whether the browser kept the page from being seen, so that an empty page says nothing of the tool. */
export function hidden({ stuck, frameRefused, ledAway }: Seen): boolean {
  return stuck || frameRefused !== null || ledAway !== null
}

function shown(seen: Seen): Found[] {
  const remarks = remarksOfPage({ status: 200, body: seen.html })
  if (remarks.length > 0) return remarks
  if (seen.visibleMs === null) return [found('visible', 'blank', {})]
  const words = seen.words.replace(/\s+/g, ' ').trim().slice(0, 120)
  return [found('visible', 'seen', { ms: Math.round(seen.visibleMs), words })]
}

/** Each cookie once, some of them by name. */
function notKept(blocked: Seen['blockedCookies']) {
  const each = [...new Map(blocked.map((one) => [one.name, one])).values()]
  return {
    cookies: each
      .slice(0, COOKIES_NAMED)
      .map(({ name, reason }) => ({ name: name.slice(0, 80), reason: reason.slice(0, 60) })),
    more: Math.max(0, each.length - COOKIES_NAMED),
  }
}
