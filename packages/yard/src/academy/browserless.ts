import { createClient, type Client } from '@bathyscribe/contract'

const FORM = /<form[^>]*action="([^"]*)"/
const FIELD = /<input[^>]*type="hidden"[^>]*name="([^"]*)"[^>]*value="([^"]*)"/g

/** A page as somebody sees it who reads HTML by hand. */
export interface Page {
  url: string
  text: string
  /** Posts one of its forms, by its action or the first, with more fields than it hides. */
  submit: (action: string | undefined, extra: Record<string, string>) => Promise<Page>
}

/** Somebody at work without a browser: signs in, opens pages, posts the forms on them. */
export interface Person {
  client: Client
  /** A fetch that carries the session's cookies. */
  send: typeof fetch
  url: string
  person: { id: string; username: string }
  follow: (path: string) => Promise<Page>
}

type Jar = Map<string, string>

const cookieOf = (jar: Jar) => [...jar].map(([name, value]) => `${name}=${value}`).join('; ')

function keep(jar: Jar, response: Response): void {
  for (const line of response.headers.getSetCookie()) {
    const [name = '', value = ''] = line.split(';')[0]!.split(/=(.*)/s)
    jar.set(name, value)
  }
}

const unescape = (text: string) =>
  text
    .replaceAll('&quot;', '"')
    .replaceAll('&#39;', "'")
    .replaceAll('&lt;', '<')
    .replaceAll('&gt;', '>')
    .replaceAll('&amp;', '&')

/** One person's session: a client of the API, and a fetch that carries the session's cookies. */
export async function signIn(url: string, username: string, password: string): Promise<Person> {
  const jar: Jar = new Map()
  const send: typeof fetch = async (address, init = {}) => {
    const headers = { ...(init.headers as Record<string, string>), cookie: cookieOf(jar) }
    const response = await fetch(address, { ...init, headers })
    keep(jar, response)
    return response
  }
  let csrf = ''
  const client = createClient({
    baseUrl: url,
    headers: (): Record<string, string> => (csrf ? { 'x-csrf-token': csrf } : {}),
    fetch: send,
  })
  const session = await client.call('signIn', { body: { username, password } })
  csrf = session.csrfToken ?? ''
  return { client, send, url, person: session.person, follow: (path) => follow(jar, url, path) }
}

/**
 * Opens a page of ours and goes on as a browser does: redirects, cookies by origin, and forms that post themselves.
 * @returns the page it ends at; `submit` posts one of its forms with more fields
 */
async function follow(jar: Jar, url: string, path: string): Promise<Page> {
  const jars = new Map([[url, jar]])
  async function visit(address: string, init: RequestInit = {}): Promise<Page> {
    const { origin } = new URL(address)
    const cookies: Jar = jars.get(origin) ?? new Map()
    jars.set(origin, cookies)
    const response = await fetch(address, { ...init, redirect: 'manual', headers: { cookie: cookieOf(cookies) } })
    keep(cookies, response)
    const location = response.headers.get('location')
    if (response.status >= 300 && response.status < 400 && location) return visit(new URL(location, address).href)
    return pageOf(address, await response.text())
  }
  async function pageOf(address: string, text: string): Promise<Page> {
    const forms = [...text.matchAll(/<form[^>]*action="([^"]*)"[^>]*>(.*?)<\/form>/gs)].map(
      ([all, action = '', inside = '']) => ({ all, action: unescape(action), inside }),
    )
    const page: Page = {
      url: address,
      text,
      submit(action, extra) {
        const form = action === undefined ? forms[0] : forms.find((one) => one.action === action)
        if (!form)
          throw new Error(
            `No form ${action ?? ''} at ${address}: ${text
              .replace(/<[^<>]*>/g, ' ')
              .trim()
              .slice(0, 300)}`,
          )
        return visit(new URL(form.action, address).href, { method: 'POST', body: fieldsOf(form.inside, extra) })
      },
    }
    return forms[0]?.all.includes('id="launch"') ? page.submit(forms[0].action, {}) : page
  }
  return visit(`${url}${path}`)
}

/** Opens an assignment and posts the launch form, as the page's script would. @returns the tool's page */
export async function openAssignment(
  person: Person,
  assignmentId: string,
  options: { rehearse?: boolean } = {},
): Promise<Answer> {
  const as = options.rehearse ? '&as=test_learner' : ''
  const page = await (await person.send(`${person.url}/lti/launch/${assignmentId}?target=frame${as}`)).text()
  const action = FORM.exec(page)?.[1]
  if (!action)
    throw new Error(
      `No launch form: ${page
        .replace(/<[^<>]*>/g, ' ')
        .trim()
        .slice(0, 200)}`,
    )
  return postForm(unescape(action), page, {})
}

/** Answers Knotwork's drill; `choices` are the indexes chosen. @returns the result page */
export async function answerDrill(toolPage: Answer, choices: readonly number[]): Promise<Answer> {
  const fields = Object.fromEntries(choices.map((choice, i) => [`q${i}`, String(choice)]))
  return postForm(new URL('/answers', toolPage.url).href, toolPage.text, fields)
}

/** The hidden fields of a form, and others beside them or in their place. */
function fieldsOf(form: string, extra: Record<string, string>): URLSearchParams {
  const hidden = [...form.matchAll(FIELD)].map(([, name = '', value = '']): [string, string] => [
    unescape(name),
    unescape(value),
  ])
  const fields = new URLSearchParams(hidden)
  for (const [name, value] of Object.entries(extra)) fields.set(name, value)
  return fields
}

/** What a tool answered to a form. */
interface Answer {
  status: number
  url: string
  text: string
}

async function postForm(action: string, page: string, extra: Record<string, string>): Promise<Answer> {
  const response = await fetch(action, { method: 'POST', body: fieldsOf(page, extra) })
  return { status: response.status, url: response.url, text: await response.text() }
}
