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
import { AGS_ENDPOINT, COLUMN_SCOPE, GradeServices, type ScoreToSend } from './grade-services.js'
import { clientMetadata, proposeChange, registerWith, type About } from './registration.js'
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
  const { publicUrl } = options
  const app = fastify({ bodyLimit: 256 * 1024, forceCloseConnections: true })
  const state = new Tool13State<L>(options.stateFile)
  const switches = new Switches<Tool13Fault>(TOOL13_FAULTS, state.value, () => {
    state.save()
    if (switches.does('stale_key')) void unpublishedKey()
  })
  /** Made once: a key can take longer than a platform waits for a launch. */
  let unpublished: Promise<SigningKey> | undefined
  const unpublishedKey = () => (unpublished ??= newKey())
  const sessions = new Sessions<LaunchClaims>()
  /** Launches that are good but for the browser, which the platform's storage has yet to confirm. */
  const unconfirmed = new Sessions<{ claims: LaunchClaims; secret: string }>()
  const platform = (url = ''): Platform => {
    const known = state.platformFor(url)
    if (!known) throw new LaunchRefused(409, 'No platform is known yet.')
    return known
  }
  const send: Tool13<L>['send'] = (reply, title, who, body, status = 200) =>
    reply
      .code(status)
      .type('text/html; charset=utf-8')
      .send(toolPage(look, title, who, `<h1>${escape(title)}</h1>${body}`))
  const tool: Tool13<L> = {
    app,
    state,
    switches,
    send,
    find(body) {
      const id = body?.['session'] ?? ''
      const claims = sessions.find(id)
      if (!claims) throw new LaunchRefused(403, 'This page is too old. Open it again from your course.')
      return { id, claims }
    },
    async answer(reply, claims, items, message) {
      if (!claims.picking) throw new LaunchRefused(403, 'Nothing is being picked here.')
      const does = (fault: Tool13Fault) => switches.does(fault)
      const token = await pickingToken(platform(), await state.signingKey(), claims.picking, items, {
        does,
        ...(message && { message }),
      })
      return send(reply, 'Back to your course', claims.name, returnForm(claims.picking.returnUrl, { JWT: token }))
    },
    async score(claims, fraction, maximum = 1) {
      const lineItem = await columnOf(claims)
      if (!lineItem) return 'The platform gave no column to return a score to.'
      const known = state.value.platforms.find((one) => one.clientId === claims.all['aud']) ?? platform(lineItem)
      const used = switches.does('score_other_registration') ? otherThan(known) : known
      const services = new GradeServices((scopes) => tokenFor(used, scopes))
      const { status, said } = await sendAs(switches, services, lineItem, {
        userId: claims.sub,
        activityProgress: 'Completed',
        gradingProgress: 'FullyGraded',
        scoreGiven: Number((fraction * maximum).toFixed(6)),
        scoreMaximum: maximum,
      })
      return status < 300 ? 'Your score was sent.' : `The platform refused the score: ${said}`
    },
    services: new GradeServices((scopes, url) => tokenFor(platform(url), scopes)),
    token: (scopes) => tokenFor(platform(), scopes),
  }
  async function tokenFor(known: Platform, scopes: readonly string[]): Promise<string> {
    const { body } = await requestToken(known, await assertion(known), scopes)
    if (typeof body['access_token'] !== 'string')
      throw new LaunchRefused(502, `The platform gave no token: ${String(body['error_description'])}`)
    return body['access_token']
  }
  const otherThan = (known: Platform): Platform =>
    state.value.platforms.find((one) => one.clientId !== known.clientId) ?? known
  /** What the tool proves by who it is, as far as it does so rightly. */
  async function assertion(known: Platform): Promise<string> {
    if (switches.does('algorithm_none')) return unsignedAssertion(known)
    return clientAssertion(known, switches.does('stale_key') ? await unpublishedKey() : await state.signingKey())
  }

  /** The column that a launch was given; one of the tool's own when it misbehaves. */
  async function columnOf(claims: LaunchClaims): Promise<string | undefined> {
    const endpoint = claims.all[AGS_ENDPOINT] as { lineitem?: string; lineitems?: string } | undefined
    if (!switches.does('duplicate_column') || !endpoint?.lineitems) return endpoint?.lineitem
    const mine = (await tool.services.columns(endpoint.lineitems)).find(
      (one) => one.resourceId === `own ${claims.linkId}`,
    )
    const made =
      mine ??
      (await tool.services.makeColumn(endpoint.lineitems, {
        label: claims.linkTitle,
        scoreMaximum: maximumOf(claims),
        resourceId: `own ${claims.linkId}`,
      }))
    return made.id
  }
  await app.register(formbody)
  const { look, about, onLaunch, onPick } = make(tool)
  /** The platform as the tool has it entered, rightly or not. */
  const believed = (known: Platform): Platform => ({
    ...known,
    ...(switches.does('knows_other_deployment') && { deploymentId: 'deployment-of-long-ago' }),
    ...(switches.does('expects_other_audience') && { clientId: 'client-of-long-ago' }),
  })
  const logins = new Logins(publicUrl, state, switches, look)
  const letIn = new Set<string>()
  let accounts = 0
  const enter = async (reply: FastifyReply, verified: LaunchClaims) => {
    const claims = switches.does('new_account')
      ? { ...verified, name: `${verified.name}, account ${++accounts}` }
      : verified
    if (claims.picking && !claims.instructor) throw new LaunchRefused(403, 'Only instructors choose here.')
    if (claims.picking && switches.does('pick_closed')) throw new Error('The shelf fell down.')
    if (switches.does('refuses_test_learner') && isTestUser(claims))
      throw new LaunchRefused(403, `${look.name} takes no test learners.`)
    if (switches.does('once_only')) {
      if (letIn.has(claims.sub)) throw new LaunchRefused(403, 'You were here before. Everybody comes in once.')
      letIn.add(claims.sub)
    }
    const endpoint = claims.all[AGS_ENDPOINT] as { lineitem?: string; lineitems?: string } | undefined
    const given = [endpoint?.lineitem, endpoint?.lineitems].filter((one) => one !== undefined)
    if (given.length > 0) state.noteAddresses(String(claims.all['aud']), given)
    // Whatever becomes of the score, the person is let in.
    await scoredAtOnce(claims).catch(() => undefined)
    const hostile = answerHostile(reply, (fault) => switches.does(fault))
    if (hostile) return hostile
    return (claims.picking ? (onPick ?? onLaunch) : onLaunch)(claims, sessions.open(claims), reply)
  }
  /** A launch of a learner that says which score it wants is scored at once, without a person. */
  const scoredAtOnce = async (claims: LaunchClaims) => {
    const wanted = Number(claims.custom['practice_score'])
    if (
      !switches.does('sends_nothing') &&
      !claims.picking &&
      !claims.instructor &&
      claims.custom['practice_score'] !== undefined &&
      Number.isFinite(wanted)
    )
      await tool.score(claims, wanted)
  }

  app.setErrorHandler((error, _, reply) => {
    const status = error instanceof LaunchRefused ? error.status : 500
    const text = error instanceof LaunchRefused ? error.message : `${look.name} ran aground on this one.`
    return send(reply, 'Launch refused', '', `<p>${escape(text)}</p>`, status)
  })
  registerSwitches(app, look, switches, options.slowMs ?? 12_000)
  registerHostile(app)

  app.get('/', (_, reply) =>
    send(
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
  app.get(about.target, (_, reply) => send(reply, look.name, '', '<p>Open it from your course.</p>'))
  app.get('/keyset', async (_, reply) => {
    if (switches.does('keyset_gone')) return reply.code(404).send({})
    if (switches.does('keyset_page')) return send(reply, 'Keyset', '', '<p>Coming soon.</p>')
    const keys = await state.publicKeys()
    if (switches.does('keyset_empty')) return reply.send({ keys: [] })
    if (switches.does('keyset_huge'))
      return reply.send({ keys: Array.from({ length: 10_000 }, (_, i) => ({ ...keys[0], n: 'AQ', kid: `k${i}` })) })
    return reply.send({ keys })
  })

  app.get<{ Querystring: Fields }>('/register', async (request, reply) => {
    const { openid_configuration: configuration, registration_token: token } = request.query
    if (!configuration || !token)
      return send(
        reply,
        'Registration',
        '',
        '<p>Give this address to your platform; it opens it with what is needed.</p>',
      )
    const known = await registerWith(publicUrl, about, configuration, token)
    state.addPlatform(known)
    return send(
      reply,
      'Registered',
      '',
      `<p>${escape(look.name)} is registered with ${escape(known.issuer)} as ${escape(known.clientId)}. The platform’s administrator has to approve it.</p><script>(opener || parent).postMessage({ subject: 'org.imsglobal.lti.close' }, '*')</script>`,
    )
  })
  app.post<{ Body: Platform }>('/platforms', async (request, reply) => {
    state.addPlatform(request.body)
    return send(reply, 'Kept', '', '<p>The platform is known now.</p>')
  })

  app.get<{ Querystring: Fields }>('/login', (request, reply) => logins.begin(request.query, request, reply))
  app.post<{ Body: Fields | undefined }>('/login', (request, reply) => logins.begin(request.body ?? {}, request, reply))

  app.post<{ Body: Fields | undefined }>('/launch', async (request, reply) => {
    const fields = request.body ?? {}
    if (fields['error'])
      throw new LaunchRefused(
        400,
        `The platform refused the login: ${fields['error']}: ${fields['error_description'] ?? ''}`,
      )
    const begun = logins.finish(fields['state'])
    const claims = await verifyIdToken(believed(begun.platform), fields['id_token'] ?? '', begun.nonce, {
      ...(switches.does('clock_ahead') && { nowMs: Date.now() + AHEAD_MS }),
      ...(switches.does('holds_old_keyset') && { keyset: OLD_KEYSET }),
    })
    if (switches.does('reports_error') && claims.returnUrl)
      return reply.redirect(
        `${claims.returnUrl}?${String(new URLSearchParams({ lti_errormsg: 'The bench is closed for repairs.', lti_errorlog: 'bench 7: out of order' }))}`,
      )
    if (logins.cookieMatches(begun, request)) return enter(reply, claims)
    if (!isFramed(request))
      throw new LaunchRefused(401, 'Your browser did not keep our cookie, so we cannot tell that it is you.')
    const pass = unconfirmed.open({ claims, secret: begun.secret })
    const page = storageCheckPage(look, {
      key: fields['state']!,
      origin: new URL(begun.platform.authorizationUrl).origin,
      pass,
    })
    return reply.type('text/html; charset=utf-8').send(page)
  })
  app.post<{ Body: Fields | undefined }>('/launch/stored', (request, reply) => {
    const waiting = unconfirmed.find(request.body?.['pass'])
    if (!waiting || waiting.secret !== request.body?.['secret'])
      throw new LaunchRefused(401, 'The platform’s storage does not confirm that it is you.')
    return enter(reply, waiting.claims)
  })

  app.post('/practice/rotate-keys', async (_, reply) => {
    await state.rotateKeys()
    return reply.send({ keys: await state.publicKeys() })
  })
  app.post<{ Body: Fields | undefined }>('/practice/token', async (request, reply) => {
    return reply.send(
      await requestToken(platform(), await assertion(platform()), (request.body?.['scope'] ?? '').split(' ')),
    )
  })
  app.post<{ Body: Fields | undefined }>('/practice/propose', async (request, reply) => {
    const scopes = (request.body?.['scope'] ?? '').split(' ').filter(Boolean)
    return reply.send({ status: await proposeChange(publicUrl, about, platform(), scopes) })
  })
  return app
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

/** Sends a score in the way that the tool was told to send it. */
async function sendAs(
  switches: Switches<Tool13Fault>,
  services: GradeServices,
  lineItem: string,
  honest: ScoreToSend,
): Promise<{ status: number; said: string }> {
  const score: ScoreToSend = {
    ...honest,
    timestamp: new Date().toISOString(),
    ...(switches.does('score_above_maximum') && { scoreGiven: (honest.scoreMaximum ?? 1) * 1.2 }),
    ...(switches.does('score_old_timestamp') && { timestamp: '1970-01-01T00:00:00.000Z' }),
    ...(switches.does('score_wrong_user') && { userId: 'nobody-we-know' }),
  }
  if (switches.does('score_expired_token')) return services.score(lineItem, score, { bearer: 'a.token.of-yesterday' })
  if (switches.does('score_other_scope')) return services.score(lineItem, score, { scope: COLUMN_SCOPE })
  if (switches.does('score_media_type')) return services.score(lineItem, score, { mediaType: 'application/json' })
  if (switches.does('score_other_column')) return services.score(`${lineItem}0`, score)
  if (switches.does('score_ten_at_once')) {
    const start = Date.now()
    const all = await Promise.all(
      Array.from({ length: 10 }, (_, i) =>
        services.score(lineItem, { ...score, timestamp: new Date(start + i).toISOString() }),
      ),
    )
    return all.at(-1)!
  }
  const first = await services.score(lineItem, score)
  return switches.does('score_twice') ? services.score(lineItem, score) : first
}
