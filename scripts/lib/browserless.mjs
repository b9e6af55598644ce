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
  return { client, send, url, person: session.person, follow: (path) => follow(jar, url, path) }
}

/**
 * Opens a page of ours and goes on as a browser does: redirects, cookies by origin, and forms that post themselves.
 * @returns the page it ends at; `submit` posts one of its forms with more fields
 */
async function follow(jar, url, path) {
  const jars = new Map([[url, jar]])
  async function visit(address, init = {}) {
    const { origin } = new URL(address)
    if (!jars.has(origin)) jars.set(origin, new Map())
    const cookies = jars.get(origin)
    const cookie = [...cookies].map(([name, value]) => `${name}=${value}`).join('; ')
    const response = await fetch(address, { ...init, redirect: 'manual', headers: { cookie } })
    for (const line of response.headers.getSetCookie()) {
      const [name, value] = line.split(';')[0].split(/=(.*)/s)
      cookies.set(name, value)
    }
    const location = response.headers.get('location')
    if (response.status >= 300 && response.status < 400 && location) return visit(new URL(location, address).href)
    return pageOf(address, await response.text())
  }
  async function pageOf(address, text) {
    const forms = [...text.matchAll(/<form[^>]*action="([^"]*)"[^>]*>(.*?)<\/form>/gs)].map(
      ([all, action, inside]) => ({ all, action: unescape(action), inside }),
    )
    const page = {
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
        const fields = new URLSearchParams(
          [...form.inside.matchAll(FIELD)].map(([, name, value]) => [unescape(name), unescape(value)]),
        )
        for (const [name, value] of Object.entries(extra)) fields.set(name, value)
        return visit(new URL(form.action, address).href, { method: 'POST', body: fields })
      },
    }
    return forms[0]?.all.includes('id="launch"') ? page.submit(forms[0].action, {}) : page
  }
  return visit(`${url}${path}`)
}

/** Opens an assignment and posts the launch form, as the page's script would. @returns the tool's page */
export async function openAssignment(person, assignmentId, options = {}) {
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
