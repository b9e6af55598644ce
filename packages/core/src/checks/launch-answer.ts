import { visibleText } from '../text/index.js'

/** What a tool answered to a launch, after its redirects. */
export interface ToolAnswer {
  /** Final HTTP status; 0 when nothing answered. */
  status: number
  url: string
  /** The start of the page, at most some kilobytes. */
  body: string
  /** Set when the tool sent the browser back to our return address: the parameters it gave. */
  returned: { message: string | null; log: string | null; error: string | null; errorLog: string | null } | null
  /** Set when no HTTP answer came at all: refused, timed out, forbidden … in words. */
  failure: string | null
}

/** Whether the tool took the launch, in words that quote it. Undefined when it did. */
export function launchRefusal(answer: ToolAnswer): string | undefined {
  if (answer.failure) return answer.failure
  const error = answer.returned?.error ?? answer.returned?.errorLog
  if (error) return `The tool sent the person back with: “${error.slice(0, 300)}”`
  if (answer.returned) return undefined
  if (answer.status >= 400) {
    const said = visibleText(answer.body).slice(0, 300)
    return `The tool answered ${answer.status}${said ? `: “${said}”` : ' with an empty page'}`
  }
  if (answer.status >= 300) return `The tool redirects with ${answer.status} but says nowhere to go.`
  if (!/<script|<iframe|<frame|<img|<form|<svg/i.test(answer.body) && visibleText(answer.body) === '')
    return 'The tool answered with an empty page.'
  return undefined
}

/** Reads `lti_msg`, `lti_log`, `lti_errormsg`, `lti_errorlog` from a return address (LTI 1.1.1 section 3). */
export function readReturn(url: string): NonNullable<ToolAnswer['returned']> {
  const query = new URL(url).searchParams
  const read = (name: string) => query.get(name)?.slice(0, 2000) || null
  return { message: read('lti_msg'), log: read('lti_log'), error: read('lti_errormsg'), errorLog: read('lti_errorlog') }
}
