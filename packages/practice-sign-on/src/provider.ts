import { exportJWK, generateKeyPair } from 'jose'
import { randomBytes } from 'node:crypto'
import type { IncomingMessage, ServerResponse } from 'node:http'
import Provider, { type Configuration } from 'oidc-provider'
import { SIGN_ON_CLIENT, SIGN_ON_HANDLE } from './client.js'
import { signInPage, text } from './page.js'
import { ACCOUNTS, subjectOf, type Account } from './people.js'

/** How it behaves. */
export interface SignOnState {
  /** Answers 503 to everything. */
  away: boolean
}

interface Options {
  issuer: string
  /** Public addresses of the services that may send people here. */
  services: readonly string[]
  accounts?: readonly Account[]
}

/** The practice identity provider: a general OpenID Provider with people of its own. Nothing of the service is in it. */
export class PracticeProvider {
  readonly state: SignOnState = { away: false }
  private constructor(
    private readonly options: Options,
    private provider: Provider,
  ) {}

  static async create(options: Options): Promise<PracticeProvider> {
    return new PracticeProvider(options, await makeProvider(options))
  }

  /** Signs by other keys from now on, and knows nothing of what it signed before. */
  async rotate(): Promise<void> {
    this.provider = await makeProvider(this.options)
  }

  async handle(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const { pathname } = new URL(request.url ?? '/', this.options.issuer)
    if (pathname === '/practice') return this.practise(request, response)
    if (this.state.away) return text(response, 503, 'The provider is closed.')
    if (pathname === '/') return text(response, 200, `Skerrow accounts, an OpenID Provider: ${this.options.issuer}`)
    if (pathname.startsWith('/interaction/')) return this.interact(request, response)
    await this.provider.callback()(request, response)
  }

  /** What the provider has to ask of a person: who it is. */
  private async interact(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const accounts = this.options.accounts ?? ACCOUNTS
    const { uid } = await this.provider.interactionDetails(request, response)
    if (request.method !== 'POST') return signInPage(response, { uid, accounts })
    const username = (await formOf(request)).get('username') ?? ''
    const account = accounts.find((one) => one.username === username)
    if (!account) return signInPage(response, { uid, accounts, wrong: username })
    await this.provider.interactionFinished(
      request,
      response,
      { login: { accountId: subjectOf(account), remember: true } },
      { mergeWithLastSubmission: false },
    )
  }

  /** For demos and tests: how it behaves from now on. */
  private async practise(request: IncomingMessage, response: ServerResponse): Promise<void> {
    if (request.method === 'POST') {
      const wanted = await formOf(request)
      if (wanted.has('away')) this.state.away = wanted.get('away') === 'true'
      if (wanted.has('rotate')) await this.rotate()
    }
    text(response, 200, JSON.stringify(this.state), 'application/json')
  }
}

async function formOf(request: IncomingMessage): Promise<URLSearchParams> {
  let body = ''
  for await (const chunk of request) {
    body += String(chunk)
    if (body.length > 10_000) break
  }
  return new URLSearchParams(body)
}

async function makeProvider({ issuer, services, accounts = ACCOUNTS }: Options): Promise<Provider> {
  const { privateKey } = await generateKeyPair('RS256', { extractable: true })
  const key = { ...(await exportJWK(privateKey)), kid: randomBytes(6).toString('hex'), alg: 'RS256', use: 'sig' }
  const at = (path: string) => services.map((service) => `${service}${path}`)
  const configuration: Configuration = {
    clients: [
      {
        client_id: SIGN_ON_CLIENT.clientId,
        client_secret: SIGN_ON_CLIENT.clientSecret,
        redirect_uris: at(`/sign-on/${SIGN_ON_HANDLE}/return`),
        post_logout_redirect_uris: at('/sign-in'),
        backchannel_logout_uri: at(`/sign-on/${SIGN_ON_HANDLE}/sign-out`)[0]!,
        backchannel_logout_session_required: true,
      },
    ],
    jwks: { keys: [key] },
    cookies: { keys: [randomBytes(24).toString('hex')] },
    claims: {
      openid: ['sub', 'sid', 'auth_time'],
      email: ['email', 'email_verified'],
      profile: ['name', 'given_name', 'family_name', 'preferred_username', 'groups'],
    },
    findAccount: (_, subject) => {
      const found = accounts.find((one) => subjectOf(one) === subject)
      return found && { accountId: subject, claims: async () => claimsOf(found) }
    },
    // Its people need not be asked whether the academy's own service may know their names.
    loadExistingGrant: async ({ oidc }) => {
      const grant = new oidc.provider.Grant({ clientId: oidc.client!.clientId, accountId: oidc.session!.accountId! })
      grant.addOIDCScope('openid profile email')
      await grant.save()
      return grant
    },
    interactions: { url: (_, { uid }) => `/interaction/${uid}` },
    // The library calls no loopback address by itself, and the services that this one tells of signing out are there.
    fetch: (url, { dispatcher: _, ...options }: RequestInit & { dispatcher?: unknown } = {}) => fetch(url, options),
    features: { devInteractions: { enabled: false }, backchannelLogout: { enabled: true } },
    ttl: { Session: 3600, Interaction: 900, AccessToken: 300, IdToken: 300, Grant: 3600 },
  }
  return new Provider(issuer, configuration)
}

function claimsOf(account: Account) {
  return {
    sub: subjectOf(account),
    name: account.name,
    given_name: account.givenName,
    family_name: account.familyName,
    preferred_username: account.username,
    email: account.email,
    email_verified: account.emailVerified,
    groups: [...account.groups],
  }
}
