import { frameAllowance, type FramedTool } from '@bathyscribe/core/links'
import { escapeUTF8 } from 'entities'
import type { FastifyReply } from 'fastify'

/** Markup that is safe to put into a page as it stands. */
export class Html {
  constructor(readonly text: string) {}
}

const MARKUP = /["&'<>]/
/** With `&#39;` in place of `&apos;`, which readers of earlier HTML do not know. Most values have nothing to escape. */
const escapeHtml = (text: string) => (MARKUP.test(text) ? escapeUTF8(text).replaceAll('&apos;', '&#39;') : text)

/** Writes markup; every value that is not `Html` itself is escaped. */
export function html(parts: TemplateStringsArray, ...values: (string | Html | readonly Html[])[]): Html {
  let text = parts[0]!
  values.forEach((value, i) => {
    text +=
      typeof value === 'string'
        ? escapeHtml(value)
        : value instanceof Html
          ? value.text
          : value.map((one) => one.text).join('')
    text += parts[i + 1]!
  })
  return new Html(text)
}

const STYLE = `
:root { color-scheme: light dark; font: 16px/1.5 system-ui, sans-serif; }
body { margin: 0; background: light-dark(#fbf9f4, #14191d); color: light-dark(#1c2429, #e6e2d8); }
main { max-width: 34rem; margin: 12vh auto; padding: 0 1.5rem; }
h1 { font-size: 1.35rem; margin: 0 0 .5rem; } p { margin: 0 0 1rem; }
a, button { color: light-dark(#174f78, #7db8e0); font: inherit; }
button { border: 1px solid currentColor; background: none; border-radius: .3rem; padding: .35rem .9rem; cursor: pointer; }
.stage, .stage iframe { position: fixed; inset: 0; width: 100%; height: 100%; border: 0; background: #fff; }
`

const SCRIPT = `document.getElementById('launch').submit()\n`

/**
 * Platform Storage (Client Side postMessages 1.0): a framed tool that gets no cookies keeps a few values with us. Only origins of this launch are
 * answered, each sees its own values only, and both number and size are bounded.
 */
const STAGE_SCRIPT = `
const origins = document.currentScript.dataset.origins.split(' ')
const SUBJECTS = ['lti.capabilities', 'lti.put_data', 'lti.get_data']
const MOST_KEYS = 50, MOST_CHARACTERS = 4096
const nameOf = (origin) => 'lti ' + origin
const read = (origin) => JSON.parse(sessionStorage.getItem(nameOf(origin)) || '{}')
const isText = (value) => typeof value === 'string' && value.length > 0 && value.length <= MOST_CHARACTERS
addEventListener('message', (event) => {
  const { data, origin, source } = event
  if (!origins.includes(origin) || typeof data !== 'object' || data === null || !SUBJECTS.includes(data.subject)) return
  const reply = { subject: data.subject + '.response', message_id: data.message_id }
  const answer = (more) => source.postMessage({ ...reply, ...more }, origin)
  const fail = (code, message) => answer({ error: { code, message } })
  if (data.subject === 'lti.capabilities')
    return answer({ supported_messages: SUBJECTS.map((subject) => ({ subject })) })
  if (!isText(data.key)) return fail('bad_request', 'key must be a text of at most ' + MOST_CHARACTERS + ' characters')
  const values = read(origin)
  if (data.subject === 'lti.get_data') return answer({ key: data.key, value: Object.hasOwn(values, data.key) ? values[data.key] : null })
  if (data.value === null || data.value === undefined) delete values[data.key]
  else if (!isText(data.value)) return fail('bad_request', 'value must be a text of at most ' + MOST_CHARACTERS + ' characters')
  else if (!Object.hasOwn(values, data.key) && Object.keys(values).length >= MOST_KEYS)
    return fail('storage_exhaustion', 'at most ' + MOST_KEYS + ' keys')
  else Object.defineProperty(values, data.key, { value: data.value, enumerable: true, configurable: true, writable: true })
  sessionStorage.setItem(nameOf(origin), JSON.stringify(values))
  document.documentElement.dataset.kept = 'yes'
  answer({ key: data.key, value: data.value ?? null })
})
`

/** The few static parts of the protocol's own pages. */
export const PAGE_ASSETS = {
  '/lti/assets/page.css': { type: 'text/css; charset=utf-8', text: STYLE },
  '/lti/assets/launch.js': { type: 'text/javascript; charset=utf-8', text: SCRIPT },
  '/lti/assets/stage.js': { type: 'text/javascript; charset=utf-8', text: STAGE_SCRIPT },
} as const

interface PageOptions {
  status?: number
  /** Origins that may be framed by this page. */
  frames?: readonly string[]
}

/** A page with the policy that it is shown under: no scripts but ours, frames only where named, shown only in frames of ours. */
export interface Page {
  headers: Record<string, string>
  text: string
}

function pageOf(title: string | Html, body: Html, frames?: readonly string[]): Page {
  const policy = [
    "default-src 'none'",
    "script-src 'self'",
    "style-src 'self'",
    "base-uri 'none'",
    "frame-ancestors 'self'",
    ...(frames ? [`frame-src 'self' ${frames.join(' ')}`] : []),
  ]
  const page = html`<!doctype html>
    <html lang="en">
      <head>
        <meta charset="utf-8" />
        <meta name="viewport" content="width=device-width" />
        <title>${title}</title>
        <link rel="stylesheet" href="/lti/assets/page.css" />
      </head>
      <body>
        ${body}
      </body>
    </html>`
  return {
    headers: {
      'content-type': 'text/html; charset=utf-8',
      'content-security-policy': policy.join('; '),
      'referrer-policy': 'strict-origin-when-cross-origin',
      'x-content-type-options': 'nosniff',
      'cache-control': 'no-store',
    },
    text: page.text,
  }
}

export function sendPage(reply: FastifyReply, title: string, body: Html, options: PageOptions = {}): FastifyReply {
  return send(reply, pageOf(title, body, options.frames), options.status)
}

export function send(reply: FastifyReply, { headers, text }: Page, status = 200): FastifyReply {
  return reply.code(status).headers(headers).send(text)
}

interface Form {
  url: string
  fields: readonly (readonly [string, string])[]
  /** What is done: `Opening`. */
  doing: string
}

/**
 * A form that posts itself to the tool; without scripts it waits for a click. Its own words are ASCII: a single character beyond Latin-1, such as a typed ellipsis, and V8 holds
 * the page in two bytes a character, which costs as much again to send (docs/performance.md).
 */
export function formPage(form: Form): Page {
  const inputs = form.fields.map(([name, value]) => html`<input type="hidden" name="${name}" value="${value}" />`)
  return pageOf(
    html`${form.doing}&hellip;`,
    html`<main>
        <form id="launch" method="post" action="${form.url}" accept-charset="utf-8">
          ${inputs}
          <p>${form.doing} ${new URL(form.url).host} &hellip;</p>
          <button>Go on</button>
        </form>
      </main>
      <script src="/lti/assets/launch.js"></script>`,
  )
}

export function sendForm(reply: FastifyReply, form: Form): FastifyReply {
  return send(reply, formPage(form))
}

/** The page around a tool's frame. */
export function stagePage(stage: FramedTool & { title: string; source: string }): Page {
  return pageOf(
    stage.title,
    html`<div class="stage">
        <iframe
          src="${stage.source}"
          title="${stage.title}"
          allow="${frameAllowance(stage.permissions, stage.origins)}"
        ></iframe>
      </div>
      <script src="/lti/assets/stage.js" data-origins="${stage.origins.join(' ')}"></script>`,
    stage.origins,
  )
}

/** A page for a person who cannot go on: what happened, what to do, and the way back. */
export function sendNotice(
  reply: FastifyReply,
  notice: {
    title: string
    text: string
    detail?: string | undefined
    back?: { url: string; text: string }
    status?: number
  },
): FastifyReply {
  const { back, detail } = notice
  const body = html`<main>
    <h1>${notice.title}</h1>
    <p>${notice.text}</p>
    ${detail === undefined ? html`` : html`<p>${detail}</p>`}
    ${back === undefined ? html`` : html`<p><a href="${back.url}" target="_top">${back.text}</a></p>`}
  </main>`
  return sendPage(reply, notice.title, body, notice.status === undefined ? {} : { status: notice.status })
}
