import { Refusal, refusalFacts } from '@bathyscribe/contract'
import { found, worstVerdict, type Found, type Verdict } from '@bathyscribe/core/checks'
import { belongsTo, checkLaunchAddress, framingRefusal } from '@bathyscribe/core/links'
import { requireComplete } from './registration.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { OutgoingAnswer } from '../../wire/outgoing.js'
import { walk } from '../../wire/walk.js'
import type { Context } from '../context.js'
import { checkCookies, checkScheme } from './check-parts.js'
import { checkCredentials11 } from './check-credentials.js'
import { check13 } from './check-tool-13.js'

const CLOCK_WARN_SECONDS = 30

/** Looks at a registration and at the tool's end, without launching anybody. Each finding says what mends it. */
export async function checkTool(
  context: Context,
  tool: RegistrationRecord,
): Promise<{ verdict: Verdict; findings: Found[]; durationMs: number }> {
  const started = performance.now()
  const findings = [
    checkState(tool),
    ...(await checkLinks(context, tool)),
    ...(await checkEnd(context, tool.launchUrl, tool.documentTarget === 'frame')),
  ]
  findings.push(...(tool.version === '1.3' ? await check13(context, tool) : await checkCredentials11(context, tool)))
  return { verdict: worstVerdict(findings), findings, durationMs: performance.now() - started }
}

function checkState(tool: RegistrationRecord): Found {
  try {
    requireComplete(tool)
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    return found('registration', 'incomplete', { refusal: refusalFacts(error) })
  }
  if (tool.state !== 'enabled') return found('registration', 'not_enabled', { state: tool.state })
  return found('registration', 'complete', { secretSetOn: tool.secretSetAt?.toISOString().slice(0, 10) ?? null })
}

/** A tool that moved leaves links behind that have addresses of their own. */
async function checkLinks(context: Context, tool: RegistrationRecord): Promise<Found[]> {
  const home = tool.launchUrl ?? tool.initiationUrl
  if (home === null) return []
  const away = (await context.records.addressMoves.origins(tool.id)).filter(({ origin }) => !belongsTo(origin, [home]))
  return away.map(({ origin, n }) =>
    found('links', 'elsewhere', { count: n, origin, home: new URL(home).origin, tool: tool.slug }),
  )
}

/** Reachability of one launch address. A plain GET is no launch: any answer below 500 shows that somebody is there. */
export async function checkEnd(context: Context, launchUrl: string | null, framed: boolean): Promise<Found[]> {
  if (launchUrl === null) return [found('address', 'none', {})]
  const problem = checkLaunchAddress(launchUrl)
  if (problem) return [found('address', 'refused', { refusal: refusalFacts(problem) })]

  const url = new URL(launchUrl)
  const address = checkScheme('address', url, 'The address')
  const walked = await walk(context.outgoing, { method: 'GET', url: launchUrl }, { stopAt: () => false })
  const { failure, code } = walked
  if (failure !== null) return [address, found('answer', 'none', { failure, code })]
  return [
    address,
    checkAnswer(walked),
    ...checkRedirects(walked.steps, url),
    ...(framed ? [checkFraming(context, walked, walked.url), ...checkCookies(walked.setCookies, context)] : []),
    ...checkClock(context, walked),
  ]
}

function checkAnswer({ status, durationMs }: Pick<OutgoingAnswer, 'status' | 'durationMs'>): Found {
  const ms = Math.round(durationMs)
  return status >= 500 ? found('answer', 'server_error', { status, ms }) : found('answer', 'answers', { ms })
}

function checkRedirects(steps: readonly { url: string }[], first: URL): Found[] {
  const { host, origin } = new URL(steps.at(-1)!.url)
  return steps.length < 2 || host === first.host ? [] : [found('redirects', 'other_host', { host, origin })]
}

function checkFraming(context: Context, { headers }: Pick<OutgoingAnswer, 'headers'>, url: string): Found {
  const header = framingRefusal(headers, url, new URL(context.settings.publicUrl).origin)
  return header ? found('framing', 'refused', { header }) : found('framing', 'allowed', {})
}

function checkClock({ clock, settings }: Context, { headers }: Pick<OutgoingAnswer, 'headers'>): Found[] {
  const theirs = Date.parse(headers['date'] ?? '')
  if (Number.isNaN(theirs)) return []
  const seconds = Math.round(Math.abs(theirs - clock.now().getTime()) / 1000)
  if (seconds <= CLOCK_WARN_SECONDS) return [found('clock', 'agrees', {})]
  return [found('clock', 'off', { seconds, toleranceSeconds: settings.clockToleranceSeconds })]
}
