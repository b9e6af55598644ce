import { ERRORS, sentenceOf } from '@bathyscribe/contract'
import { worstVerdict, type Verdict } from '@bathyscribe/core/checks'
import { belongsTo, checkLaunchAddress, framingRefusal } from '@bathyscribe/core/links'
import { requireComplete } from './registration.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { OutgoingAnswer } from '../../wire/outgoing.js'
import { walk } from '../../wire/walk.js'
import type { Context } from '../context.js'
import { checkCookies, checkScheme, found, foundRefusal, type ToolFinding } from './check-parts.js'
import { checkCredentials11 } from './check-credentials.js'
import { check13 } from './check-tool-13.js'

const CLOCK_WARN_SECONDS = 30

/** Looks at a registration and at the tool's end, without launching anybody. Each finding says what mends it. */
export async function checkTool(
  context: Context,
  tool: RegistrationRecord,
): Promise<{ verdict: Verdict; findings: ToolFinding[]; durationMs: number }> {
  const started = performance.now()
  const findings = [
    checkState(tool),
    ...(await checkLinks(context, tool)),
    ...(await checkEnd(context, tool.launchUrl, tool.documentTarget === 'frame')),
  ]
  findings.push(...(tool.version === '1.3' ? await check13(context, tool) : await checkCredentials11(context, tool)))
  return { verdict: worstVerdict(findings), findings, durationMs: performance.now() - started }
}

function checkState(tool: RegistrationRecord): ToolFinding {
  try {
    requireComplete(tool)
  } catch (error) {
    return foundRefusal('registration', error)
  }
  if (tool.state !== 'enabled')
    return found('registration', 'fail', `The registration is ${tool.state}.`, 'Enable it before it is used.')
  return found(
    'registration',
    'pass',
    tool.secretSetAt
      ? `Enabled; the secret was set on ${tool.secretSetAt.toISOString().slice(0, 10)}.`
      : 'Enabled, with everything it needs.',
  )
}

/** A tool that moved leaves links behind that have addresses of their own. */
async function checkLinks(context: Context, tool: RegistrationRecord): Promise<ToolFinding[]> {
  const home = tool.launchUrl ?? tool.initiationUrl
  if (home === null) return []
  const away = (await context.records.addressMoves.origins(tool.id)).filter(({ origin }) => !belongsTo(origin, [home]))
  return away.map(({ origin, n }) =>
    found(
      'links',
      'warn',
      `${n} ${n === 1 ? 'link has an address' : 'links have addresses'} at ${origin}, the registration is at ${new URL(home).origin}.`,
      `If the tool moved, let them follow: “Move addresses” on its page, or \`bathyscribe tool move-addresses ${tool.slug} --from ${origin} --to ${new URL(home).origin}\`.`,
    ),
  )
}

/** Reachability of one launch address. A plain GET is no launch: any answer below 500 shows that somebody is there. */
export async function checkEnd(context: Context, launchUrl: string | null, framed: boolean): Promise<ToolFinding[]> {
  if (launchUrl === null)
    return [found('address', 'skipped', 'The registration has no launch address of its own; each link has one.')]
  const problem = checkLaunchAddress(launchUrl)
  if (problem) return [found('address', 'fail', sentenceOf(problem), ERRORS[problem.code].hint)]

  const url = new URL(launchUrl)
  const address = checkScheme(url, 'The address')
  const walked = await walk(context.outgoing, { method: 'GET', url: launchUrl }, { stopAt: () => false })
  if (walked.failure !== null)
    return [address, found('answer', 'fail', walked.failure, walked.code ? ERRORS[walked.code].hint : null)]
  return [
    address,
    checkAnswer(walked),
    ...checkRedirects(walked.steps, url),
    ...(framed ? [checkFraming(context, walked, walked.url), ...checkCookies(walked.setCookies, context)] : []),
    ...checkClock(context, walked),
  ]
}

function checkAnswer({ status, durationMs }: Pick<OutgoingAnswer, 'status' | 'durationMs'>): ToolFinding {
  const time = `in ${Math.round(durationMs)} ms`
  return status >= 500
    ? found(
        'answer',
        'fail',
        `The tool’s server answers ${status} ${time}.`,
        'Its server is in trouble: ask the tool’s support.',
      )
    : found('answer', 'pass', `The name resolves and the tool’s server answers ${time}.`)
}

function checkRedirects(steps: readonly { url: string }[], first: URL): ToolFinding[] {
  const last = new URL(steps.at(-1)!.url)
  if (steps.length < 2 || last.host === first.host) return []
  return [
    found(
      'redirects',
      'warn',
      `The launch address redirects to another host, ${last.host}: a launch posted there arrives without its fields.`,
      `Ask the vendor for the address that answers by itself; it may begin with ${last.origin}.`,
    ),
  ]
}

function checkFraming(context: Context, { headers }: Pick<OutgoingAnswer, 'headers'>, url: string): ToolFinding {
  const header = framingRefusal(headers, url, new URL(context.settings.publicUrl).origin)
  return header
    ? found(
        'framing',
        'fail',
        `The tool refuses to be shown in a frame: ${header}`,
        'Open it in a window, or have the tool allow our address.',
      )
    : found('framing', 'pass', 'The tool may be shown in a frame of ours.')
}

function checkClock(context: Context, { headers }: Pick<OutgoingAnswer, 'headers'>): ToolFinding[] {
  const theirs = Date.parse(headers['date'] ?? '')
  if (Number.isNaN(theirs)) return []
  const off = Math.round(Math.abs(theirs - context.clock.now().getTime()) / 1000)
  return [
    off > CLOCK_WARN_SECONDS
      ? found(
          'clock',
          off > context.settings.clockToleranceSeconds ? 'fail' : 'warn',
          `The tool’s clock is ${off} seconds off ours.`,
          'Set both clocks by a time server.',
        )
      : found('clock', 'pass', 'The tool’s clock agrees with ours.'),
  ]
}
