import type { FastifyInstance, FastifyReply } from 'fastify'
import { LaunchRefused, type Fields } from '../lti1/verify-launch.js'
import type { Item } from '../lti13/answer-picking.js'
import { AGS_ENDPOINT } from '../lti13/grade-services.js'
import { clientMetadata, SCORE_SCOPES, type About } from '../lti13/registration.js'
import { createTool13, linkKey, type Tool13, type Tool13Options, type Tool13Parts } from '../lti13/tool13-app.js'
import type { LaunchClaims } from '../lti13/verify-token.js'
import { buttonForm, escape, type Look } from '../parts/page.js'
import { EXERCISES, type Exercise } from './exercises.js'

const LOOK: Look = { name: 'Sextant Bench', ink: '#5a2e4c', ground: '#f5f0f2' }
const ABOUT: About = {
  name: LOOK.name,
  description: 'Numeric exercises in celestial and coastal navigation.',
  target: '/bench',
  picker: '/shelf',
  scopes: SCORE_SCOPES,
  claims: ['sub', 'name', 'given_name', 'family_name'],
  custom: { course: '$Context.label' },
  placements: ['ContentArea'],
}

/** What somebody answered, and where its score went. */
interface Answer {
  sub: string
  exercise: string
  given: number
  lineItem: string
}

/** What a link opens, once an instructor has said so. */
interface SextantLink {
  exercise: string
  opened: boolean
  by: string
}

/** What Sextant Bench says of itself. */
export function metadataOf(publicUrl: string): Record<string, unknown> {
  return clientMetadata(publicUrl, ABOUT)
}

/** Sextant Bench, a practice tool of LTI 1.3: numeric exercises, picked from its shelf, or chosen at the first launch of a link, where they open to learners when the instructor says so. */
export function createSextant(options: Tool13Options): Promise<FastifyInstance> {
  return createTool13<SextantLink>(options, (tool) => new Sextant(tool, options).parts())
}

class Sextant {
  /** The last answer of everybody, by person and column. */
  private readonly answers = new Map<string, Answer>()
  private rescoring = { done: 0, of: 0, refused: 0 }

  constructor(
    private readonly tool: Tool13<SextantLink>,
    private readonly options: Tool13Options,
  ) {}

  parts(): Tool13Parts {
    this.workRoutes()
    this.markingRoutes()
    this.pickingRoutes()
    return {
      look: LOOK,
      about: ABOUT,
      onLaunch: (claims, session, reply) => this.openBench(claims, session, reply),
      onPick: (claims, session, reply) => this.openShelf(claims, session, reply),
    }
  }

  private workRoutes(): void {
    const { app } = this.tool
    app.post<{ Body: Fields | undefined }>('/choose', (request, reply) => {
      const { id, claims } = this.tool.find(request.body)
      if (!claims.instructor) throw new LaunchRefused(403, 'Only instructors choose exercises.')
      const exercise = EXERCISES.find((one) => one.id === request.body?.['exercise']) ?? EXERCISES[0]!
      this.tool.state.value.links[linkKey(claims)] = {
        exercise: exercise.id,
        opened: request.body?.['open'] === 'on',
        by: claims.name,
      }
      this.tool.state.save()
      return this.openBench(claims, id, reply)
    })
    app.post<{ Body: Fields | undefined }>('/answer', async (request, reply) => {
      const { claims } = this.tool.find(request.body)
      const exercise = this.exerciseOf(claims)
      const given = Number(request.body?.['answer'])
      const right = exercise !== undefined && Math.abs(given - exercise.answer) <= Math.abs(exercise.answer) * 0.01
      const lineItem = (claims.all[AGS_ENDPOINT] as { lineitem?: string } | undefined)?.lineitem
      if (lineItem && exercise && !claims.instructor)
        this.answers.set(`${claims.sub} ${lineItem}`, { sub: claims.sub, exercise: exercise.id, given, lineItem })
      const sent = claims.instructor ? '' : await this.tool.score(claims, right ? 1 : 0, exercise?.points)
      return this.tool.send(
        reply,
        claims.linkTitle,
        claims.name,
        `<p>${right ? 'Right' : 'Not right'}: you answered ${escape(String(given))}.</p><p>${escape(sent)}</p>`,
      )
    })
  }

  private markingRoutes(): void {
    const { app } = this.tool
    // A long job: all answers are marked again, with another tolerance, and sent again.
    app.post<{ Body: Fields | undefined }>('/rescore', (request, reply) => {
      const { id, claims } = this.tool.find(request.body)
      if (!claims.instructor) throw new LaunchRefused(403, 'Only instructors mark answers again.')
      const tolerance = Number(request.body?.['tolerance'] ?? '0.05') || 0.05
      if (this.rescoring.done === this.rescoring.of) void this.rescore([...this.answers.values()], tolerance)
      return this.sendProgress(reply, claims, id)
    })
    app.post<{ Body: Fields | undefined }>('/rescore/progress', (request, reply) => {
      const { id, claims } = this.tool.find(request.body)
      return this.sendProgress(reply, claims, id)
    })
    app.get('/practice/rescoring', (_, reply) => reply.send(this.rescoring))
  }

  private pickingRoutes(): void {
    const { app } = this.tool
    app.post<{ Body: Fields | undefined }>('/shelf', (request, reply) => {
      const { id, claims } = this.tool.find(request.body)
      return this.openShelf(claims, id, reply, request.body?.['search'] ?? '', request.body?.['look'])
    })
    app.post<{ Body: Fields | undefined }>('/shelf/take', (request, reply) => {
      const { claims } = this.tool.find(request.body)
      const body = request.body ?? {}
      const chosen = EXERCISES.filter((one) => body['exercise'] === one.id || body[`take-${one.id}`] === 'on')
      return this.tool.answer(
        reply,
        claims,
        chosen.map((one) => this.itemOf(one)),
        chosen.length > 0 ? undefined : 'Nothing was taken off the shelf.',
      )
    })
  }

  private async rescore(all: Answer[], tolerance: number): Promise<void> {
    this.rescoring = { done: 0, of: all.length, refused: 0 }
    const queue = [...all]
    const work = async () => {
      for (let one = queue.shift(); one; one = queue.shift()) {
        const exercise = EXERCISES.find((each) => each.id === one.exercise)!
        const right = Math.abs(one.given - exercise.answer) <= Math.abs(exercise.answer) * tolerance
        const { status } = await this.tool.services
          .score(one.lineItem, {
            userId: one.sub,
            activityProgress: 'Completed',
            gradingProgress: 'FullyGraded',
            scoreGiven: right ? exercise.points : 0,
            scoreMaximum: exercise.points,
          })
          .catch(() => ({ status: 0 }))
        this.rescoring.done += 1
        if (status >= 300 || status === 0) this.rescoring.refused += 1
      }
    }
    await Promise.all(Array.from({ length: 8 }, work))
  }

  private sendProgress(reply: FastifyReply, claims: LaunchClaims, session: string): FastifyReply {
    const { done, of, refused } = this.rescoring
    return this.tool.send(
      reply,
      'Marking all answers again',
      claims.name,
      `<p><progress max="${of || 1}" value="${of === 0 ? 1 : done}"></progress> ${done} of ${of} scores sent again${refused > 0 ? `, ${refused} refused` : ''}.</p>${done < of ? buttonForm('/rescore/progress', { session }, 'Look again') : '<p>Done.</p>'}`,
    )
  }

  private exerciseOf(claims: LaunchClaims): Exercise | undefined {
    // What was picked says itself what it is; everything else is chosen at the first launch.
    const picked = EXERCISES.find((one) => one.id === claims.custom['exercise'])
    if (picked) return picked
    const link = this.tool.state.value.links[linkKey(claims)]
    return link && (link.opened || claims.instructor) ? EXERCISES.find((one) => one.id === link.exercise) : undefined
  }

  private openBench(claims: LaunchClaims, session: string, reply: FastifyReply): FastifyReply {
    const link = this.tool.state.value.links[linkKey(claims)]
    const exercise = this.exerciseOf(claims)
    const isPicked = exercise !== undefined && claims.custom['exercise'] === exercise.id
    const choice = claims.instructor && !isPicked ? chooser(session, link?.exercise, link?.opened ?? false) : ''
    const work = exercise
      ? buttonForm(
          '/answer',
          { session },
          'Answer',
          `<fieldset><legend>${escape(exercise.title)}</legend><p>${escape(exercise.question)}</p><label>Your answer <input type="text" name="answer" required> ${exercise.unit}</label></fieldset>`,
        )
      : `<p>${claims.instructor ? 'Choose what this link opens.' : 'Not open yet.'}</p>`
    const again = claims.instructor
      ? buttonForm(
          '/rescore',
          { session },
          'Mark all answers again',
          '<label>Tolerance <input type="text" name="tolerance" value="0.05"></label>',
        )
      : ''
    return this.tool.send(
      reply,
      claims.linkTitle,
      claims.name,
      `<p>${escape(claims.contextTitle)}</p>${work}${choice}${again}`,
    )
  }

  private openShelf(
    claims: LaunchClaims,
    session: string,
    reply: FastifyReply,
    search = '',
    look?: string,
  ): FastifyReply {
    const found = EXERCISES.filter((one) =>
      `${one.title} ${one.question}`.toLowerCase().includes(search.trim().toLowerCase()),
    )
    const shown = EXERCISES.find((one) => one.id === look)
    const kind = claims.picking?.multiple ? 'checkbox' : 'radio'
    const lines = found.map(
      (one, i) =>
        `<label><input type="${kind}" ${kind === 'radio' ? `name="exercise" value="${one.id}"${i === 0 ? ' checked' : ''}` : `name="take-${one.id}"`}> ${escape(one.title)} <small>(${one.points} points)</small></label>`,
    )
    const looks = found
      .map((one) => `<button name="look" value="${one.id}">Look at “${escape(one.title)}”</button>`)
      .join(' ')
    return this.tool.send(
      reply,
      'The shelf',
      claims.name,
      `${buttonForm('/shelf', { session }, 'Search', `<label>Find <input type="text" name="search" value="${escape(search)}"></label><p>${looks}</p>`)}
         ${shown ? `<fieldset><legend>${escape(shown.title)}</legend><p>${escape(shown.question)}</p></fieldset>` : ''}
         ${found.length > 0 ? buttonForm('/shelf/take', { session }, 'Take it', `<fieldset><legend>Exercises</legend>${lines.join('')}</fieldset>`) : '<p>There is nothing of that name.</p>'}
         ${buttonForm('/shelf/take', { session }, 'Take nothing')}`,
    )
  }

  private itemOf(exercise: Exercise): Item {
    return {
      type: 'ltiResourceLink',
      title: exercise.title,
      text: exercise.question,
      url: `${this.options.publicUrl}/bench`,
      custom: { exercise: exercise.id },
      lineItem: { label: exercise.title, scoreMaximum: exercise.points, resourceId: exercise.id, tag: 'bench' },
      iframe: { width: 800, height: 600 },
    }
  }
}

function chooser(session: string, chosen: string | undefined, opened: boolean): string {
  const options = EXERCISES.map(
    (one) =>
      `<label><input type="radio" name="exercise" value="${one.id}"${one.id === chosen ? ' checked' : ''} required> ${escape(one.title)}</label>`,
  )
  const open = `<label><input type="checkbox" name="open"${opened ? ' checked' : ''}> Open it to learners</label>`
  return buttonForm(
    '/choose',
    { session },
    'Save',
    `<fieldset><legend>This link opens</legend>${options.join('')}${open}</fieldset>`,
  )
}
