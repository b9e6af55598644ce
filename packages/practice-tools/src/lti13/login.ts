import { randomBytes } from 'node:crypto'
import type { FastifyReply, FastifyRequest } from 'fastify'
import { LaunchRefused, type Fields } from '../lti1/verify-launch.js'
import { toolPage, type Look } from '../parts/page.js'
import type { Switches } from '../parts/switches.js'
import type { Tool13Fault } from './faults.js'
import type { Platform, Tool13State } from './state.js'

const COOKIE = 'practice_login'
const KEPT_MS = 600_000

interface Begun {
  platform: Platform
  nonce: string
  /** What the browser must bring back, by cookie or from the platform's storage. */
  secret: string
  until: number
}

/** Logins that were begun, by state. Each is finished once. */
export class Logins {
  private readonly begun = new Map<string, Begun>()

  constructor(
    private readonly publicUrl: string,
    private readonly state: Tool13State,
    private readonly switches: Switches<Tool13Fault>,
    private readonly look: Look,
  ) {}

  /** Third-party initiated login (Security Framework 1.0 section 5.1.1.1): answers by sending the browser to the platform. @throws LaunchRefused */
  begin(fields: Fields, request: FastifyRequest, reply: FastifyReply): FastifyReply {
    const does = (fault: Tool13Fault) => this.switches.does(fault)
    const platform = this.state.platform(fields['iss'] ?? '', fields['client_id'])
    if (!platform || does('knows_other_issuer'))
      throw new LaunchRefused(
        400,
        `${this.look.name} does not know the platform ${fields['iss'] ?? ''} under the client ID ${fields['client_id'] ?? ''}.`,
      )
    if (!fields['login_hint'] || !fields['target_link_uri']?.startsWith(this.publicUrl))
      throw new LaunchRefused(400, 'The initiation lacks login_hint, or its target is not ours.')
    if (does('sends_nowhere'))
      return reply
        .type('text/html')
        .send(toolPage(this.look, 'Welcome', '', '<h1>Welcome aboard</h1><p>Nothing to see here.</p>'))

    const [state, nonce, secret] = [token(), token(), token()]
    this.forget()
    this.begun.set(state, { platform, nonce, secret, until: Date.now() + KEPT_MS })
    const hint = fields['lti_message_hint'] ?? ''
    const query: Record<string, string> = {
      scope: 'openid',
      response_type: 'id_token',
      response_mode: 'form_post',
      prompt: does('wrong_prompt') ? 'login' : 'none',
      client_id: does('wrong_client') ? 'somebody-else' : platform.clientId,
      redirect_uri: `${this.publicUrl}/launch${does('wrong_redirect') ? '/' : ''}`,
      login_hint: fields['login_hint'],
      lti_message_hint: does('changes_hints') ? hint.slice(0, -1) : hint,
      nonce,
      ...(!does('no_state') && { state }),
    }
    const url = `${platform.authorizationUrl}?${new URLSearchParams(query).toString()}`
    if (!does('no_cookies'))
      void reply.header('set-cookie', `${COOKIE}=${secret}; Path=/; HttpOnly; SameSite=None; Secure`)
    // In a frame cookies may be lost, so the platform keeps the secret as well; elsewhere there is no parent to keep it.
    if (isFramed(request) && fields['lti_storage_target'] === '_parent')
      return this.sendStoragePage(reply, {
        key: state,
        value: secret,
        url,
        origin: new URL(platform.authorizationUrl).origin,
      })
    return reply.redirect(url)
  }

  /** Takes a login that comes back, once. @throws LaunchRefused */
  finish(state: string | undefined): Begun {
    const begun = this.switches.does('forgets_logins') ? undefined : this.begun.get(state ?? '')
    this.begun.delete(state ?? '')
    if (!begun || begun.until < Date.now())
      throw new LaunchRefused(401, `${this.look.name} did not begin this login, or it was finished before.`)
    return begun
  }

  /** Whether the browser that comes back is the one that began: its cookie says so. Where cookies are lost, the page asks the platform’s storage. */
  cookieMatches(begun: Begun, request: FastifyRequest): boolean {
    return (request.headers.cookie ?? '').split(/;\s*/).includes(`${COOKIE}=${begun.secret}`)
  }

  /** Keeps the secret with the platform (Platform Storage) before the browser goes on. */
  private sendStoragePage(
    reply: FastifyReply,
    data: { key: string; value: string; url: string; origin: string },
  ): FastifyReply {
    const script = `
const data = ${JSON.stringify(data).replaceAll('<', '\\u003c')}
const go = () => location.replace(data.url)
addEventListener('message', (event) => {
  if (event.origin === data.origin && event.data && event.data.subject === 'lti.put_data.response' && event.data.message_id === data.key) go()
})
parent.postMessage({ subject: 'lti.put_data', message_id: data.key, key: data.key, value: data.value }, data.origin)
setTimeout(() => { document.querySelector('p').textContent = 'The platform keeps no values for us.' }, 5000)`
    return reply
      .type('text/html; charset=utf-8')
      .send(toolPage(this.look, 'One moment', '', `<p>One moment …</p><script>${script}</script>`))
  }

  private forget(): void {
    for (const [state, { until }] of this.begun) {
      if (until > Date.now()) break
      this.begun.delete(state)
    }
  }
}

/** Whether a browser loads this into a frame (Fetch Metadata). Programs that follow a login do not say so. */
export function isFramed(request: FastifyRequest): boolean {
  return request.headers['sec-fetch-dest'] === 'iframe'
}

/** A page that asks the platform's storage for the secret of a login, then posts it with the token once more. */
export function storageCheckPage(look: Look, fields: { key: string; origin: string; pass: string }): string {
  const script = `
const data = ${JSON.stringify(fields).replaceAll('<', '\\u003c')}
addEventListener('message', (event) => {
  if (event.origin !== data.origin || !event.data || event.data.subject !== 'lti.get_data.response' || event.data.message_id !== data.key) return
  const form = document.querySelector('form')
  form.elements.secret.value = event.data.value ?? ''
  form.submit()
})
parent.postMessage({ subject: 'lti.get_data', message_id: data.key, key: data.key }, data.origin)`
  return toolPage(
    look,
    'One moment',
    '',
    `<p>One moment …</p><form method="post" action="/launch/stored"><input type="hidden" name="pass" value="${fields.pass}"><input type="hidden" name="secret"></form><script>${script}</script>`,
  )
}

function token(): string {
  return randomBytes(18).toString('base64url')
}
