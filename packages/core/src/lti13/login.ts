import { Problem } from '../result/index.js'
import { sameDigest, shortMac } from '../oauth1/digest.js'
import { base64url, unbase64url } from './jws.js'

/** What a login hint stands for: one launch, for one person, once, for a short time. */
export interface LoginHint {
  /** Single use hangs on this. */
  id: string
  registrationId: string
  /** Who is signed in. */
  actorId: string
  /** Who is launched: the same person, or the test learner. */
  personId: string
  /** What is opened: a link, or a tool's picker. */
  kind: 'link' | 'picker'
  /** Of the link, or of the picking. */
  linkId: string
  target: 'frame' | 'window'
  /** Whose submission is to be reviewed; empty for everything else. */
  aboutId: string
  expiresSeconds: number
}

/** The two hints of a login initiation (Security Framework 1.0 section 5.1.1.1). They are of no use without each other. */
export interface Hints {
  login: string
  message: string
}

const FIELDS = [
  'id',
  'registrationId',
  'actorId',
  'personId',
  'kind',
  'linkId',
  'target',
  'aboutId',
  'expiresSeconds',
] as const

/** Writes both hints: the login hint names the launch, the message hint carries it, sealed with a message code. */
export function writeHints(key: Uint8Array, hint: LoginHint): Hints {
  const body = base64url(new TextEncoder().encode(FIELDS.map((name) => hint[name]).join(' ')))
  return { login: hint.id, message: `${body}.${shortMac(key, `login ${body}`)}` }
}

/** Reads both hints; undefined unless both were written by us under one of these keys, for the same launch. Does NOT look at time or use. */
export function readHints(keys: readonly Uint8Array[], hints: Hints): LoginHint | undefined {
  const [body = '', mac = ''] = hints.message.split('.')
  if (!keys.some((key) => sameDigest(mac, shortMac(key, `login ${body}`)))) return undefined
  const values = new TextDecoder().decode(unbase64url(body)).split(' ')
  const read = Object.fromEntries(FIELDS.map((name, i) => [name, values[i] ?? ''])) as Record<
    (typeof FIELDS)[number],
    string
  >
  if (read.id !== hints.login || (read.target !== 'frame' && read.target !== 'window')) return undefined
  if (read.kind !== 'link' && read.kind !== 'picker') return undefined
  return { ...read, kind: read.kind, target: read.target, expiresSeconds: Number(read.expiresSeconds) }
}

/** The parameters of a login initiation (Security Framework 1.0 section 5.1.1.1; LTI 1.3 core section 4.1.1). */
export function initiationParameters(facts: {
  issuer: string
  clientId: string
  deploymentId: string
  targetLinkUri: string
  hints: Hints
}): [string, string][] {
  return [
    ['iss', facts.issuer],
    ['login_hint', facts.hints.login],
    ['target_link_uri', facts.targetLinkUri],
    ['lti_message_hint', facts.hints.message],
    ['client_id', facts.clientId],
    ['lti_deployment_id', facts.deploymentId],
    ['lti_storage_target', '_parent'],
  ]
}

/** An authorisation request as it came in (LTI 1.3 core section 4.1.2; OpenID Connect Core section 3.2.2.1). */
export type AuthorizationRequest = Readonly<Record<string, string>>

/** Why an authorisation request is answered with an error. */
export type AuthorizationProblem = Problem<
  'login.parameter_missing' | 'login.parameter_wrong' | 'login.response_type' | 'login.scope' | 'login.value_too_long'
>

interface Demand {
  name: string
  value?: RegExp
  wanted?: string
  code: AuthorizationProblem['code']
}

const wrong = (name: string, wanted: string): Demand => ({
  name,
  wanted,
  value: new RegExp(`^${wanted}$`),
  code: 'login.parameter_wrong',
})
const needed = (name: string): Demand => ({ name, code: 'login.parameter_missing' })

/** What each parameter must be, in the order in which it is looked at. `client_id` and `redirect_uri` come before all of these. */
const DEMANDS: readonly Demand[] = [
  {
    name: 'response_type',
    wanted: 'id_token',
    value: /^id_token$/,
    code: 'login.response_type',
  },
  { name: 'scope', wanted: 'openid', value: /(^| )openid( |$)/, code: 'login.scope' },
  wrong('response_mode', 'form_post'),
  wrong('prompt', 'none'),
  needed('nonce'),
  needed('login_hint'),
  needed('lti_message_hint'),
]
const MAX_CHARACTERS = 4000

/** Checks the form of an authorisation request. Does NOT check client, redirect address, hints or who is signed in. */
export function checkAuthorization(request: AuthorizationRequest): AuthorizationProblem | undefined {
  for (const [name, text] of Object.entries(request))
    if (text.length > MAX_CHARACTERS) return new Problem('login.value_too_long', name.slice(0, 60))
  for (const { name, value, wanted, code } of DEMANDS) {
    const given = request[name]
    if (!given && !value) return new Problem(code, name)
    if (value && !value.test(given ?? ''))
      return new Problem(code, `${name} is “${(given ?? '').slice(0, 60)}”, not “${wanted!}”`)
  }
  return undefined
}

/** Where two addresses first differ, for a redirect address that is nearly right. */
export function addressDifference(given: string, registered: readonly string[]): string {
  if (registered.length === 0) return 'none is registered'
  const shared = (one: string) => {
    let i = 0
    while (i < one.length && i < given.length && one[i] === given[i]) i++
    return i
  }
  const nearest = registered.reduce((best, one) => (shared(one) > shared(best) ? one : best))
  const at = shared(nearest)
  const rest = (text: string) => (text.length > at ? `“${text.slice(at, at + 60)}”` : 'nothing more')
  return `the nearest registered one is “${nearest.slice(0, 200)}”; from character ${at + 1} on it has ${rest(nearest)}, the request ${rest(given)}`
}
