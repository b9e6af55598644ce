import { remarksOfPage } from './page-shown.js'
import type { Finding } from './sounding.js'

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
  /** The page's script kept the browser busy until it was stopped. */
  stuck: boolean
  /** Words that a person could read. */
  words: string
  html: string
}

type SeenFinding = Pick<Finding, 'check' | 'verdict' | 'statement' | 'cause' | 'remedy'>

/** Judges what a browser saw. Each remark says what mends it; nothing is said of what is as it should be, but the time. */
export function judgeSeen(seen: Seen, target: 'frame' | 'window'): SeenFinding[] {
  const found: SeenFinding[] = []
  const say = (check: string, verdict: SeenFinding['verdict'], statement: string, cause: string, remedy: string) =>
    found.push({ check, verdict, statement, cause, remedy })
  if (seen.stuck)
    say('script', 'fail', 'A script of the tool’s page kept the browser busy until it was stopped.', 'A script of the tool’s page never ends.', 'Send the tool’s support the time and the page’s address.') // oxfmt-ignore
  if (seen.frameRefused !== null)
    say(
      'framing',
      'fail',
      `The browser does not show the page in our frame: ${seen.frameRefused}.`,
      'The tool refuses frames, and this assignment opens it in one.',
      'Set the assignment to open in a window, or have the tool allow our address.',
    )
  if (seen.ledAway !== null)
    say(
      'framing',
      'fail',
      `In our frame the tool leads on to ${seen.ledAway}, and only the addresses of its registration are framed.`,
      `The tool leads on to ${seen.ledAway}, which our frame does not show.`,
      'Set the assignment to open in a window; or, if the address is the tool’s, register it as its launch address.',
    )
  const cookies = [...new Map(seen.blockedCookies.map((one) => [one.name, one])).values()]
  const lost = listed(cookies.map((one) => `“${one.name}” (${one.reason})`))
  if (cookies.length > 0 && seen.keptByPlatform)
    found.push({
      check: 'cookies',
      verdict: 'pass',
      statement: `The browser did not keep ${lost}; the tool keeps its state with the platform instead.`,
      cause: null,
      remedy: null,
    })
  else if (cookies.length > 0)
    say(
      'cookies',
      'warn',
      `The browser did not keep ${lost}.`,
      'The browser does not keep the tool’s cookies here, so people may be signed out at the next click.',
      target === 'frame'
        ? 'Open it in a window; or have the tool set its cookies with SameSite=None; Secure, or keep its state without cookies.'
        : 'Have the tool’s support look at the attributes of these cookies.',
    )
  if (seen.scriptErrors.length > 0)
    say(
      'script',
      'warn',
      `The tool’s page complains: “${seen.scriptErrors[0]!.slice(0, 200)}”${seen.scriptErrors.length > 1 ? ` and ${seen.scriptErrors.length - 1} more` : ''}.`,
      'A script of the tool’s page fails.',
      'Look at the picture whether the page can be used all the same, and send the words to the tool’s support.',
    )
  if (seen.mixedContent.length > 0)
    say(
      'mixed content',
      'warn',
      `The page asks for parts without TLS, which browsers keep out: ${listed(seen.mixedContent)}.`,
      'Parts of the tool’s page come without TLS.',
      'Have the tool’s support serve them by https.',
    )
  if (seen.popups.length > 0)
    say(
      'windows',
      'warn',
      `The page opened windows by itself: ${listed(seen.popups)}.`,
      'The tool opens windows that browsers block.',
      'Set the assignment to open in a window, or have the tool open them on a click.',
    )
  if (!hidden(seen)) found.push(...shown(seen))
  return found
}

/** Whether the browser kept the page from being seen, so that an empty page says nothing of the tool. */
export function hidden({ stuck, frameRefused, ledAway }: Seen): boolean {
  return stuck || frameRefused !== null || ledAway !== null
}

function shown(seen: Seen): SeenFinding[] {
  const remarks = remarksOfPage({ status: 200, body: seen.html })
  if (remarks.length > 0) return remarks
  if (seen.visibleMs === null)
    return [
      {
        check: 'visible',
        verdict: 'fail',
        statement: 'Nothing was to be seen: the page stayed blank.',
        cause: 'The tool’s page stays blank.',
        remedy: 'Look at the script errors and blocked cookies above; open it in a window to compare.',
      },
    ]
  return [
    {
      check: 'visible',
      verdict: 'pass',
      statement: `Something was to be seen after ${Math.round(seen.visibleMs)} ms: “${seen.words.replace(/\s+/g, ' ').trim().slice(0, 120)}”`,
      cause: null,
      remedy: null,
    },
  ]
}

function listed(all: readonly string[]): string {
  const some = all.slice(0, 3).map((one) => one.slice(0, 120))
  return some.join(', ') + (all.length > some.length ? ` and ${all.length - some.length} more` : '')
}
