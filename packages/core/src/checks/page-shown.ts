import { elementTexts, readHtml, visibleText } from '../text/index.js'
import type { ToolAnswer } from './launch-answer.js'
import type { Verdict } from './sounding.js'

/** Something that a tool's page shows which no person who opens an assignment should meet. */
export interface PageRemark {
  check: 'login page' | 'error page'
  verdict: Verdict
  statement: string
  cause: string
  remedy: string
}

const SOUNDS_WRONG =
  /\b(error|failed|failure|refused|denied|forbidden|not found|unauthori[sz]ed|expired|unavailable|went wrong|invalid)\b/i

const HEADING_CHARACTERS = 400

/** Looks at a page that a tool answered well by its status: whether it is content, a login, or an error that does not say so by its status. */
export function remarksOfPage({ status, body }: Pick<ToolAnswer, 'status' | 'body'>): PageRemark[] {
  if (status < 200 || status >= 300) return []
  const tokens = readHtml(body)
  const asksForPassword = tokens.some(
    (token) =>
      token.kind === 'open' && token.name === 'input' && token.attributes['type']?.toLowerCase() === 'password',
  )
  if (asksForPassword)
    return [
      {
        check: 'login page',
        verdict: 'fail',
        statement: `The tool shows a login page instead of content: “${visibleText(body).slice(0, 160)}”`,
        cause: 'The tool asks people to sign in, although the launch has said who they are.',
        remedy:
          'Have the tool’s support say whether accounts must exist there before, and by what they are matched; or whether its session is lost in a frame: try a window.',
      },
    ]
  const heading = elementTexts(tokens, ['title', 'h1', 'h2'])
    .map((one) => one.slice(0, HEADING_CHARACTERS))
    .find((one) => SOUNDS_WRONG.test(one))
  if (heading === undefined) return []
  return [
    {
      check: 'error page',
      verdict: 'warn',
      statement: `The tool answered ${status}, but its page is headed “${heading.slice(0, 160)}”: “${visibleText(body).slice(0, 200)}”`,
      cause: `The tool’s page reads like an error: “${heading.slice(0, 160)}”`,
      remedy: 'Open it as the test learner and read it; if it is an error, send the wire entry to the tool’s support.',
    },
  ]
}

/**
 * Compares how a tool greets one person twice. Only the words around the person's name are looked at, because pages differ in much else.
 * @returns what differs; undefined when nothing does, or when the page does not name the person
 */
export function accountDifference(
  first: string,
  second: string,
  name: string,
): { was: string; is: string } | undefined {
  const was = around(visibleText(first), name)
  const is = around(visibleText(second), name)
  if (was === undefined || is === undefined || was === is) return undefined
  return { was, is }
}

const AROUND_CHARACTERS = 40

function around(text: string, name: string): string | undefined {
  const at = text.indexOf(name)
  return at < 0 ? undefined : text.slice(at, at + name.length + AROUND_CHARACTERS)
}
