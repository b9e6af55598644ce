import { randomBytes } from 'node:crypto'
import formbody from '@fastify/formbody'
import { disclose } from '@bathyscribe/core/identity'
import { readJson } from '@bathyscribe/core/intake'
import {
  launchParameters,
  readOutcomesRequest,
  readResultId,
  signLaunch,
  writeOutcomesResponse,
  writeResultId,
} from '@bathyscribe/core/lti1'
import {
  accessTokenClaims,
  checkAccessToken,
  checkAssertion,
  initiationParameters,
  launchClaims,
  readHints,
  readJws,
  readScore,
  writeHints,
  type PublicKey,
} from '@bathyscribe/core/lti13'
import { parseAuthorizationHeader, readOAuthParameters, verifyRequest, type Parameter } from '@bathyscribe/core/oauth1'
import { Problem } from '@bathyscribe/core/result'
import { pointsOf } from '@bathyscribe/core/scores'
import { readKeys } from '@bathyscribe/service/keys'
import fastify, { type FastifyInstance, type FastifyReply, type FastifyRequest } from 'fastify'
import pg from 'pg'
import { LimitKeys } from './limit-keys.js'
import { form, isSecret, masked, sessionOf } from './limit-pages.js'
import { reader, type Reader, type Row } from './limit-reads.js'
import { writer, type Entry, type Writer } from './limit-writes.js'

/**
 * What a message must cost: routes written by hand with the obligations of the service and nothing else. Each reads with the same parsers, verifies by the same arithmetic, asks
 * the records once, writes what has to be kept in one prepared statement, and answers. There are no roles but the one of the bench, no refusals that explain themselves, no live
 * changes, no diagnosis. `npm run bench` holds the service against it by the processor time of both.
 */
export interface LimitSettings {
  databaseUrl: string
  databaseSchema: string
  keyFile: string
  /** The public address of the service whose records are used: it is part of what tools sign. */
  publicUrl: string
  port: number
  /** Hears what could not be answered. */
  onFault?: (error: unknown) => void
}

/** As the service has it: small statements that are planned as dear ones would be compiled for longer than they run. */
const OPTIONS = '-c jit=off -c max_parallel_workers_per_gather=0'
const WINDOW_SECONDS = 300
const KIND = 'application/vnd.ims.lis.v1.score+json'
const KEPT_CHARACTERS = 8000
const nowSeconds = () => Math.floor(Date.now() / 1000)

/** Starts the routes. @param settings port 0 takes any */
export async function startLimit(settings: LimitSettings): Promise<{ url: string; stop: () => Promise<void> }> {
  const options = `${OPTIONS} -c search_path=${settings.databaseSchema}`
  const pool = new pg.Pool({ connectionString: settings.databaseUrl, max: 6, options })
  const bench = new Limit(settings, reader(pool), writer(pool), new LimitKeys(() => platformKeys(pool)))
  const app = fastify({ bodyLimit: 1024 * 1024 })
  await app.register(formbody)
  app.addContentTypeParser(['application/xml', KIND], { parseAs: 'buffer' }, (_, body, done) => done(null, body))
  app.setErrorHandler(async (error, _, reply) => {
    settings.onFault?.(error)
    return reply.status(500).send()
  })
  bench.register(app)
  const url = await app.listen({ host: '127.0.0.1', port: settings.port })
  const stop = async () => {
    await app.close()
    await pool.end()
  }
  return { url, stop }
}

async function platformKeys(pool: pg.Pool): Promise<PublicKey[]> {
  const { rows } = await pool.query<{ key: PublicKey }>('select public_key as key from platform_key')
  return rows.map((row) => row.key)
}

/** What cannot be answered well is none of the bench's business: the load counts it as wrong. */
function must<T>(value: T | undefined | null, what: string): T {
  if (value === undefined || value === null) throw new Error(what)
  return value
}

class Limit {
  private readonly keys

  constructor(
    private readonly settings: LimitSettings,
    private readonly read: Reader,
    private readonly write: Writer,
    private readonly signing: LimitKeys,
  ) {
    this.keys = readKeys(settings.keyFile)
  }

  register(app: FastifyInstance): void {
    app.post('/lti/outcomes', (request, reply) => this.outcome(request, reply))
    app.post('/lti/courses/:course/lineitems/:item/scores', (request, reply) => this.score(request, reply))
    app.get('/lti/launch/:link', (request, reply) => this.launch(request, reply))
    app.post('/lti/token', (request) => this.token(request))
    app.get('/lti/authorize', (request, reply) => this.authorize(request, reply))
  }

  /** LTI 1.1.1 section 6: envelope, result, signature with nonce and body hash; trail, result, nonce and entry; envelope. */
  private async outcome(request: FastifyRequest, reply: FastifyReply): Promise<FastifyReply> {
    const startedAt = performance.now()
    const body = request.body as Buffer
    const asked = readOutcomesRequest(body)
    if (asked instanceof Problem || asked.operation !== 'replaceResult') throw new Error('not a score')
    const target = must(readResultId(this.keys.resultIdKey, asked.resultId), 'not a result of ours')
    const parameters = must(parseAuthorizationHeader(request.headers.authorization ?? ''), 'no signature')
    const oauth = readOAuthParameters(parameters)
    if (oauth instanceof Problem) throw new Error('no signature')
    const link = await this.read.byPerson(target.linkId, target.personId)
    const { secretSealed, toolId, signatureMethod, toolState } = link
    const url = `${this.settings.publicUrl}/lti/outcomes`
    const problem = verifyRequest({ method: 'POST', url, parameters }, oauth, {
      sharedSecret: this.keys.unseal(must(secretSealed, 'no secret'), toolId),
      signatureMethod,
      nowSeconds: nowSeconds(),
      windowSeconds: WINDOW_SECONDS,
      body,
    })
    if (problem || oauth.consumerKey !== link.consumerKey || toolState !== 'enabled' || link.role !== 'learner')
      throw new Error('refused')
    const fraction = must(asked.score, 'no score')
    const statement = `${fraction} of 1 for ${link.fullName}, recorded.`
    const xml = writeOutcomesResponse({
      messageId: randomBytes(12).toString('hex'),
      messageRef: asked.messageId,
      operationRef: asked.operation,
      codeMajor: 'success',
      severity: 'status',
      description: statement,
    })
    const written = await this.write.score(
      {
        ...this.entry(link, startedAt, statement),
        kind: 'outcome',
        request: {
          method: 'POST',
          url,
          headers: masked(request),
          body: body.toString('utf8').slice(0, KEPT_CHARACTERS),
        },
        response: { status: 200, body: xml },
        nonce: `${oauth.timestampSeconds} ${oauth.nonce}`,
      },
      {
        ...scoreOf(fraction, link.points),
        sent: fraction,
        sent_out_of: '1',
        sent_at: null,
        activity: null,
        grading: null,
      },
    )
    if (!written) throw new Error('not written')
    return reply.type('application/xml').send(xml)
  }

  /** AGS 2.0 section 3.4: token, column, person, order in time; trail, result and entry. */
  private async score(request: FastifyRequest, reply: FastifyReply): Promise<FastifyReply> {
    const startedAt = performance.now()
    const { item } = request.params as { item: string }
    const claims = await this.signing.bearer(request.headers.authorization ?? '')
    const token = must(
      checkAccessToken(claims, { issuer: this.settings.publicUrl, nowSeconds: nowSeconds() }),
      'no token',
    )
    const body = request.body as Buffer
    const read = readJson(body.toString('utf8'))
    const sent = read instanceof Problem ? read : readScore(read.value)
    if (sent instanceof Problem) throw new Error('not a score')
    const given = must(sent.given, 'no score')
    const link = await this.read.bySubject(item, sent.userId)
    if (link.role !== 'learner' || link.clientId !== token.clientId || link.toolState !== 'enabled')
      throw new Error('refused')
    const written = await this.write.score(
      {
        ...this.entry(link, startedAt, `${given.sent} of ${given.outOf} for ${link.fullName}, recorded.`),
        kind: 'score',
        request: { method: 'POST', url: request.url, headers: masked(request), body: body.toString('utf8') },
        response: { status: 204 },
        nonce: null,
      },
      {
        ...scoreOf(given.fraction, link.points),
        sent: given.sent,
        sent_out_of: given.outOf,
        sent_at: sent.sentAt,
        activity: sent.activityProgress,
        grading: sent.gradingProgress,
      },
    )
    if (!written) throw new Error('not written')
    return reply.status(204).send()
  }

  /** A launch page: session, link, signature or hints, entry and visit, form. */
  private async launch(request: FastifyRequest, reply: FastifyReply): Promise<FastifyReply> {
    const startedAt = performance.now()
    const { link: linkId } = request.params as { link: string }
    const link = await this.read.bySession(linkId, sessionOf(request))
    if (link.toolState !== 'enabled') throw new Error('refused')
    const { url, fields } = link.consumerKey === null ? this.initiation(link) : this.signed(link)
    const entry = {
      ...this.entry(link, startedAt, `Sent ${link.fullName} to ${new URL(url).host}.`),
      kind: link.consumerKey === null ? 'login' : 'launch',
      direction: 'sent' as const,
      request: { method: 'POST', url, parameters: fields.map(([name, value]) => [name, isSecret(name) ? '…' : value]) },
      response: null,
      nonce: null,
    }
    await this.write.entry(entry, link.consumerKey !== null)
    return form(reply, url, fields)
  }

  private signed(link: Row): { url: string; fields: Parameter[] } {
    const target = { linkId: link.linkId, personId: link.personId }
    const resultId = writeResultId(this.keys.resultIdKey, target)
    const fields = signLaunch(
      link.launchUrl,
      launchParameters({
        ...this.facts(link),
        outcome: { serviceUrl: `${this.settings.publicUrl}/lti/outcomes`, resultId },
      }),
      {
        consumerKey: must(link.consumerKey, 'no key'),
        sharedSecret: this.keys.unseal(must(link.secretSealed, 'no secret'), link.toolId),
        signatureMethod: link.signatureMethod,
        timestampSeconds: nowSeconds(),
        nonce: randomBytes(16).toString('hex'),
      },
    )
    return { url: link.launchUrl, fields }
  }

  private initiation(link: Row): { url: string; fields: Parameter[] } {
    const hints = writeHints(this.keys.hintKeys[0], {
      id: randomBytes(16).toString('hex'),
      registrationId: link.toolId,
      actorId: link.personId,
      personId: link.personId,
      kind: 'link',
      linkId: link.linkId,
      target: 'frame',
      aboutId: '',
      expiresSeconds: nowSeconds() + WINDOW_SECONDS,
    })
    const fields = initiationParameters({
      issuer: this.settings.publicUrl,
      clientId: link.clientId,
      deploymentId: link.deploymentId,
      targetLinkUri: link.launchUrl,
      hints,
    })
    return { url: link.initiationUrl, fields }
  }

  /** OpenID Connect's implicit flow as LTI 1.3 has it: hints, session, id_token, entry with the hint used up, form. */
  private async authorize(request: FastifyRequest, reply: FastifyReply): Promise<FastifyReply> {
    const startedAt = performance.now()
    const asked = request.query as Record<string, string>
    const hints = { login: asked['login_hint'] ?? '', message: asked['lti_message_hint'] ?? '' }
    const hint = must(readHints(this.keys.hintKeys, hints), 'no hint')
    const link = await this.read.bySession(hint.linkId, sessionOf(request))
    const url = asked['redirect_uri'] ?? ''
    if (hint.expiresSeconds < nowSeconds() || hint.actorId !== link.personId || !link.redirectUris.includes(url))
      throw new Error('refused')
    const claims = launchClaims({
      ...this.facts(link),
      issuer: this.settings.publicUrl,
      clientId: link.clientId,
      deploymentId: link.deploymentId,
      nonce: asked['nonce'] ?? '',
      nowSeconds: nowSeconds(),
      targetLinkUri: link.launchUrl,
    })
    const token = await this.signing.sign(claims, 'JWT')
    const entry = {
      ...this.entry(link, startedAt, `Sent ${link.fullName} to ${new URL(url).host}.`),
      kind: 'launch',
      direction: 'sent' as const,
      request: { method: 'POST', url, body: JSON.stringify(claims) },
      response: null,
      nonce: `hint ${hint.id}`,
    }
    if (!(await this.write.entry(entry, true))) throw new Error('not written')
    return form(reply, url, [
      ['id_token', token],
      ['state', asked['state'] ?? ''],
    ])
  }

  /** Security Framework 1.0 section 4.1: assertion by the tool's keyset, once; token and entry. */
  private async token(request: FastifyRequest): Promise<object> {
    const startedAt = performance.now()
    const given = request.body as Record<string, string>
    const jws = readJws(given['client_assertion'] ?? '')
    if (jws instanceof Problem) throw new Error('no assertion')
    const clientId = String(jws.claims['sub'])
    const tool = await this.read.byClient(clientId)
    const isSigned = this.signing.isSignedBy(jws, await this.signing.keysetOf(tool.keysetUrl))
    const assertion = checkAssertion(jws.claims, {
      clientId,
      audiences: [`${this.settings.publicUrl}/lti/token`],
      nowSeconds: nowSeconds(),
      leewaySeconds: 60,
    })
    if (!isSigned || assertion instanceof Problem) throw new Error('refused')
    const scopes = (given['scope'] ?? '').split(' ').filter((one) => tool.scopes.includes(one))
    const facts = { issuer: this.settings.publicUrl, clientId, scopes, nowSeconds: nowSeconds(), lifetimeSeconds: 3600 }
    const [token, written] = await Promise.all([
      this.signing.sign(accessTokenClaims({ ...facts, id: randomBytes(16).toString('hex') }), 'at+jwt'),
      this.write.entry({
        kind: 'token',
        direction: 'received',
        statement: `Granted ${scopes.length} of the scopes asked for.`,
        course_id: null,
        assignment_id: null,
        person_id: null,
        registration_id: tool.id,
        startedAt,
        request: { method: 'POST', url: request.url, parameters: [['scope', given['scope']], ['client_assertion', '…']] },
        response: { status: 200 },
        nonce: `assertion ${assertion.id}`,
      }),
    ]) // oxfmt-ignore
    if (!written) throw new Error('not written')
    return { access_token: token, token_type: 'Bearer', expires_in: 3600, scope: scopes.join(' ') }
  }

  private entry(
    link: Row,
    startedAt: number,
    statement: string,
  ): Omit<Entry, 'kind' | 'request' | 'response' | 'nonce'> {
    return {
      direction: 'received',
      statement,
      course_id: link.courseId,
      assignment_id: link.linkId,
      person_id: link.personId,
      registration_id: link.toolId,
      startedAt,
    }
  }

  private facts(link: Row) {
    const target = { linkId: link.linkId, personId: link.personId }
    return {
      platform: { guid: 'bench', name: 'Bench', description: 'Bench', url: this.settings.publicUrl, contactEmail: '', version: '0' },
      context: { id: link.courseId, label: link.code, title: link.courseTitle, sourcedId: null },
      link: { id: link.resourceLinkId, title: link.title, description: '' },
      person: disclose({ ...link, email: null, sourcedId: null }, link.disclosure),
      courseRole: link.role,
      siteRole: link.siteRole,
      presentation: {
        target: 'frame' as const,
        returnUrl: `${this.settings.publicUrl}/lti/return/${writeResultId(this.keys.resultIdKey, target)}`,
        locale: 'en',
      },
      custom: {},
    } // oxfmt-ignore
  }
}

function scoreOf(fraction: string, columnPoints: string) {
  return { fraction, out_of: columnPoints, points: pointsOf(fraction, columnPoints) }
}
