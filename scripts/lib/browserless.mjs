// People at work without a browser: sign in, open an assignment, answer the drill, as the pages' own forms have it.
import { createClient } from '@bathyscribe/contract'

const FORM = /<form[^>]*action="([^"]*)"/
const FIELD = /<input[^>]*type="hidden"[^>]*name="([^"]*)"[^>]*value="([^"]*)"/g

const unescape = (text) =>
  text
    .replaceAll('&quot;', '"')
    .replaceAll('&#39;', "'")
    .replaceAll('&lt;', '<')
    .replaceAll('&gt;', '>')
    .replaceAll('&amp;', '&')

/** One person's session: a client of the API, and a fetch that carries the session's cookies. */
export async function signIn(url, username, password) {
  const jar = new Map()
  const send = async (address, init = {}) => {
    const cookie = [...jar].map(([name, value]) => `${name}=${value}`).join('; ')
    const response = await fetch(address, { ...init, headers: { ...init.headers, cookie } })
    for (const line of response.headers.getSetCookie()) {
      const [name, value] = line.split(';')[0].split(/=(.*)/s)
      jar.set(name, value)
    }
    return response
  }
  let csrf = ''
  const client = createClient({ baseUrl: url, headers: () => (csrf ? { 'x-csrf-token': csrf } : {}), fetch: send })
  const session = await client.call('signIn', { body: { username, password } })
  csrf = session.csrfToken
  return { client, send, url, person: session.person }
}

/** Opens an assignment and posts the launch form, as the page's script would. @returns the tool's page */
export async function openAssignment(person, assignmentId, options = {}) {
  const as = options.rehearse ? '&as=test_learner' : ''
  const page = await (await person.send(`${person.url}/lti/launch/${assignmentId}?target=frame${as}`)).text()
  const action = FORM.exec(page)?.[1]
  if (!action)
    throw new Error(
      `No launch form: ${page
        .replace(/<[^>]*>/g, ' ')
        .trim()
        .slice(0, 200)}`,
    )
  return postForm(unescape(action), page, {})
}

/** Answers Knotwork's drill; `choices` are the indexes chosen. @returns the result page */
export async function answerDrill(toolPage, choices) {
  const fields = Object.fromEntries(choices.map((choice, i) => [`q${i}`, String(choice)]))
  return postForm(new URL('/answers', toolPage.url).href, toolPage.text, fields)
}

async function postForm(action, page, extra) {
  const fields = new URLSearchParams(
    [...page.matchAll(FIELD)].map(([, name, value]) => [unescape(name), unescape(value)]),
  )
  for (const [name, value] of Object.entries(extra)) fields.set(name, value)
  const response = await fetch(action, { method: 'POST', body: fields })
  return { status: response.status, url: response.url, text: await response.text() }
}
