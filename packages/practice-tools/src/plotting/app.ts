import type { FastifyInstance, FastifyReply } from 'fastify'
import { outcomeXml, sendOutcome, type OutcomeTarget } from '../lti1/send-outcome.js'
import { LaunchRefused, type Fields } from '../lti1/verify-launch.js'
import { Kept } from '../parts/kept.js'
import { buttonForm, escape, toolPage, type Look } from '../parts/page.js'
import { Sessions } from '../parts/sessions.js'
import { createTool1, isInstructor, type Tool1Options } from '../parts/tool1-app.js'

const LOOK: Look = { name: 'Plotting Table', ink: '#31405f', ground: '#f0f2f6' }

/** Chart sheets by their addresses. */
export const SHEETS: Readonly<Record<string, { title: string; question: string; answer: number; unit: string }>> = {
  'fix-by-bearings': {
    title: 'Fix by three bearings',
    question: 'Three bearings were taken. Of how many does a fix need at least?',
    answer: 2,
    unit: '',
  },
  'running-fix': {
    title: 'Running fix',
    question: 'At 12 knots, how many miles does the first line have to be moved for 20 minutes?',
    answer: 4,
    unit: 'nm',
  },
  'tidal-triangle': {
    title: 'Tidal triangle',
    question: 'The ship heads 090° at 10 knots against 2 knots of stream. What does she make good, in knots?',
    answer: 8,
    unit: 'kn',
  },
}

interface Session {
  sheet: string
  name: string
  instructor: boolean
  target: OutcomeTarget | undefined
}

/**
 * Plotting Table, a practice tool of LTI 1.1: each chart sheet has an address of its own, and what an author copies out of the browser carries the author's session.
 * Fractions are returned for learners who entered through an assignment.
 */
export async function createPlotting(options: Tool1Options): Promise<FastifyInstance> {
  const kept = new Kept<{ faults?: string[] }>(options.stateFile, {})
  const tool = new Plotting(options)
  const app = await createTool1(options, {
    look: LOOK,
    description: 'Chart sheets, each at an address of its own.',
    front: `LTI 1.1, scores by Basic Outcomes. Each chart sheet has an address of its own: find it at <a href="/sheets">the sheets</a>.`,
    kept: kept.value,
    save: () => kept.save(),
    launchPaths: ['/plot/:sheet'],
    onLaunch: (fields, reply, url) => tool.launch(fields, reply, new URL(url)),
  })
  tool.serve(app)
  return app
}

class Plotting {
  private readonly sessions = new Sessions<Session>()

  constructor(private readonly options: Tool1Options) {}

  serve(app: FastifyInstance): void {
    app.get('/sheets', (_, reply) => {
      const lines = Object.entries(SHEETS).map(
        ([id, sheet]) => `<tr><th>${escape(sheet.title)}</th><td><code>${escape(this.copied(id))}</code></td></tr>`,
      )
      return send(
        reply,
        'Chart sheets',
        'Author',
        `<p>Copy the address of a sheet out of the browser, as authors do.</p><table>${lines.join('')}</table>`,
      )
    })
    app.post<{ Body: Fields | undefined }>('/plotted', (request, reply) => {
      const session = this.sessions.find(request.body?.['session'])
      if (!session) throw new LaunchRefused(403, 'This page is too old. Open the sheet again from your course.')
      const sheet = SHEETS[session.sheet]!
      const off = Math.abs(Number(request.body?.['answer']) - sheet.answer)
      return score(reply, session, off === 0 ? '1' : off <= sheet.answer * 0.25 ? '0.6' : '0.2')
    })
  }

  launch(fields: Fields, reply: FastifyReply, at: URL): FastifyReply | Promise<FastifyReply> {
    const sheet = /^\/plot\/([a-z-]+)$/.exec(at.pathname)?.[1] ?? ''
    if (!SHEETS[sheet])
      return send(
        reply,
        LOOK.name,
        '',
        `<p>There is no chart sheet here. Choose one at ${escape(this.options.publicUrl)}/sheets and copy its address.</p>`,
        404,
      )
    if (at.searchParams.has('sid') || at.searchParams.has('author'))
      return send(
        reply,
        'Somebody else’s table',
        '',
        '<p>This address belongs to the session of the one who copied it, which has ended.</p>',
        403,
      )
    const session = this.sessionOf(fields, sheet)
    return fields['custom_practice_score'] !== undefined && session.target
      ? score(reply, session, fields['custom_practice_score'])
      : this.openSheet(reply, session)
  }

  /** As it is in the author's address bar: what shows the sheet, and the author's own session. */
  private copied(id: string): string {
    const minute = Math.floor(Date.now() / 60_000) * 60
    const query = new URLSearchParams({
      edition: '4',
      sid: `q7Zk${minute.toString(36)}Lm9xR2vT8bWc4`,
      author: 'tomas',
      ts: String(minute),
    })
    return `${this.options.publicUrl}/plot/${id}?${query.toString()}`
  }

  private openSheet(reply: FastifyReply, session: Session): FastifyReply {
    const sheet = SHEETS[session.sheet]!
    const work = session.instructor
      ? '<p>Learners plot here.</p>'
      : buttonForm(
          '/plotted',
          { session: this.sessions.open(session) },
          'Hand in',
          `<label>Your answer <input type="text" name="answer" required> ${sheet.unit}</label>`,
        )
    return send(reply, sheet.title, session.name, `<p>${escape(sheet.question)}</p>${work}`)
  }

  private sessionOf(fields: Fields, sheet: string): Session {
    const { lis_outcome_service_url: serviceUrl, lis_result_sourcedid: resultId } = fields
    const { consumerKey: key, sharedSecret: secret } = this.options
    return {
      sheet,
      name: fields['lis_person_name_full'] ?? `Plotter ${(fields['user_id'] ?? '').slice(0, 6)}`,
      instructor: isInstructor(fields),
      target: serviceUrl && resultId ? { serviceUrl, resultId, key, secret } : undefined,
    }
  }
}

async function score(reply: FastifyReply, session: Session, fraction: string): Promise<FastifyReply> {
  const { title } = SHEETS[session.sheet]!
  if (!session.target)
    return send(
      reply,
      title,
      session.name,
      '<p>There is no place to return a score to: open this sheet from your course.</p>',
    )
  const answer = await sendOutcome(session.target, outcomeXml('replaceResult', session.target.resultId, fraction))
  return send(
    reply,
    title,
    session.name,
    `<p>You reached ${escape(fraction)} of 1.</p><p>${answer.codeMajor === 'success' ? 'Your score was sent' : 'The platform refused the score'}: ${escape(answer.description)}</p>`,
  )
}

function send(reply: FastifyReply, title: string, who: string, body: string, status = 200): FastifyReply {
  return reply
    .code(status)
    .type('text/html; charset=utf-8')
    .send(toolPage(LOOK, title, who, `<h1>${escape(title)}</h1>${body}`))
}
