import { randomBytes } from 'node:crypto'
import formbody from '@fastify/formbody'
import fastify, { type FastifyInstance, type FastifyReply } from 'fastify'
import { outcomeXml, sendOutcome, type OutcomeTarget } from '../lti1/send-outcome.js'
import { LaunchRefused, LaunchVerifier, type Fields } from '../lti1/verify-launch.js'
import type { Look } from '../parts/page.js'
import { answerHostile, registerHostile } from '../parts/hostile.js'
import { registerSwitches, Switches, TOOL_FAULTS } from '../parts/switches.js'
import { toolConfigurationXml } from '../parts/tool-configuration.js'
import { MISBEHAVIOURS, readMisbehaviours, type Misbehaviour } from '../misbehaviours.js'
import { drillOf, fractionOf } from './drills.js'
import { Sessions } from '../parts/sessions.js'
import { credentialsPage, drillPage, instructorPage, messagePage, resultPage, returnPage, shelfPage } from './pages.js'
import { PICKER_FAULTS, readPicking, selection, type Picking1 } from './shelf.js'
import { KnotworkState } from './state.js'

export interface KnotworkOptions {
  /** The tool's own origin, as browsers and platforms reach it. */
  publicUrl: string
  consumerKey: string
  sharedSecret: string
  /** File in which it remembers; in memory only without one. */
  stateFile?: string
  lateMs?: number
  slowMs?: number
}

/** What one launch opened. Kept in the page, not in a cookie: a framed tool on another site gets none back. */
interface Session {
  linkId: string
  userId: string
  name: string
  drill: string | undefined
  misbehaviours: Misbehaviour[]
  target: OutcomeTarget | undefined
}

const KNOTWORK_LOOK: Look = { name: 'Knotwork Drills', ink: '#5b3a29', ground: '#f3efe4' }
const SESSIONS_KEPT = 20_000
const AHEAD_MS = 600_000
const BEHIND_SECONDS = 3600

/** Knotwork Drills, a practice tool of LTI 1.1: three questions, scored by itself, returned by Basic Outcomes. */
export async function createKnotwork(options: KnotworkOptions): Promise<FastifyInstance> {
  const tool = new Knotwork(options)
  await tool.app.register(formbody)
  tool.serve()
  return tool.app
}

class Knotwork {
  readonly app = fastify({ bodyLimit: 256 * 1024, forceCloseConnections: true })
  private readonly state: KnotworkState
  /** Newest first: the first signs, all are taken. */
  private readonly secrets: string[]
  private readonly verifier: LaunchVerifier
  private readonly hasty: LaunchVerifier
  private readonly launchUrl: string
  private readonly switches: Switches<keyof typeof TOOL_FAULTS | keyof typeof PICKER_FAULTS>
  /** Who was let in where links take everybody once only. */
  private readonly letIn = new Set<string>()
  private readonly sessions = new Map<string, Session>()
  private readonly pickings = new Sessions<Picking1>()
  private accounts = 0

  constructor(private readonly options: KnotworkOptions) {
    this.state = new KnotworkState(options.stateFile)
    this.secrets = [options.sharedSecret]
    this.verifier = new LaunchVerifier({ [options.consumerKey]: this.secrets })
    this.hasty = new LaunchVerifier({ [options.consumerKey]: this.secrets }, () => Date.now() + AHEAD_MS)
    this.launchUrl = `${options.publicUrl}/launch`
    this.switches = new Switches({ ...TOOL_FAULTS, ...PICKER_FAULTS }, this.state.tool, () => this.state.save())
  }

  serve(): void {
    this.app.setErrorHandler((error, _, reply) => {
      const status = error instanceof LaunchRefused ? error.status : 500
      const text = error instanceof LaunchRefused ? error.message : 'Knotwork ran aground on this one.'
      return sendPage(reply, messagePage('Launch refused', text), status)
    })
    registerSwitches(this.app, KNOTWORK_LOOK, this.switches, this.options.slowMs ?? 12_000)
    registerHostile(this.app)
    this.serveFront()
    this.serveShelf()
    this.serveDrills()
  }

  private serveFront(): void {
    const { app } = this
    app.get('/', (_, reply) =>
      sendPage(reply, credentialsPage(this.options.consumerKey, this.options.sharedSecret, this.launchUrl)),
    )
    app.get('/config.xml', (_, reply) =>
      reply.type('application/xml').send(
        toolConfigurationXml({
          title: 'Knotwork Drills',
          description: 'Three questions on knots, soundings or clouds, scored at once.',
          launchUrl: this.launchUrl,
          custom: { drill: 'bends' },
          vendor: { name: 'Knotwork Drills', email: 'support@tools.example' },
        }),
      ),
    )
    app.post<{ Body: Fields | undefined }>('/practice/secrets', (request, reply) => {
      const wanted = (request.body?.['secrets'] ?? '').split(/\s+/).filter(Boolean)
      this.secrets.splice(0, this.secrets.length, ...(wanted.length > 0 ? wanted : [this.options.sharedSecret]))
      return reply.send({ held: this.secrets.length })
    })
    app.get('/launch', (_, reply) => sendPage(reply, messagePage('Knotwork Drills', 'This address takes launches.')))
  }

  private serveShelf(): void {
    const { app } = this
    app.post<{ Body: Fields | undefined }>('/shelf', (request, reply) => {
      const fields = request.body ?? {}
      this.verifier.verify(`${this.options.publicUrl}${request.url}`, fields, { picker: true })
      if (isLearner(fields)) throw new LaunchRefused(403, 'Only instructors choose drills.')
      if (this.switches.does('pick_closed'))
        return sendPage(reply, messagePage('Server error', 'The shelf fell down.'), 500)
      const picking = readPicking(fields)
      return sendPage(reply, shelfPage(picking, this.pickings.open(picking)))
    })
    app.post<{ Body: Fields | undefined }>('/shelf/take', (request, reply) => {
      const picking = this.pickings.find(request.body?.['session'])
      if (!picking) throw new LaunchRefused(403, 'This shelf was closed. Open it again from your course.')
      const credentials = { key: this.options.consumerKey, secret: this.secrets[0]! }
      const fields = selection(this.options.publicUrl, credentials, picking, request.body ?? {}, (fault) =>
        this.switches.does(fault),
      )
      return sendPage(reply, returnPage(picking.returnUrl, fields))
    })
  }

  private serveDrills(): void {
    const { app } = this
    app.post<{ Body: Fields }>('/launch', (request, reply) => this.launch(request.url, request.body ?? {}, reply))
    /** A seat that is given up as soon as it was taken. */
    app.get<{ Querystring: Fields }>('/seat', (request, reply) => {
      const session = this.sessionOf(request.query)
      this.sessions.delete(request.query['session']!)
      return sendPage(reply, drillPage(drillOf(session.drill), session.name, ''))
    })

    app.post<{ Body: Fields }>('/answers', async (request, reply) => {
      const session = this.sessionOf(request.body)
      const drill = drillOf(session.drill)
      const fraction = fractionOf(
        drill,
        drill.questions.map((_, i) => toIndex(request.body[`q${i}`])),
      )
      const sent = await this.deliver(session, fraction)
      if (session.misbehaviours.includes('refuses_frames'))
        void reply.header('content-security-policy', "frame-ancestors 'none'")
      return sendPage(reply, resultPage(drill, session.name, fraction, sent))
    })

    app.post<{ Body: Fields }>('/misbehave', async (request, reply) => {
      const session = this.sessionOf(request.body)
      if (session.target) throw new LaunchRefused(403, 'Only instructors may do this.')
      const link = this.state.link(session.linkId)
      link.misbehaviours = (Object.keys(MISBEHAVIOURS) as Misbehaviour[]).filter((one) => request.body[one] === 'on')
      this.state.save()
      return sendPage(reply, instructorPage(link, session.name, request.body['session']!))
    })
  }

  private async launch(path: string, fields: Fields, reply: FastifyReply): Promise<FastifyReply> {
    const linkId = fields['resource_link_id'] ?? ''
    const misbehaviours = [
      ...(this.state.known(linkId)?.misbehaviours ?? []),
      ...readMisbehaviours(fields['custom_practice_fault']),
    ]
    const does = (one: Misbehaviour) => misbehaviours.includes(one)

    if (does('slow')) await new Promise((resolve) => setTimeout(resolve, this.options.slowMs ?? 12_000))
    if (does('error_500'))
      return sendPage(reply, messagePage('Server error', 'The drill server has sprung a leak.'), 500)
    const judge = does('clock_ahead') ? this.hasty : this.verifier
    judge.verify(
      `${this.options.publicUrl}${path}`,
      fields,
      does('wrong_secret') ? { secret: `not ${this.options.sharedSecret}` } : {},
    )
    const link = this.state.link(linkId, fields['resource_link_title'], fields['context_title'])
    const name = fields['lis_person_name_full'] ?? `Learner ${(fields['user_id'] ?? '').slice(0, 6)}`
    if (does('refuses_test_learner') && /^test learner/i.test(name))
      throw new LaunchRefused(403, 'Knotwork takes no test learners.')

    if (does('once_only') && !isNew(this.letIn, `${linkId} ${fields['user_id']}`))
      throw new LaunchRefused(403, 'You were here before. Everybody comes in once.')

    const greeted = does('new_account') ? `${name}, account ${++this.accounts}` : name
    const session = this.openSession(fields, linkId, greeted, misbehaviours)
    const wanted = isLearner(fields) ? fields['custom_practice_score'] : undefined
    const sent = wanted === undefined ? '' : await this.deliver(session, wanted)
    const hostile = answerHostile(reply, does)
    if (hostile) return hostile
    if (does('lost_on_reload')) return reply.redirect(`/seat?session=${this.keep(session)}`, 303)
    if (does('refuses_frames')) void reply.header('content-security-policy', "frame-ancestors 'none'")
    if (!isLearner(fields)) return sendPage(reply, instructorPage(link, name, this.keep(session)))
    if (wanted !== undefined) return sendPage(reply, resultPage(drillOf(session.drill), session.name, wanted, sent))
    return sendPage(reply, drillPage(drillOf(session.drill), session.name, this.keep(session)))
  }

  private openSession(fields: Fields, linkId: string, name: string, misbehaviours: Misbehaviour[]): Session {
    const { lis_outcome_service_url: serviceUrl, lis_result_sourcedid: resultId } = fields
    const credentials = { key: this.options.consumerKey, secret: this.secrets[0]! }
    return {
      linkId,
      userId: fields['user_id']!,
      name,
      drill: fields['custom_drill'],
      misbehaviours,
      target: serviceUrl && resultId ? { serviceUrl, resultId, ...credentials } : undefined,
    }
  }

  private keep(session: Session): string {
    const id = randomBytes(24).toString('base64url')
    this.sessions.set(id, session)
    if (this.sessions.size > SESSIONS_KEPT) this.sessions.delete(this.sessions.keys().next().value!)
    return id
  }

  private sessionOf(body: Fields | undefined): Session {
    const session = this.sessions.get(body?.['session'] ?? '')
    if (!session) throw new LaunchRefused(403, 'This page is too old. Open the drill again from your course.')
    return session
  }

  /** Remembers the work and returns its score, as the link's misbehaviours have it. */
  private async deliver(session: Session, fraction: string): Promise<string> {
    const worker = this.state.worker(session.linkId, session.userId, session.name)
    worker.attempts++
    worker.fraction = fraction
    if (!session.target) worker.sent = 'The platform gave no place to return a score to.'
    else if (session.misbehaviours.includes('sends_nothing')) worker.sent = 'The score stays here.'
    else if (session.misbehaviours.includes('sends_late')) {
      worker.sent = 'The score will be sent in a minute.'
      setTimeout(
        () => void this.send(session, fraction).then((text) => (worker.sent = text)),
        this.options.lateMs ?? 60_000,
      ).unref()
    } else worker.sent = await this.send(session, fraction)
    this.state.save()
    return worker.sent
  }

  private async send(session: Session, fraction: string): Promise<string> {
    const does = (one: Misbehaviour) => session.misbehaviours.includes(one)
    const secret = does('score_wrong_secret')
      ? `not ${this.secrets[0]!}`
      : `${this.secrets[0]!}${does('score_secret_blank') ? ' ' : ''}`
    const target = { ...session.target!, secret, ...(does('score_other_result') && { resultId: 'a-result-of-nobody' }) }
    const score = does('score_above_maximum') ? String(Number(fraction) + 1) : fraction
    const body = outcomeXml('replaceResult', target.resultId, score)
    const sentBody = does('broken_xml') ? body.slice(0, body.indexOf('</resultRecord>')) : body
    const spoil = {
      ...(does('score_other_hash') && { hashOf: sentBody.replaceAll('\n', '') }),
      ...(does('score_old_clock') && { ageSeconds: BEHIND_SECONDS }),
    }
    try {
      const answer = await sendOutcome(target, sentBody, spoil)
      if (does('sends_twice')) await sendOutcome(target, sentBody, spoil)
      return answer.codeMajor === 'success'
        ? `Your score was sent: ${answer.description}`
        : `The platform refused the score: ${answer.description}`
    } catch {
      return 'The platform could not be reached; the score was not sent.'
    }
  }
}

function isNew(seen: Set<string>, one: string): boolean {
  const known = seen.has(one)
  seen.add(one)
  return !known
}

function isLearner(fields: Fields): boolean {
  return (fields['roles'] ?? '').split(',').some((role) => /(^|\/)Learner$/.test(role.trim()))
}

function toIndex(text: string | undefined): number | undefined {
  return text !== undefined && /^\d$/.test(text) ? Number(text) : undefined
}

function sendPage(reply: FastifyReply, text: string, status = 200): FastifyReply {
  return reply.code(status).type('text/html; charset=utf-8').send(text)
}
