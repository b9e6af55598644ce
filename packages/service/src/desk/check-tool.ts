import { ERRORS, Refusal } from '@bathyscribe/contract'
import { worstVerdict, type Verdict } from '@bathyscribe/core/checks'
import { checkLaunchAddress, framingRefusal } from '@bathyscribe/core/links'
import type { RegistrationRecord } from '../records/entities/courses.js'
import type { OutgoingAnswer } from '../wire/outgoing.js'
import type { Context } from './context.js'

export interface ToolFinding {
  check: string
  verdict: Verdict
  statement: string
  remedy: string | null
}

const CLOCK_WARN_SECONDS = 30

/** Looks at a registration and at the tool's end, without launching: address, answer, time, framing, clock. */
export async function checkTool(
  context: Context,
  tool: RegistrationRecord,
): Promise<{ verdict: Verdict; findings: ToolFinding[]; durationMs: number }> {
  const started = performance.now()
  const findings = [checkState(tool), ...(await checkEnd(context, tool.launchUrl, tool.documentTarget === 'frame'))]
  return { verdict: worstVerdict(findings), findings, durationMs: performance.now() - started }
}

function checkState(tool: RegistrationRecord): ToolFinding {
  if (!tool.secretSealed)
    return found(
      'registration',
      'fail',
      'The registration holds no shared secret.',
      'Enter the secret that the tool’s end shows.',
    )
  if (tool.state !== 'enabled')
    return found('registration', 'fail', `The registration is ${tool.state}.`, 'Enable it before it is used.')
  return found(
    'registration',
    'pass',
    `Enabled; the secret was set on ${tool.secretSetAt!.toISOString().slice(0, 10)}.`,
  )
}

/** Reachability of one launch address. A plain GET is no launch: any answer below 500 shows that somebody is there. */
export async function checkEnd(context: Context, launchUrl: string | null, framed: boolean): Promise<ToolFinding[]> {
  if (launchUrl === null)
    return [found('address', 'skipped', 'The registration has no launch address of its own; each assignment has one.')]
  const problem = checkLaunchAddress(launchUrl)
  if (problem)
    return [found('address', 'fail', `${ERRORS[problem.code].sentence} (${problem.detail})`, ERRORS[problem.code].hint)]

  const url = new URL(launchUrl)
  const address = isPlain(url)
    ? found(
        'address',
        'warn',
        'The address begins with http: launches can be read on the way.',
        'Use the tool’s https address if it has one.',
      )
    : found('address', 'pass', `The address is ${url.protocol === 'https:' ? 'secure' : 'on this machine'}.`)
  let answer: OutgoingAnswer
  try {
    answer = await context.outgoing.send({ method: 'GET', url })
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    const { sentence, hint } = ERRORS[error.code]
    return [address, found('answer', 'fail', `${sentence} (${error.detail ?? url.host})`, hint)]
  }
  return [
    address,
    checkAnswer(answer),
    ...(framed ? [checkFraming(context, answer, launchUrl)] : []),
    ...checkClock(context, answer),
  ]
}

function checkAnswer({ status, durationMs }: OutgoingAnswer): ToolFinding {
  const time = `in ${Math.round(durationMs)} ms`
  return status >= 500
    ? found(
        'answer',
        'fail',
        `The tool’s server answers ${status} ${time}.`,
        'Its server is in trouble: ask the tool’s support.',
      )
    : found('answer', 'pass', `The tool’s server answers ${time}.`)
}

function checkFraming(context: Context, { headers }: OutgoingAnswer, url: string): ToolFinding {
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

function checkClock(context: Context, { headers }: OutgoingAnswer): ToolFinding[] {
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

function isPlain(url: URL): boolean {
  return url.protocol === 'http:' && !/^(localhost|127\.|\[::1\])/.test(url.hostname)
}

function found(check: string, verdict: Verdict, statement: string, remedy: string | null = null): ToolFinding {
  return { check, verdict, statement, remedy }
}
