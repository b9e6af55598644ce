import type { FastifyInstance, FastifyReply } from 'fastify'
import { LaunchRefused, type Fields } from '../lti1/verify-launch.js'
import { AGS_ENDPOINT, type ScoreToSend } from '../lti13/grade-services.js'
import { SCORE_SCOPES, type About } from '../lti13/registration.js'
import { createTool13, linkKey, type Tool13, type Tool13Options, type Tool13Parts } from '../lti13/tool13-app.js'
import type { LaunchClaims } from '../lti13/verify-token.js'
import { buttonForm, escape, type Look } from '../parts/page.js'

const LOOK: Look = { name: 'Watchlog Essays', ink: '#3b3a6b', ground: '#f1f1f6' }
const ABOUT: About = {
  name: LOOK.name,
  description: 'Writing that the instructor grades with a rubric; the comment goes back with the points.',
  target: '/log',
  review: '/review',
  scopes: SCORE_SCOPES,
  claims: ['sub', 'name'],
  placements: ['ContentArea'],
}

/** What an essay is graded by; each line takes so many points. */
export const RUBRIC = [
  { id: 'facts', text: 'What happened, in its order', points: 5 },
  { id: 'seamanship', text: 'Why it was done so', points: 5 },
  { id: 'language', text: 'Clear and short', points: 2 },
] as const
const WHOLE = RUBRIC.reduce((sum, one) => sum + one.points, 0)

interface Essay {
  name: string
  text: string
  submittedAt: string
  state: 'submitted' | 'graded' | 'shown'
  marks?: Record<string, number>
  comment?: string
}
interface WatchlogLink {
  title: string
  lineItem: string | undefined
  essays: Record<string, Essay>
}

/** Watchlog Essays, a practice tool of LTI 1.3: essays handed in, withdrawn before grading, graded with a rubric, shown with a comment, and looked at one by one. */
export function createWatchlog(options: Tool13Options): Promise<FastifyInstance> {
  return createTool13<WatchlogLink>(options, (tool) => new Watchlog(tool, options).parts())
}

class Watchlog {
  constructor(
    private readonly tool: Tool13<WatchlogLink>,
    private readonly options: Tool13Options,
  ) {}

  parts(): Tool13Parts {
    this.writingRoutes()
    this.gradingRoutes()
    return { look: LOOK, about: ABOUT, onLaunch: (claims, session, reply) => this.open(claims, session, reply) }
  }

  private writingRoutes(): void {
    const { app } = this.tool
    app.post<{ Body: Fields | undefined }>('/hand-in', async (request, reply) => {
      const { id, claims } = this.tool.find(request.body)
      const link = await this.linkOf(claims)
      const text = (request.body?.['text'] ?? '').trim().slice(0, 20_000)
      const before = link.essays[claims.sub]
      if (!text || claims.instructor || (before && before.state !== 'submitted'))
        throw new LaunchRefused(400, 'There is nothing that could be handed in now.')
      const submittedAt = new Date().toISOString()
      link.essays[claims.sub] = { name: claims.name, text, submittedAt, state: 'submitted' }
      this.tool.state.save()
      await this.tell(link, claims.sub, {
        activityProgress: 'Submitted',
        gradingProgress: 'PendingManual',
        submission: { submittedAt },
      })
      return this.open(claims, id, reply)
    })
    app.post<{ Body: Fields | undefined }>('/withdraw', async (request, reply) => {
      const { id, claims } = this.tool.find(request.body)
      const link = await this.linkOf(claims)
      if (link.essays[claims.sub]?.state !== 'submitted') throw new LaunchRefused(400, 'It is graded already.')
      delete link.essays[claims.sub]
      this.tool.state.save()
      await this.tell(link, claims.sub, { activityProgress: 'InProgress', gradingProgress: 'NotReady' })
      return this.open(claims, id, reply)
    })
  }

  private gradingRoutes(): void {
    const { app } = this.tool
    app.post<{ Body: Fields | undefined }>('/grade', async (request, reply) => {
      const { id, claims } = this.tool.find(request.body)
      if (!claims.instructor) throw new LaunchRefused(403, 'Only instructors grade.')
      const body = request.body ?? {}
      const link = await this.linkOf(claims)
      const essay = link.essays[body['student'] ?? '']
      if (!essay) throw new LaunchRefused(400, 'Nothing was handed in.')
      essay.marks = Object.fromEntries(RUBRIC.map((one) => [one.id, within(body[one.id], one.points)]))
      essay.comment = (body['comment'] ?? '').trim().slice(0, 4000)
      essay.state = body['show'] === 'on' ? 'shown' : 'graded'
      this.tool.state.save()
      const said =
        essay.state === 'shown'
          ? await this.tell(link, body['student']!, {
              activityProgress: 'Completed',
              gradingProgress: 'FullyGraded',
              scoreGiven: sumOf(essay),
              scoreMaximum: WHOLE,
              scoringUserId: claims.sub,
              ...(essay.comment && { comment: essay.comment }),
              submission: { submittedAt: essay.submittedAt },
            })
          : ''
      return this.open(claims, id, reply, said)
    })
  }

  private async linkOf(claims: LaunchClaims): Promise<WatchlogLink> {
    const key = linkKey(claims)
    const endpoint = claims.all[AGS_ENDPOINT] as { lineitem?: string } | undefined
    const known = this.tool.state.value.links[key]
    const link: WatchlogLink = {
      title: claims.linkTitle,
      essays: known?.essays ?? {},
      lineItem: endpoint?.lineitem ?? known?.lineItem,
    }
    // Once for each column: where its submissions can be looked at.
    if (link.lineItem && known?.lineItem !== link.lineItem)
      await this.tool.services.describeColumn(link.lineItem, {
        submissionReview: { url: `${this.options.publicUrl}/review` },
      })
    this.tool.state.value.links[key] = link
    this.tool.state.save()
    return link
  }

  private async tell(link: WatchlogLink, userId: string, words: Omit<ScoreToSend, 'userId'>): Promise<string> {
    if (!link.lineItem) return 'The platform gave no column.'
    const { status, said } = await this.tool.services.score(link.lineItem, { userId, ...words })
    return status < 300 ? 'Sent to your course.' : `The platform refused it: ${said}`
  }

  private async open(claims: LaunchClaims, session: string, reply: FastifyReply, said = ''): Promise<FastifyReply> {
    const link = await this.linkOf(claims)
    const note = said && `<p><strong>${escape(said)}</strong></p>`
    if (claims.review) {
      const essay = link.essays[claims.review.userId]
      const mine = claims.instructor || claims.review.userId === claims.sub
      return this.tool.send(
        reply,
        `${claims.linkTitle}: ${claims.review.name}`,
        claims.name,
        note +
          (essay && mine
            ? essayView(essay) + (claims.instructor ? gradeForm(session, claims.review.userId, essay) : '')
            : '<p>Nothing was handed in.</p>'),
      )
    }
    if (claims.instructor) {
      const all = Object.entries(link.essays)
      const body = all.map(
        ([sub, essay]) =>
          `<fieldset><legend>${escape(essay.name)}, ${essay.state}</legend>${essayView(essay)}${gradeForm(session, sub, essay)}</fieldset>`,
      )
      return this.tool.send(
        reply,
        claims.linkTitle,
        claims.name,
        note + (body.join('') || '<p>Nobody has handed anything in yet.</p>'),
      )
    }
    const essay = link.essays[claims.sub]
    const work =
      essay?.state === 'submitted'
        ? `${essayView(essay)}<p>It waits for your instructor.</p>${buttonForm('/withdraw', { session }, 'Withdraw it')}`
        : essay
          ? essayView(essay, essay.state === 'shown')
          : buttonForm(
              '/hand-in',
              { session },
              'Hand it in',
              '<label>Your report <textarea name="text" rows="8" required></textarea></label>',
            )
    return this.tool.send(reply, claims.linkTitle, claims.name, note + work)
  }
}

function essayView(essay: Essay, withMarks = true): string {
  const marks =
    withMarks && essay.marks
      ? `<p>${RUBRIC.map((one) => `${escape(one.text)}: ${essay.marks![one.id] ?? 0} of ${one.points}`).join('<br>')}<br><strong>${sumOf(essay)} of ${WHOLE}</strong></p><p><em>${escape(essay.comment ?? '')}</em></p>`
      : ''
  return `<p>${escape(essay.text)}</p>${marks}`
}

function gradeForm(session: string, student: string, essay: Essay): string {
  const lines = RUBRIC.map(
    (one) =>
      `<label>${escape(one.text)} <input type="text" name="${one.id}" value="${essay.marks?.[one.id] ?? ''}" required> of ${one.points}</label>`,
  )
  return buttonForm(
    '/grade',
    { session, student },
    'Grade',
    `${lines.join('')}<label>Comment <input type="text" name="comment" value="${escape(essay.comment ?? '')}"></label><label><input type="checkbox" name="show" checked> Let the learner see it now</label>`,
  )
}

function sumOf(essay: Essay): number {
  return RUBRIC.reduce((sum, one) => sum + (essay.marks?.[one.id] ?? 0), 0)
}

function within(text: string | undefined, most: number): number {
  const n = Number((text ?? '').replace(',', '.'))
  return Number.isFinite(n) ? Math.min(most, Math.max(0, Math.round(n * 100) / 100)) : 0
}
