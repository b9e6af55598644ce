import type { FastifyInstance, FastifyReply } from 'fastify'
import { LaunchRefused, type Fields } from '../lti1/verify-launch.js'
import type { Item } from '../lti13/answer-picking.js'
import { AGS_ENDPOINT } from '../lti13/grade-services.js'
import { SCORE_SCOPES, type About } from '../lti13/registration.js'
import { createTool13, linkKey, type Tool13, type Tool13Options, type Tool13Parts } from '../lti13/tool13-app.js'
import type { LaunchClaims } from '../lti13/verify-token.js'
import { buttonForm, escape, type Look } from '../parts/page.js'

const LOOK: Look = { name: 'Signal Mast', ink: '#1f4d4a', ground: '#eef4f2' }
const ABOUT: About = {
  name: LOOK.name,
  description: 'Discussions with a series of deadlines; each deadline takes one score.',
  target: '/mast',
  picker: '/series',
  scopes: SCORE_SCOPES,
  claims: ['sub', 'name'],
  placements: ['ContentArea'],
}

export const TOPICS = ['Watch on deck', 'Rules of the road', 'Signals by night'] as const
/** How many deadlines a series has, and how many days lie between two of them. */
const SERIES = { deadlines: 12, days: 7, points: 5 }
const DAY_MS = 24 * 3600_000

interface SignalLink {
  topic: string
  deadline: number
  by: string
}
interface Post {
  sub: string
  name: string
  text: string
}

/** Signal Mast, a practice tool of LTI 1.3: discussions with a dozen deadlines, handed over as a series, or one chosen at the first launch of a link. */
export function createSignal(options: Tool13Options & { now?: () => number }): Promise<FastifyInstance> {
  const now = options.now ?? Date.now
  /** Said in this run only: discussions are for practice. */
  const posts = new Map<string, Post[]>()
  return createTool13<SignalLink>(options, (tool) => new Signal(tool, options, now, posts).parts())
}

class Signal {
  constructor(
    private readonly tool: Tool13<SignalLink>,
    private readonly options: Tool13Options,
    private readonly now: () => number,
    private readonly posts: Map<string, Post[]>,
  ) {}

  parts(): Tool13Parts {
    this.discussionsRoutes()
    this.pickingRoutes()
    return {
      look: LOOK,
      about: ABOUT,
      onLaunch: (claims, session, reply) => this.openMast(claims, session, reply),
      onPick: (claims, session, reply) => this.openSeries(claims, session, reply),
    }
  }

  private discussionsRoutes(): void {
    const { app } = this.tool
    app.post<{ Body: Fields | undefined }>('/choose', (request, reply) => {
      const { id, claims } = this.tool.find(request.body)
      if (!claims.instructor) throw new LaunchRefused(403, 'Only instructors choose a discussion.')
      const topic = TOPICS.find((one) => one === request.body?.['topic']) ?? TOPICS[0]
      this.tool.state.value.links[linkKey(claims)] = {
        topic,
        deadline: deadlineOf(request.body?.['deadline']),
        by: claims.name,
      }
      this.tool.state.save()
      return this.openMast(claims, id, reply)
    })
    app.post<{ Body: Fields | undefined }>('/say', async (request, reply) => {
      const { id, claims } = this.tool.find(request.body)
      const text = (request.body?.['text'] ?? '').trim().slice(0, 2000)
      const link = this.linkOf(claims)
      if (link && text)
        this.posts.set(link.topic, [
          ...(this.posts.get(link.topic) ?? []),
          { sub: claims.sub, name: claims.name, text },
        ])
      // Who has spoken before the deadline has the points of it.
      if (link && text && !claims.instructor) await this.tool.score(claims, 1, SERIES.points)
      return this.openMast(claims, id, reply)
    })
    // On demand, as often as one likes: everybody who has spoken has the points of the deadline.
    app.post<{ Body: Fields | undefined }>('/send', async (request, reply) => {
      const { claims } = this.tool.find(request.body)
      if (!claims.instructor) throw new LaunchRefused(403, 'Only instructors send scores.')
      const link = this.linkOf(claims)
      const endpoint = claims.all[AGS_ENDPOINT] as { lineitem?: string; lineitems?: string } | undefined
      const column =
        request.body?.['own'] === 'yes' ? await this.ownColumn(endpoint?.lineitems, link) : endpoint?.lineitem
      if (!column || !link) throw new LaunchRefused(409, 'There is no column to send to.')
      const speakers = [...new Set((this.posts.get(link.topic) ?? []).map((one) => one.sub))].filter(
        (sub) => sub !== claims.sub,
      )
      const answers = await Promise.all(
        speakers.map((userId) =>
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
      const count = request.body?.['all'] === 'yes' && claims.picking?.multiple ? SERIES.deadlines : 1
      return this.tool.answer(
        reply,
        claims,
        topic ? Array.from({ length: count }, (_, i) => this.itemOf(topic, i + 1)) : [],
      )
    })
  }

  /** A column of the mast's own for a deadline: found again, or made. */
  private async ownColumn(lineItems: string | undefined, link: SignalLink | undefined): Promise<string | undefined> {
    if (!lineItems || !link) return undefined
    const resourceId = `mast ${link.topic} ${link.deadline}`
    const found = (await this.tool.services.columns(lineItems)).find((one) => one.resourceId === resourceId)
    const label = `${link.topic}, week ${link.deadline}`
    return (
      found ?? (await this.tool.services.makeColumn(lineItems, { label, scoreMaximum: SERIES.points, resourceId }))
    ).id
  }

  private linkOf(claims: LaunchClaims): SignalLink | undefined {
    const picked = TOPICS.find((one) => one === claims.custom['topic'])
    return picked
      ? { topic: picked, deadline: deadlineOf(claims.custom['deadline']), by: '' }
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
              'This discussion it is',
              `<fieldset><legend>This link leads to</legend>${TOPICS.map((one, i) => `<label><input type="radio" name="topic" value="${escape(one)}"${i === 0 ? ' checked' : ''}> ${escape(one)}</label>`).join('')}<label>Deadline number <input type="text" name="deadline" value="1"></label></fieldset>`,
            )
          : '<p>Your instructor has not chosen a discussion for this link yet.</p>',
      )
    const said = (this.posts.get(link.topic) ?? [])
      .map((one) => `<p><strong>${escape(one.name)}</strong>: ${escape(one.text)}</p>`)
      .join('')
    return this.tool.send(
      reply,
      `${link.topic}, deadline ${link.deadline}`,
      claims.name,
      `<p>${escape(claims.contextTitle)}</p>${said || '<p>Nobody has spoken yet.</p>'}${buttonForm('/say', { session }, 'Say it', '<label>What do you say? <input type="text" name="text" required></label>')}${claims.instructor ? buttonForm('/send', { session }, 'Send the scores of this deadline') + buttonForm('/send', { session, own: 'yes' }, 'Send them to a column of our own') : ''}`,
    )
  }

  private openSeries(claims: LaunchClaims, session: string, reply: FastifyReply): FastifyReply {
    const topics = TOPICS.map(
      (one, i) =>
        `<label><input type="radio" name="topic" value="${escape(one)}"${i === 0 ? ' checked' : ''}> ${escape(one)}</label>`,
    )
    const all = claims.picking?.multiple
      ? `<label><input type="checkbox" name="all" value="yes" checked> All ${SERIES.deadlines} deadlines, one each week</label>`
      : ''
    return this.tool.send(
      reply,
      'Choose a discussion',
      claims.name,
      buttonForm(
        '/series/take',
        { session },
        'Hand it over',
        `<fieldset><legend>Discussions</legend>${topics.join('')}${all}</fieldset>`,
      ),
    )
  }

  private itemOf(topic: string, n: number): Item {
    const due = new Date(
      Math.floor(this.now() / DAY_MS) * DAY_MS + n * SERIES.days * DAY_MS + 22 * 3600_000,
    ).toISOString()
    return {
      type: 'ltiResourceLink',
      title: `${topic}, week ${n}`,
      url: `${this.options.publicUrl}/mast`,
      custom: { topic, deadline: String(n) },
      lineItem: {
        label: `${topic}, week ${n}`,
        scoreMaximum: SERIES.points,
        resourceId: `${topic.toLowerCase().replaceAll(' ', '-')}-${n}`,
      },
      submission: { endDateTime: due },
      iframe: {},
    }
  }
}

function deadlineOf(text: string | undefined): number {
  const n = Number(text)
  return Number.isInteger(n) && n >= 1 && n <= SERIES.deadlines ? n : 1
}
