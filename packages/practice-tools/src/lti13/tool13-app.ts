import formbody from '@fastify/formbody'
import fastify, { type FastifyInstance, type FastifyReply } from 'fastify'
import { LaunchRefused, type Fields } from '../lti1/verify-launch.js'
import { escape, returnForm, toolPage, valueTable, type Look } from '../parts/page.js'
import { Sessions } from '../parts/sessions.js'
import { answerHostile, registerHostile } from '../parts/hostile.js'
import { registerSwitches, Switches } from '../parts/switches.js'
import { pickingToken, type Item } from './answer-picking.js'
import { TOOL13_FAULTS, type Tool13Fault } from './faults.js'
import { isFramed, Logins, storageCheckPage } from './login.js'
import { AGS_ENDPOINT, GradeServices } from './grade-services.js'
import { clientMetadata, proposeChange, registerWith, type About } from './registration.js'
import { sendAs } from './send-score.js'
import { clientAssertion, requestToken, unsignedAssertion } from './service-token.js'
import { newKey, Tool13State, type Platform, type SigningKey } from './state.js'
import { verifyIdToken, type LaunchClaims } from './verify-token.js'

const AHEAD_MS = 600_000
/** A key that the platform never had, under a name of its own. */
const OLD_KEYSET = {
  keys: [{ kty: 'RSA', n: `u${'A'.repeat(340)}w`, e: 'AQAB', kid: 'of-long-ago', alg: 'RS256', use: 'sig' }],
}

export interface Tool13Options {
  publicUrl: string
  stateFile?: string
  slowMs?: number
}

/** What one tool of LTI 1.3 does beside what all of them do. */
export interface Tool13Parts {
  look: Look
  about: About
  onLaunch: (claims: LaunchClaims, session: string, reply: FastifyReply) => FastifyReply | Promise<FastifyReply>
  /** The picker's page. */
  onPick?: (claims: LaunchClaims, session: string, reply: FastifyReply) => FastifyReply | Promise<FastifyReply>
}

/** What a tool's own pages work with. */
export interface Tool13<L> {
  app: FastifyInstance
  state: Tool13State<L>
  switches: Switches<Tool13Fault>
  send: (reply: FastifyReply, title: string, who: string, body: string, status?: number) => FastifyReply
  /** The launch of a page's session. @throws LaunchRefused */
  find: (body: Fields | undefined) => { id: string; claims: LaunchClaims }
  /** Answers a picking with items, or with none. */
  answer: (reply: FastifyReply, claims: LaunchClaims, items: readonly Item[], message?: string) => Promise<FastifyReply>
  /** Sends a final score for the person of a launch (AGS 2.0 section 3.4). @returns what the platform made of it, in words */
  score: (claims: LaunchClaims, fraction: number, maximum?: number) => Promise<string>
  /** The platform's services, by tokens of this tool. */
  services: GradeServices
  /** A service token for some scopes. @throws LaunchRefused when the platform gives none */
  token: (scopes: readonly string[]) => Promise<string>
}

/** What every practice tool of LTI 1.3 has: registration, keyset, login, verified launches and pickings, switches. */
export async function createTool13<L>(
  options: Tool13Options,
  make: (tool: Tool13<L>) => Tool13Parts,
): Promise<FastifyInstance> {
  const tool = new PracticeTool13<L>(options)
  await tool.app.register(formbody)
  tool.serve(make(tool))
  return tool.app
}

class PracticeTool13<L> implements Tool13<L> {
  readonly app = fastify({ bodyLimit: 256 * 1024, forceCloseConnections: true })
  readonly state: Tool13State<L>
  readonly switches: Switches<Tool13Fault>
  readonly services = new GradeServices((scopes, url) => this.tokenFor(this.platform(url), scopes))
  private readonly publicUrl: string
  private readonly sessions = new Sessions<LaunchClaims>()
  /** Launches that are good but for the browser, which the platform's storage has yet to confirm. */
  private readonly unconfirmed = new Sessions<{ claims: LaunchClaims; secret: string }>()
  /** Made once: a key can take longer than a platform waits for a launch. */
  private unpublished: Promise<SigningKey> | undefined
  private readonly letIn = new Set<string>()
  private accounts = 0
  private parts!: Tool13Parts

  constructor(private readonly options: Tool13Options) {
    this.publicUrl = options.publicUrl
    this.state = new Tool13State<L>(options.stateFile)
    this.switches = new Switches<Tool13Fault>(TOOL13_FAULTS, this.state.value, () => {
      this.state.save()
      if (this.does('stale_key')) void this.unpublishedKey()
    })
  }

  serve(parts: Tool13Parts): void {
    this.parts = parts
    const { look } = parts
    this.app.setErrorHandler((error, _, reply) => {
      const status = error instanceof LaunchRefused ? error.status : 500
      const text = error instanceof LaunchRefused ? error.message : `${look.name} ran aground on this one.`
      return this.send(reply, 'Launch refused', '', `<p>${escape(text)}</p>`, status)
    })
    registerSwitches(this.app, look, this.switches, this.options.slowMs ?? 12_000)
    registerHostile(this.app)
    this.serveFront()
    this.serveRegistration()
    this.serveLaunches()
    this.servePractice()
  }

  send(reply: FastifyReply, title: string, who: string, body: string, status = 200): FastifyReply {
    return reply
      .code(status)
      .type('text/html; charset=utf-8')
      .send(toolPage(this.parts.look, title, who, `<h1>${escape(title)}</h1>${body}`))
  }

  find(body: Fields | undefined): { id: string; claims: LaunchClaims } {
    const id = body?.['session'] ?? ''
    const claims = this.sessions.find(id)
    if (!claims) throw new LaunchRefused(403, 'This page is too old. Open it again from your course.')
    return { id, claims }
  }

  async answer(
    reply: FastifyReply,
    claims: LaunchClaims,
    items: readonly Item[],
    message?: string,
  ): Promise<FastifyReply> {
    if (!claims.picking) throw new LaunchRefused(403, 'Nothing is being picked here.')
    const token = await pickingToken(this.platform(), await this.state.signingKey(), claims.picking, items, {
      does: (fault) => this.does(fault),
      ...(message && { message }),
    })
    return this.send(reply, 'Back to your course', claims.name, returnForm(claims.picking.returnUrl, { JWT: token }))
  }

  async score(claims: LaunchClaims, fraction: number, maximum = 1): Promise<string> {
    const lineItem = await this.columnOf(claims)
    if (!lineItem) return 'The platform gave no column to return a score to.'
    const known =
      this.state.value.platforms.find((one) => one.clientId === claims.all['aud']) ?? this.platform(lineItem)
    const used = this.does('score_other_registration') ? this.otherThan(known) : known
    const services = new GradeServices((scopes) => this.tokenFor(used, scopes))
    const { status, said } = await sendAs(this.switches, services, lineItem, {
      userId: claims.sub,
      activityProgress: 'Completed',
      gradingProgress: 'FullyGraded',
      scoreGiven: Number((fraction * maximum).toFixed(6)),
      scoreMaximum: maximum,
    })
    return status < 300 ? 'Your score was sent.' : `The platform refused the score: ${said}`
  }

  token(scopes: readonly string[]): Promise<string> {
    return this.tokenFor(this.platform(), scopes)
  }

  private does(fault: Tool13Fault): boolean {
    return this.switches.does(fault)
  }

  private unpublishedKey(): Promise<SigningKey> {
    return (this.unpublished ??= newKey())
  }

  private platform(url = ''): Platform {
    const known = this.state.platformFor(url)
    if (!known) throw new LaunchRefused(409, 'No platform is known yet.')
    return known
  }

  private otherThan(known: Platform): Platform {
    return this.state.value.platforms.find((one) => one.clientId !== known.clientId) ?? known
  }

  private async tokenFor(known: Platform, scopes: readonly string[]): Promise<string> {
    const { body } = await requestToken(known, await this.assertion(known), scopes)
    if (typeof body['access_token'] !== 'string')
      throw new LaunchRefused(502, `The platform gave no token: ${String(body['error_description'])}`)
    return body['access_token']
  }

  /** What the tool proves by who it is, as far as it does so rightly. */
  private async assertion(known: Platform): Promise<string> {
    if (this.does('algorithm_none')) return unsignedAssertion(known)
    return clientAssertion(known, this.does('stale_key') ? await this.unpublishedKey() : await this.state.signingKey())
  }

  /** The column that a launch was given; one of the tool's own when it misbehaves. */
  private async columnOf(claims: LaunchClaims): Promise<string | undefined> {
    const endpoint = claims.all[AGS_ENDPOINT] as { lineitem?: string; lineitems?: string } | undefined
    if (!this.does('duplicate_column') || !endpoint?.lineitems) return endpoint?.lineitem
    const resourceId = `own ${claims.linkId}`
    const mine = (await this.services.columns(endpoint.lineitems)).find((one) => one.resourceId === resourceId)
    const made =
      mine ??
      (await this.services.makeColumn(endpoint.lineitems, {
        label: claims.linkTitle,
        scoreMaximum: maximumOf(claims),
        resourceId,
      }))
    return made.id
  }

  /** The platform as the tool has it entered, rightly or not. */
  private believed(known: Platform): Platform {
    return {
      ...known,
      ...(this.does('knows_other_deployment') && { deploymentId: 'deployment-of-long-ago' }),
      ...(this.does('expects_other_audience') && { clientId: 'client-of-long-ago' }),
    }
  }

  private async enter(reply: FastifyReply, verified: LaunchClaims): Promise<FastifyReply> {
    const claims = this.does('new_account')
      ? { ...verified, name: `${verified.name}, account ${++this.accounts}` }
      : verified
    this.refuseAtTheDoor(claims)
    const endpoint = claims.all[AGS_ENDPOINT] as { lineitem?: string; lineitems?: string } | undefined
    const given = [endpoint?.lineitem, endpoint?.lineitems].filter((one) => one !== undefined)
    if (given.length > 0) this.state.noteAddresses(String(claims.all['aud']), given)
    // Whatever becomes of the score, the person is let in.
    await this.scoreAtOnce(claims).catch(() => undefined)
    const hostile = answerHostile(reply, (fault) => this.does(fault))
    if (hostile) return hostile
    const { onLaunch, onPick } = this.parts
    return (claims.picking ? (onPick ?? onLaunch) : onLaunch)(claims, this.sessions.open(claims), reply)
  }

  /** @throws LaunchRefused for those whom the tool does not let in, rightly or not */
  private refuseAtTheDoor(claims: LaunchClaims): void {
    if (claims.picking && !claims.instructor) throw new LaunchRefused(403, 'Only instructors choose here.')
    if (claims.picking && this.does('pick_closed')) throw new Error('The shelf fell down.')
    if (this.does('refuses_test_learner') && isTestUser(claims))
      throw new LaunchRefused(403, `${this.parts.look.name} takes no test learners.`)
    if (!this.does('once_only')) return
    if (this.letIn.has(claims.sub)) throw new LaunchRefused(403, 'You were here before. Everybody comes in once.')
    this.letIn.add(claims.sub)
  }

  /** A launch of a learner that says which score it wants is scored at once, without a person. */
  private async scoreAtOnce(claims: LaunchClaims): Promise<void> {
    const asked = claims.custom['practice_score']
    const wanted = Number(asked)
    if (this.does('sends_nothing') || claims.picking || claims.instructor) return
    if (asked !== undefined && Number.isFinite(wanted)) await this.score(claims, wanted)
  }

  private serveFront(): void {
    const { app, publicUrl, state } = this
    const { look, about } = this.parts
    app.get('/', (_, reply) =>
      this.send(
        reply,
        'For your platform',
        'Skerrow Maritime Academy',
        `<p>LTI 1.3. Give your platform the registration address, or enter these by hand.</p>${valueTable([
          ['Registration address', `${publicUrl}/register`],
          ['Configuration address', `${publicUrl}/config.json`],
          ['Login initiation address', `${publicUrl}/login`],
          ['Redirect address', `${publicUrl}/launch`],
          ['Target link URI', `${publicUrl}${about.target}`],
          ['Keyset address', `${publicUrl}/keyset`],
        ])}<p>Known platforms: ${state.value.platforms.map((one) => escape(`${one.issuer} (${one.clientId})`)).join(', ') || 'none yet'}.</p>`,
      ),
    )
    app.get('/config.json', (_, reply) => reply.send(clientMetadata(publicUrl, about)))
    app.get(about.target, (_, reply) => this.send(reply, look.name, '', '<p>Open it from your course.</p>'))
    app.get('/keyset', async (_, reply) => {
      if (this.does('keyset_gone')) return reply.code(404).send({})
      if (this.does('keyset_page')) return this.send(reply, 'Keyset', '', '<p>Coming soon.</p>')
      const keys = await state.publicKeys()
      if (this.does('keyset_empty')) return reply.send({ keys: [] })
      if (this.does('keyset_huge'))
        return reply.send({ keys: Array.from({ length: 10_000 }, (_, i) => ({ ...keys[0], n: 'AQ', kid: `k${i}` })) })
      return reply.send({ keys })
    })
  }

  private serveRegistration(): void {
    const { app, publicUrl, state } = this
    const { look, about } = this.parts
    app.get<{ Querystring: Fields }>('/register', async (request, reply) => {
      const { openid_configuration: configuration, registration_token: token } = request.query
      if (!configuration || !token)
        return this.send(
          reply,
          'Registration',
          '',
          '<p>Give this address to your platform; it opens it with what is needed.</p>',
        )
      const known = await registerWith(publicUrl, about, configuration, token)
      state.addPlatform(known)
      return this.send(
        reply,
        'Registered',
        '',
        `<p>${escape(look.name)} is registered with ${escape(known.issuer)} as ${escape(known.clientId)}. The platform’s administrator has to approve it.</p><script>(opener || parent).postMessage({ subject: 'org.imsglobal.lti.close' }, '*')</script>`,
      )
    })
    app.post<{ Body: Platform }>('/platforms', async (request, reply) => {
      state.addPlatform(request.body)
      return this.send(reply, 'Kept', '', '<p>The platform is known now.</p>')
    })
  }

  private serveLaunches(): void {
    const { app } = this
    const { look } = this.parts
    const logins = new Logins(this.publicUrl, this.state, this.switches, look)
    app.get<{ Querystring: Fields }>('/login', (request, reply) => logins.begin(request.query, request, reply))
    app.post<{ Body: Fields | undefined }>('/login', (request, reply) =>
      logins.begin(request.body ?? {}, request, reply),
    )

    app.post<{ Body: Fields | undefined }>('/launch', async (request, reply) => {
      const fields = request.body ?? {}
      if (fields['error'])
        throw new LaunchRefused(
          400,
          `The platform refused the login: ${fields['error']}: ${fields['error_description'] ?? ''}`,
        )
      const begun = logins.finish(fields['state'])
      const claims = await verifyIdToken(this.believed(begun.platform), fields['id_token'] ?? '', begun.nonce, {
        ...(this.does('clock_ahead') && { nowMs: Date.now() + AHEAD_MS }),
        ...(this.does('holds_old_keyset') && { keyset: OLD_KEYSET }),
      })
      if (this.does('reports_error') && claims.returnUrl)
        return reply.redirect(
          `${claims.returnUrl}?${String(new URLSearchParams({ lti_errormsg: 'The bench is closed for repairs.', lti_errorlog: 'bench 7: out of order' }))}`,
        )
      if (logins.cookieMatches(begun, request)) return this.enter(reply, claims)
      if (!isFramed(request))
        throw new LaunchRefused(401, 'Your browser did not keep our cookie, so we cannot tell that it is you.')
      const pass = this.unconfirmed.open({ claims, secret: begun.secret })
      const page = storageCheckPage(look, {
        key: fields['state']!,
        origin: new URL(begun.platform.authorizationUrl).origin,
        pass,
      })
      return reply.type('text/html; charset=utf-8').send(page)
    })
    app.post<{ Body: Fields | undefined }>('/launch/stored', (request, reply) => {
      const waiting = this.unconfirmed.find(request.body?.['pass'])
      if (!waiting || waiting.secret !== request.body?.['secret'])
        throw new LaunchRefused(401, 'The platform’s storage does not confirm that it is you.')
      return this.enter(reply, waiting.claims)
    })
  }

  private servePractice(): void {
    const { app, state } = this
    app.post('/practice/rotate-keys', async (_, reply) => {
      await state.rotateKeys()
      return reply.send({ keys: await state.publicKeys() })
    })
    app.post<{ Body: Fields | undefined }>('/practice/token', async (request, reply) => {
      const known = this.platform()
      return reply.send(
        await requestToken(known, await this.assertion(known), (request.body?.['scope'] ?? '').split(' ')),
      )
    })
    app.post<{ Body: Fields | undefined }>('/practice/propose', async (request, reply) => {
      const scopes = (request.body?.['scope'] ?? '').split(' ').filter(Boolean)
      return reply.send({ status: await proposeChange(this.publicUrl, this.parts.about, this.platform(), scopes) })
    })
  }
}

function isTestUser(claims: LaunchClaims): boolean {
  const roles: unknown = claims.all['https://purl.imsglobal.org/spec/lti/claim/roles']
  return Array.isArray(roles) && roles.some((role) => String(role).endsWith('#TestUser'))
}

/** What a link is known by: the deployment and the platform's own identifier. */
export function linkKey(claims: LaunchClaims): string {
  return `${claims.deploymentId} ${claims.linkId}`
}

/** What a column made beside another is out of: whatever the launch says of points. */
function maximumOf(claims: LaunchClaims): number {
  const points = Number(claims.custom['points'])
  return Number.isFinite(points) && points > 0 ? points : 10
}
