import type { AddressInfo } from 'node:net'
import { createServer } from 'node:http'
import { newKey } from '@bathyscribe/practice-tools'
import { createRemoteJWKSet, exportJWK, jwtVerify, SignJWT, type JWTPayload } from 'jose'
import { closeAfterwards } from './closing.js'
import { openForm, type TestAcademy, type Visitor } from './harness.js'

/** A tool's end of LTI 1.3 in the tests' own hands: it serves a keyset, and does by jose alone what a tool does. */
export interface Client13 {
  origin: string
  /** How often its keyset was asked for. */
  keysetReads: () => number
  /** What its keyset address answers instead of its key. */
  answerKeyset: (answer: ((kid: string) => { status?: number; body: string; delayMs?: number }) | undefined) => void
  /** A new key, published at once. */
  rotate: () => Promise<void>
  assertion: (clientId: string, change?: JWTPayload, header?: Record<string, unknown>) => Promise<string>
  token: (form: Record<string, string>) => Promise<{ status: number; body: Record<string, string> }>
}

export async function startClient13(academy: TestAcademy): Promise<Client13> {
  let key = await newKey()
  let reads = 0
  let special: Parameters<Client13['answerKeyset']>[0]
  const jwk = async () => {
    const { kty, n, e } = await exportJWK(key.key)
    return { kty, n, e, kid: key.kid, alg: 'RS256', use: 'sig' }
  }
  const server = createServer((_, response) => {
    reads++
    void (async () => {
      const answer = special?.(key.kid) ?? { body: JSON.stringify({ keys: [await jwk()] }) }
      if (answer.delayMs) await new Promise((resolve) => setTimeout(resolve, answer.delayMs))
      response.writeHead(answer.status ?? 200, { 'content-type': 'application/json' }).end(answer.body)
    })()
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  closeAfterwards(() => server.close())
  const tokenUrl = `${academy.url}/lti/token`
  return {
    origin: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    keysetReads: () => reads,
    answerKeyset: (answer) => (special = answer),
    async rotate() {
      key = await newKey()
    },
    assertion: (clientId, change = {}, header = {}) => {
      const now = Math.floor((Date.now() + academy.clock.offsetMs) / 1000)
      const claims = {
        iss: clientId,
        sub: clientId,
        aud: tokenUrl,
        iat: now,
        exp: now + 300,
        jti: crypto.randomUUID(),
        ...change,
      }
      return new SignJWT(claims).setProtectedHeader({ alg: 'RS256', kid: key.kid, ...header }).sign(key.key)
    },
    async token(form) {
      const response = await fetch(tokenUrl, {
        method: 'POST',
        body: new URLSearchParams({
          grant_type: 'client_credentials',
          client_assertion_type: 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer',
          ...form,
        }),
      })
      return { status: response.status, body: (await response.json()) as Record<string, string> }
    },
  }
}

export const SCORE = 'https://purl.imsglobal.org/spec/lti-ags/scope/score'
export const LINE_ITEM = 'https://purl.imsglobal.org/spec/lti-ags/scope/lineitem'

/** Registers the tests' own client by hand. */
export function register13({ admin }: TestAcademy, client: Client13, change: Record<string, unknown> = {}) {
  return admin.client.call('registerTool', {
    body: {
      name: 'Bearing Book',
      version: '1.3',
      launchUrl: `${client.origin}/target`,
      initiationUrl: `${client.origin}/login`,
      redirectUris: [`${client.origin}/launch`, `${client.origin}/other`],
      keysetUrl: `${client.origin}/keyset`,
      scopes: [SCORE, LINE_ITEM],
      disclosure: 'name_and_email',
      ...change,
    },
  })
}

/** What a browser would send to our authorisation address, good unless changed; null takes a parameter away. */
export function authorizationOf(
  initiation: Record<string, string>,
  redirectUri: string,
  change: Record<string, string | null> = {},
): URLSearchParams {
  const all: Record<string, string | null> = {
    scope: 'openid',
    response_type: 'id_token',
    response_mode: 'form_post',
    prompt: 'none',
    client_id: initiation['client_id']!,
    redirect_uri: redirectUri,
    login_hint: initiation['login_hint']!,
    lti_message_hint: initiation['lti_message_hint']!,
    state: 'state-of-the-tool',
    nonce: crypto.randomUUID(),
    ...change,
  }
  return new URLSearchParams(Object.entries(all).filter((one): one is [string, string] => one[1] !== null))
}

export interface Launched13 {
  /** Where the browser posts the answer; empty when it was given a page of ours instead. */
  action: string
  fields: Record<string, string>
  page: string
  status: number
  nonce: string
}

/** Begins a launch as a person and answers the initiation as the tool would. */
export async function launch13(
  who: Visitor,
  linkId: string,
  client: Client13,
  options: { query?: string; change?: Record<string, string | null>; post?: boolean; by?: Visitor } = {},
): Promise<Launched13> {
  const begun = await openForm(who, linkId, options.query)
  if (!begun.action) return { action: '', fields: {}, page: begun.page, status: begun.status, nonce: '' }
  return authorize13(options.by ?? who, begun.fields, client, options)
}

export async function authorize13(
  who: Visitor,
  initiation: Record<string, string>,
  client: Client13,
  options: { change?: Record<string, string | null>; post?: boolean } = {},
): Promise<Launched13> {
  const asked = authorizationOf(initiation, `${client.origin}/launch`, options.change)
  const response = options.post
    ? await who.send('/lti/authorize', { method: 'POST', body: asked })
    : await who.send(`/lti/authorize?${asked}`)
  const page = await response.text()
  const action = /action="([^"]*)"/.exec(page)?.[1] ?? ''
  const fields = Object.fromEntries(
    [...page.matchAll(/<input type="hidden" name="([^"]*)" value="([^"]*)"/g)].map(([, name, value]) => [
      name!,
      value!,
    ]),
  )
  return { action, fields, page, status: response.status, nonce: asked.get('nonce') ?? '' }
}

/** Verifies an id_token as a tool must, by jose and our published keyset alone. */
export async function verified(academy: TestAcademy, token: string, clientId: string): Promise<JWTPayload> {
  const keys = createRemoteJWKSet(new URL(`${academy.url}/lti/keyset`))
  const { payload, protectedHeader } = await jwtVerify(token, keys, {
    issuer: academy.url,
    audience: clientId,
    algorithms: ['RS256'],
    requiredClaims: ['sub', 'iat', 'exp', 'nonce'],
    currentDate: new Date(Date.now() + academy.clock.offsetMs),
  })
  if (protectedHeader.kid === undefined) throw new Error('The id_token names no key.')
  return payload
}
