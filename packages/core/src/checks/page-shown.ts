import { elementTexts, readHtml, visibleText } from '../text/index.js'
import { found, type Found } from './findings/catalogue.js'
import type { ToolAnswer } from './launch-answer.js'
import { asksForPassword } from './probes/hindrance.js'

const SOUNDS_WRONG =
  /\b(error|failed|failure|refused|denied|forbidden|not found|unauthori[sz]ed|expired|unavailable|went wrong|invalid)\b/i

const HEADING_CHARACTERS = 400

/** Looks at a page that a tool answered well by its status: whether it is content, a login, or an error that does not say so by its status. */
export function remarksOfPage({ status, body }: Pick<ToolAnswer, 'status' | 'body'>): Found[] {
  if (status < 200 || status >= 300) return []
  const tokens = readHtml(body)
  const words = (most: number) => visibleText(body).slice(0, most)
  if (asksForPassword(tokens)) return [found('login page', 'shown', { words: words(160) })]
  const heading = elementTexts(tokens, ['title', 'h1', 'h2'])
    .map((one) => one.slice(0, HEADING_CHARACTERS))
    .find((one) => SOUNDS_WRONG.test(one))
  if (heading === undefined) return []
  return [found('error page', 'shown', { status, heading: heading.slice(0, 160), words: words(200) })]
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
