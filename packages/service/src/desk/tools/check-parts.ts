import { ERRORS, Refusal, sentenceOf } from '@bathyscribe/contract'
import type { Verdict } from '@bathyscribe/core/checks'
import { cookiesLostInFrame, travelsOpenly } from '@bathyscribe/core/links'
import type { Context } from '../context.js'

export interface ToolFinding {
  check: string
  verdict: Verdict
  statement: string
  remedy: string | null
}

export function found(check: string, verdict: Verdict, statement: string, remedy: string | null = null): ToolFinding {
  return { check, verdict, statement, remedy }
}

/** What a refusal of ours says, as a finding that fails. Other errors go on. */
export function foundRefusal(check: string, error: unknown): ToolFinding {
  if (!(error instanceof Refusal)) throw error
  return found(check, 'fail', sentenceOf(error), ERRORS[error.code].hint)
}

export function checkScheme(url: URL, what: string): ToolFinding {
  return travelsOpenly(url.href)
    ? found(
        'address',
        'warn',
        `${what} begins with http: what is sent there can be read on the way.`,
        'Use the tool’s https address if it has one.',
      )
    : found('address', 'pass', `${what} is ${url.protocol === 'https:' ? 'secure' : 'on this machine'}.`)
}

/** @param setCookies lines of `Set-Cookie` that a launch in a frame would meet */
export function checkCookies(setCookies: readonly string[], context: Context): ToolFinding[] {
  const lost = cookiesLostInFrame(setCookies)
  if (setCookies.length === 0) return []
  if (lost.length === 0) return [found('cookies', 'pass', 'The tool’s cookies survive in a frame.')]
  const secure = context.settings.publicUrl.startsWith('https:')
  return [
    found(
      'cookies',
      secure ? 'fail' : 'warn',
      `Browsers drop these cookies of the tool in a frame: ${lost.slice(0, 5).join(', ')}.`,
      'Tell the tool’s support to set them with SameSite=None; Secure, or open the tool in a window.',
    ),
  ]
}
