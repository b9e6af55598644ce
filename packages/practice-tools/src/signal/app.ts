import type { FastifyInstance, FastifyReply } from 'fastify'
import { LaunchRefused, type Fields } from '../lti1/verify-launch.js'
import type { Item } from '../lti13/answer-picking.js'
import { AGS_ENDPOINT } from '../lti13/grade-services.js'
import { SCORE_SCOPES, type About } from '../lti13/registration.js'
import { createTool13, linkKey, type Tool13, type Tool13Options, type Tool13Parts } from '../lti13/tool13-app.js'
import type { LaunchClaims } from '../lti13/verify-token.js'
import { buttonForm, escape, type Look } from '../parts/page.js'
import { Spoken } from './spoken.js'

const LOOK: Look = { name: 'Signal Mast', ink: '#1f4d4a', ground: '#eef4f2' }
const ABOUT: About = {
  name: LOOK.name,
  description: 'Weather observations in twelve rounds; each round takes one score.',
  target: '/mast',
  picker: '/series',
  scopes: SCORE_SCOPES,
  claims: ['sub', 'name'],
  placements: ['ContentArea'],
}

export const TOPICS = ['Cloud and cover', 'Wind and sea', 'Pressure and air'] as const
/** How many rounds a series has, and how many days lie between two of them. */
const SERIES = { rounds: 12, days: 7, points: 5 }
const DAY_MS = 24 * 3600_000

interface SignalLink {
  topic: string
  round: number
  by: string
}
interface Observation {
  sub: string
  name: string
  text: string
}

/** Signal Mast, a practice tool of LTI 1.3: weather observations in twelve rounds, handed over as a series, or one chosen at the first launch of a link. */
export function createSignal(options: Tool13Options & { now?: () => number }): Promise<FastifyInstance> {
  const now = options.now ?? Date.now
  /** Kept in this run only: they are for practice. */
  const observations = new Map<string, Observation[]>()
  return createTool13<SignalLink>(options, (tool) => new Signal(tool, options, now, observations).parts())
}

class Signal {
  private readonly spoken: Spoken

  constructor(
    private readonly tool: Tool13<SignalLink>,
    private readonly options: Tool13Options,
    private readonly now: () => number,
    private readonly observations: Map<string, Observation[]>,
  ) {
    this.spoken = new Spoken(tool, SERIES.points)
  }

  parts(): Tool13Parts {
    this.observationsRoutes()
    this.pickingRoutes()
    this.spoken.serve(this.tool.app)
    return {
      look: LOOK,
      about: ABOUT,
      onLaunch: (claims, session, reply) => this.openMast(claims, session, reply),
      onPick: (claims, session, reply) => this.openSeries(claims, session, reply),
    }
  }

  private observationsRoutes(): void {
    const { app } = this.tool
    app.post<{ Body: Fields | undefined }>('/choose', (request, reply) => {
      const { id, claims } = this.tool.find(request.body)
      if (!claims.instructor) throw new LaunchRefused(403, 'Only instructors choose what is observed.')
      const topic = TOPICS.find((one) => one === request.body?.['topic']) ?? TOPICS[0]
      this.tool.state.value.links[linkKey(claims)] = {
        topic,
        round: roundOf(request.body?.['round']),
        by: claims.name,
      }
      this.tool.state.save()
      return this.openMast(claims, id, reply)
    })
    app.post<{ Body: Fields | undefined }>('/observe', async (request, reply) => {
      const { id, claims } = this.tool.find(request.body)
      const text = (request.body?.['text'] ?? '').trim().slice(0, 2000)
      const link = this.linkOf(claims)
      if (link && text)
        this.observations.set(link.topic, [
          ...(this.observations.get(link.topic) ?? []),
          { sub: claims.sub, name: claims.name, text },
        ])
      // Who has observed in a round has the points of it.
      if (link && text && !claims.instructor) await this.tool.score(claims, 1, SERIES.points)
      return this.openMast(claims, id, reply)
    })
    // On demand, as often as one likes: everybody who has observed has the points of the round.
    app.post<{ Body: Fields | undefined }>('/send', async (request, reply) => {
      const { claims } = this.tool.find(request.body)
      if (!claims.instructor) throw new LaunchRefused(403, 'Only instructors send scores.')
      const link = this.linkOf(claims)
      const endpoint = claims.all[AGS_ENDPOINT] as { lineitem?: string; lineitems?: string } | undefined
      const column =
        request.body?.['own'] === 'yes' ? await this.ownColumn(endpoint?.lineitems, link) : endpoint?.lineitem
      if (!column || !link) throw new LaunchRefused(409, 'There is no column to send to.')
      const observers = [...new Set((this.observations.get(link.topic) ?? []).map((one) => one.sub))].filter(
        (sub) => sub !== claims.sub,
      )
      const answers = await Promise.all(
        observers.map((userId) =>
          this.tool.services.score(column, {
            userId,
            activityProgress: 'Completed',
            gradingProgress: 'FullyGraded',
            scoreGiven: SERIES.points,
            scoreMaximum: SERIES.points,
          }),
        ),
      )
      const taken = answers.filter((one) => one.status < 300).length
      return this.tool.send(
        reply,
        claims.linkTitle,
        claims.name,
        `<p>${taken} of ${answers.length} scores were taken.</p>`,
      )
    })
  }

  private pickingRoutes(): void {
    const { app } = this.tool
    app.post<{ Body: Fields | undefined }>('/series/take', (request, reply) => {
      const { claims } = this.tool.find(request.body)
      const topic = TOPICS.find((one) => one === request.body?.['topic'])
      const count = request.body?.['all'] === 'yes' && claims.picking?.multiple ? SERIES.rounds : 1
      return this.tool.answer(
        reply,
        claims,
        topic ? Array.from({ length: count }, (_, i) => this.itemOf(topic, i + 1)) : [],
      )
    })
  }

  /** A column of the mast's own for a round: found again, or made. */
  private async ownColumn(lineItems: string | undefined, link: SignalLink | undefined): Promise<string | undefined> {
    if (!lineItems || !link) return undefined
    const resourceId = `mast ${link.topic} ${link.round}`
    const found = (await this.tool.services.columns(lineItems)).find((one) => one.resourceId === resourceId)
    const label = `${link.topic}, round ${link.round}`
    return (
      found ?? (await this.tool.services.makeColumn(lineItems, { label, scoreMaximum: SERIES.points, resourceId }))
    ).id
  }

  private linkOf(claims: LaunchClaims): SignalLink | undefined {
    const picked = TOPICS.find((one) => one === claims.custom['topic'])
    return picked
      ? { topic: picked, round: roundOf(claims.custom['round']), by: '' }
      : this.tool.state.value.links[linkKey(claims)]
  }

  private openMast(claims: LaunchClaims, session: string, reply: FastifyReply): FastifyReply {
    const link = this.linkOf(claims)
    if (!link)
      return this.tool.send(
        reply,
        claims.linkTitle,
        claims.name,
        claims.instructor
          ? buttonForm(
              '/choose',
              { session },
              'Observe this',
              `<fieldset><legend>This link leads to</legend>${TOPICS.map((one, i) => `<label><input type="radio" name="topic" value="${escape(one)}"${i === 0 ? ' checked' : ''}> ${escape(one)}</label>`).join('')}<label>Round <input type="text" name="round" value="1"></label></fieldset>`,
            )
          : '<p>Your instructor has not chosen what is observed here yet.</p>',
      )
    if (claims.custom['observe'] === 'spoken')
      return this.tool.send(
        reply,
        `${link.topic}, round ${link.round}`,
        claims.name,
        this.spoken.markup(claims, session),
      )
    const said = (this.observations.get(link.topic) ?? [])
      .map((one) => `<p><strong>${escape(one.name)}</strong>: ${escape(one.text)}</p>`)
      .join('')
    return this.tool.send(
      reply,
      `${link.topic}, round ${link.round}`,
      claims.name,
      `<p>${escape(claims.contextTitle)}</p>${said || '<p>Nobody has observed anything yet.</p>'}${buttonForm('/observe', { session }, 'Enter it', '<label>What do you observe? <input type="text" name="text" required></label>')}${claims.instructor ? buttonForm('/send', { session }, 'Send the scores of this round') + buttonForm('/send', { session, own: 'yes' }, 'Send them to a column of our own') : ''}`,
    )
  }

  private openSeries(claims: LaunchClaims, session: string, reply: FastifyReply): FastifyReply {
    const topics = TOPICS.map(
      (one, i) =>
        `<label><input type="radio" name="topic" value="${escape(one)}"${i === 0 ? ' checked' : ''}> ${escape(one)}</label>`,
    )
    const all = claims.picking?.multiple
      ? `<label><input type="checkbox" name="all" value="yes" checked> All ${SERIES.rounds} rounds, one each week</label>`
      : ''
    return this.tool.send(
      reply,
      'Choose what is observed',
      claims.name,
      buttonForm(
        '/series/take',
        { session },
        'Hand it over',
        `<fieldset><legend>Observations</legend>${topics.join('')}${all}</fieldset>`,
      ),
    )
  }

  private itemOf(topic: string, n: number): Item {
    const due = new Date(
      Math.floor(this.now() / DAY_MS) * DAY_MS + n * SERIES.days * DAY_MS + 22 * 3600_000,
    ).toISOString()
    return {
      type: 'ltiResourceLink',
      title: `${topic}, round ${n}`,
      url: `${this.options.publicUrl}/mast`,
      custom: { topic, round: String(n) },
      lineItem: {
        label: `${topic}, round ${n}`,
        scoreMaximum: SERIES.points,
        resourceId: `${topic.toLowerCase().replaceAll(' ', '-')}-${n}`,
      },
      submission: { endDateTime: due },
      iframe: {},
    }
  }
}

function roundOf(text: string | undefined): number {
  const n = Number(text)
  return Number.isInteger(n) && n >= 1 && n <= SERIES.rounds ? n : 1
}
