import type { FastifyInstance, FastifyReply } from 'fastify'
import { LaunchRefused, type Fields } from '../lti1/verify-launch.js'
import { GradeServices, type RosterMember } from '../lti13/grade-services.js'
import { SCORE_SCOPES, type About } from '../lti13/registration.js'
import type { Platform } from '../lti13/state.js'
import { createTool13, type Tool13, type Tool13Options, type Tool13Parts } from '../lti13/tool13-app.js'
import { buttonForm, escape, type Look } from '../parts/page.js'
import { beginning, discover, exchange, giveBack, type Held, type Server } from './connection.js'

const LOOK: Look = { name: 'Tally Bench', ink: '#54452a', ground: '#f6f3ea' }
const ROSTER_SCOPE = 'https://purl.imsglobal.org/spec/lti-nrps/scope/contextmembership.readonly'
const ABOUT: About = {
  name: LOOK.name,
  description:
    'Ship-handling trials, written up in the examiner’s log: fetches the people of a course and sends all scores.',
  target: '/bench',
  scopes: [...SCORE_SCOPES, ROSTER_SCOPE],
  claims: ['sub', 'name'],
  redirects: ['/connected'],
  placements: [],
}

interface Trial {
  label: string
  maximum: number
  column: string
  marks: Record<string, number>
  sent: Record<string, number>
}
interface LinkedCourse {
  id: string
  label: string
  title: string
  memberships: string
  lineitems: string
  people: RosterMember[]
  /** What the last fetch of the people brought. */
  news: { added: string[]; left: string[] }
  trials: Record<string, Trial>
}
interface TallyState {
  held?: Held
  waiting?: { state: string; verifier: string }
  courses: Record<string, LinkedCourse>
}

/** Tally Bench, a practice tool that is not launched but connected: an instructor lets it into courses, and it works there by itself. */
export function createTally(options: Tool13Options): Promise<FastifyInstance> {
  const redirectUri = `${options.publicUrl}/connected`
  return createTool13<TallyState>(options, (tool) => new Tally(tool, redirectUri).parts())
}

class Tally {
  private known: { issuer: string; server: Server } | undefined
  private readonly services = new GradeServices(() => this.token())

  constructor(
    private readonly tool: Tool13<TallyState>,
    private readonly redirectUri: string,
  ) {}

  parts(): Tool13Parts {
    this.connectingRoutes()
    this.trialsRoutes()
    return { look: LOOK, about: ABOUT, onLaunch: (_claims, _session, reply) => this.openBench(reply) }
  }

  private connectingRoutes(): void {
    const { app } = this.tool
    app.get('/connect', async (_, reply) => {
      const { url, ...waiting } = beginning(await this.server(), this.platform(), this.redirectUri, ABOUT.scopes)
      this.mine().waiting = waiting
      this.tool.state.save()
      return reply.redirect(url)
    })
    app.get<{ Querystring: Record<string, string | undefined> }>('/connected', async (request, reply) => {
      const { code, state: given, error } = request.query
      const { waiting } = this.mine()
      if (error) return this.tool.send(reply, 'Not connected', '', `<p>Your platform says: ${escape(error)}.</p>`, 400)
      if (!code || !waiting || waiting.state !== given)
        throw new LaunchRefused(400, 'This is not the answer to what we asked.')
      this.mine().held = await exchange(await this.server(), this.platform(), await this.tool.state.signingKey(), {
        grant_type: 'authorization_code',
        code,
        redirect_uri: this.redirectUri,
        code_verifier: waiting.verifier,
      })
      delete this.mine().waiting
      await this.listCourses()
      return this.openBench(reply)
    })
    app.post('/disconnect', async (_, reply) => {
      const { held } = this.mine()
      if (held) await giveBack(await this.server(), this.platform(), await this.tool.state.signingKey(), held.refresh)
      this.tool.state.value.links['tally'] = { courses: {} }
      this.tool.state.save()
      return this.openBench(reply)
    })
  }

  private trialsRoutes(): void {
    const { app } = this.tool
    app.post<{ Body: Fields | undefined }>('/fetch', async (request, reply) => {
      const course = this.courseOf(request.body)
      const { members } = await this.services.roster(course.memberships)
      const before = new Set(course.people.map((one) => one.user_id))
      const learners = members.filter((one) => one.roles.some((role) => role.endsWith('#Learner')))
      const now = new Set(learners.map((one) => one.user_id))
      course.news = {
        added: learners.filter((one) => !before.has(one.user_id)).map((one) => one.name ?? one.user_id),
        left: course.people.filter((one) => !now.has(one.user_id)).map((one) => one.name ?? one.user_id),
      }
      course.people = learners
      this.tool.state.save()
      return this.openBench(reply)
    })
    app.post<{ Body: Fields | undefined }>('/trial', async (request, reply) => {
      const course = this.courseOf(request.body)
      const label = (request.body?.['label'] ?? '').trim()
      const maximum = Number(request.body?.['maximum'])
      if (!label || !(maximum > 0)) throw new LaunchRefused(400, 'A trial needs a name and a maximum.')
      const { id } = await this.services.makeColumn(course.lineitems, {
        label,
        scoreMaximum: maximum,
        resourceId: `trial ${label}`,
      })
      course.trials[label] = { label, maximum, column: id, marks: {}, sent: {} }
      this.tool.state.save()
      return this.openBench(reply)
    })
    app.post<{ Body: Fields | undefined }>('/marks', (request, reply) => {
      const trial = this.courseOf(request.body).trials[request.body?.['trial'] ?? '']
      if (!trial) throw new LaunchRefused(404, 'There is no such trial.')
      for (const [name, text] of Object.entries(request.body ?? {}))
        if (name.startsWith('mark ') && (text ?? '').trim() !== '') trial.marks[name.slice(5)] = Number(text)
      this.tool.state.save()
      return this.openBench(reply)
    })
    // All of them, also those that were sent before: after a change it is the same button.
    app.post<{ Body: Fields | undefined }>('/send', async (request, reply) => {
      const trial = this.courseOf(request.body).trials[request.body?.['trial'] ?? '']
      if (!trial) throw new LaunchRefused(404, 'There is no such trial.')
      const refused: string[] = []
      for (const [userId, mark] of Object.entries(trial.marks)) {
        const { status, said } = await this.services.score(trial.column, {
          userId,
          activityProgress: 'Completed',
          gradingProgress: 'FullyGraded',
          scoreGiven: mark,
          scoreMaximum: trial.maximum,
        })
        if (status < 300) trial.sent[userId] = mark
        else refused.push(said)
      }
      this.tool.state.save()
      return this.openBench(
        reply,
        `${Object.keys(trial.sent).length} scores are at your platform.${refused.length > 0 ? ` ${refused.length} were refused: ${refused[0]}` : ''}`,
      )
    })
    app.get('/practice/tally', (_, reply) =>
      reply.send({ courses: this.mine().courses, connected: this.mine().held !== undefined }),
    )
  }

  private mine(): TallyState {
    return (this.tool.state.value.links['tally'] ??= { courses: {} })
  }

  private platform(): Platform {
    const last = this.tool.state.value.platforms.at(-1)
    if (!last) throw new LaunchRefused(409, 'No platform is known yet.')
    return last
  }

  private async server() {
    if (this.known?.issuer !== this.platform().issuer)
      this.known = { issuer: this.platform().issuer, server: await discover(this.platform()) }
    return this.known.server
  }

  private async token(): Promise<string> {
    const { held } = this.mine()
    if (!held) throw new LaunchRefused(409, 'No course is connected yet.')
    if (held.expiresAt > Date.now()) return held.access
    const fresh = await exchange(await this.server(), this.platform(), await this.tool.state.signingKey(), {
      grant_type: 'refresh_token',
      refresh_token: held.refresh,
    })
    this.mine().held = fresh
    this.tool.state.save()
    return fresh.access
  }

  private courseOf(body: Fields | undefined): LinkedCourse {
    const found = this.mine().courses[body?.['course'] ?? '']
    if (!found) throw new LaunchRefused(404, 'This course is not connected.')
    return found
  }

  private async listCourses(): Promise<void> {
    const response = await fetch((await this.server())['urn:bathyscribe:courses'], {
      headers: { authorization: `Bearer ${await this.token()}` },
    })
    const { courses } = (await response.json()) as { courses: Omit<LinkedCourse, 'people' | 'news' | 'trials'>[] }
    for (const course of courses)
      this.mine().courses[course.id] = {
        ...(this.mine().courses[course.id] ?? { people: [], news: { added: [], left: [] }, trials: {} }),
        ...course,
      }
    this.tool.state.save()
  }

  private openBench(reply: FastifyReply, said = ''): FastifyReply {
    const { held, courses } = this.mine()
    const body = Object.values(courses).map((course) => {
      const { added, left } = course.news
      const trials = Object.values(course.trials).map((trial) => {
        const lines = course.people.map(
          (one) =>
            `<label>${escape(one.name ?? one.user_id)} <input type="text" name="mark ${escape(one.user_id)}" value="${trial.marks[one.user_id] ?? ''}"> of ${trial.maximum}</label>`,
        )
        return `<fieldset><legend>${escape(trial.label)}</legend>${buttonForm('/marks', { course: course.id, trial: trial.label }, 'Write up', lines.join(''))}${buttonForm('/send', { course: course.id, trial: trial.label }, 'Send everything')}</fieldset>`
      })
      return `<h2>${escape(course.label)} ${escape(course.title)}</h2><p>${course.people.length} learners${added.length > 0 ? `, new: ${added.map(escape).join(', ')}` : ''}${left.length > 0 ? `, left: ${left.map(escape).join(', ')}` : ''}.</p>${buttonForm('/fetch', { course: course.id }, 'Fetch the people')}${trials.join('')}${buttonForm('/trial', { course: course.id }, 'Enter a trial', '<label>Trial <input type="text" name="label"></label><label>Maximum <input type="text" name="maximum" value="20"></label>')}`
    })
    const link = '<p><a href="/connect">Connect with a course</a></p>'
    return this.tool.send(
      reply,
      'The examiner’s log',
      '',
      `${said && `<p><strong>${escape(said)}</strong></p>`}${body.join('')}${link}${held ? buttonForm('/disconnect', {}, 'End the connection') : ''}`,
    )
  }
}
