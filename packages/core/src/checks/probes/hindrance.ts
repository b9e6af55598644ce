import { readObjection } from '../../diagnosis/index.js'
import { readHtml, visibleText, type HtmlToken } from '../../text/index.js'
import type { ToolAnswer } from '../launch-answer.js'

/** What answers in the place of a tool, and says nothing of the launch that it was sent. */
export type Hindrance = 'too_many' | 'firewall' | 'maintenance' | 'sign_in' | 'consent' | 'server_error' | 'no_answer'

const TOO_MANY = 429
const UNAVAILABLE = 503
/** Statuses by which filters before a server turn requests away (RFC 9110 sections 15.5.4 and 15.5.7). */
const TURNED_AWAY = [403, 406, 429, 503]
/** Longer pages are a tool's own. */
const MOST_WORDS = 4000

const FIREWALL =
  /\b(firewall|captcha|not a robot|are you (a )?human|unusual traffic|security (rule|policy|check|service|solution)|request (was|has been) (blocked|rejected)|(you have|has) been blocked|checking your browser|enable (javascript and cookies|cookies and javascript)|blockiert|sicherheitsrichtlinie|bloqueada?|bloqu[ée]e? par|pare-feu|cortafuegos)\b/i
const MAINTENANCE =
  /\b(maintenance|back (soon|shortly)|temporarily unavailable|wartung(sarbeiten)?|wartungsmodus|mantenimiento|manuten[çc][ãa]o|indispon[ií]ble)\b/i
/** What a page says that stands in the place of all others, though its status is good. What is taught may be maintenance, too. */
const IN_MAINTENANCE =
  /\b((under|down for|in) maintenance|maintenance mode|be back (soon|shortly)|wartungsmodus|wegen wartung(sarbeiten)?|en mantenimiento|en maintenance|em manuten[çc][ãa]o)\b/i
const SHORT_PAGE = 400
const CONSENT_PATH = /\/(consent|authori[sz]e|oauth2?|grant)(\/|$)/i
const SIGN_IN_PATH = /\/(log-?in|sign-?in|sso|saml2?|anmelden|connexion|iniciar-sesion|entrar)(\/|$|\.)/i

/**
 * Recognises what answers before a tool comes to look at a launch: whatever key and secret it was signed with, the answer is the same, so that it says nothing of them. By status,
 * by the form on the page, by where the browser ended up; and by words only under a status that such servers answer with.
 */
export function hindranceOf(answer: ToolAnswer): Hindrance | undefined {
  const { status, body, url, returned, failure } = answer
  if (failure !== null) return 'no_answer'
  if (returned !== null) return undefined
  if (status === TOO_MANY) return 'too_many'
  const words = visibleText(body).slice(0, MOST_WORDS)
  if (TURNED_AWAY.includes(status) && FIREWALL.test(words)) return 'firewall'
  if (status === UNAVAILABLE && MAINTENANCE.test(words)) return 'maintenance'
  if (status === 200 && words.length < SHORT_PAGE && IN_MAINTENANCE.test(words)) return 'maintenance'
  if (status >= 500) return 'server_error'
  // Pages of errors have a form to sign in at their top often enough: then it is the error that counts.
  if (
    (asksForPassword(readHtml(body)) && readObjection(words) === undefined) ||
    (status < 400 && SIGN_IN_PATH.test(pathOf(url)))
  )
    return 'sign_in'
  return status < 400 && CONSENT_PATH.test(pathOf(url)) ? 'consent' : undefined
}

/** Whether it stands between us and the tool, which does not get to see anything. */
export function isInTheWay(what: Hindrance): boolean {
  return what !== 'sign_in' && what !== 'consent'
}

/** Whether a page asks whoever sees it for a password. */
export function asksForPassword(page: readonly HtmlToken[]): boolean {
  return page.some(
    (token) =>
      token.kind === 'open' && token.name === 'input' && token.attributes['type']?.toLowerCase() === 'password',
  )
}

function pathOf(url: string): string {
  return URL.canParse(url) ? new URL(url).pathname : ''
}
