import type { FastifyInstance, FastifyReply } from 'fastify'
import { LaunchRefused, type Fields } from '../lti1/verify-launch.js'
import { Kept } from '../parts/kept.js'
import { buttonForm, escape, toolPage, type Look } from '../parts/page.js'
import { Sessions } from '../parts/sessions.js'
import { createTool1, isInstructor, type Tool1Options } from '../parts/tool1-app.js'

const LOOK: Look = { name: 'Harbour Desk', ink: '#23435c', ground: '#eef2f3' }
const CLASSES = ['Pilotage, morning watch', 'Pilotage, evening watch', 'Harbour radio']

interface State {
  faults?: string[]
  /** Accounts by the platform's identifier of the person. */
  accounts: Record<string, string>
  /** Classes by the platform's identifier of the course. */
  classes: Record<string, string>
}
interface Session {
  userId: string
  name: string
  contextId: string
  course: string
  instructor: boolean
}

/** Harbour Desk, a practice tool of LTI 1.1 for the course's menu: at the first entry it ties the account, and the course to a class. */
export async function createHarbour(options: Tool1Options): Promise<FastifyInstance> {
  const kept = new Kept<State>(options.stateFile, { accounts: {}, classes: {} })
  const state = kept.value
  const sessions = new Sessions<Session>()
  const app = await createTool1(options, {
    look: LOOK,
    description: 'The harbour’s front desk: berths, radio and watches of your class.',
    kept: state,
    save: () => kept.save(),
    onLaunch: (fields, reply) => {
      const session = sessionOf(fields)
      return show(reply, session, sessions.open(session))
    },
  })

  app.post<{ Body: Fields | undefined }>('/account', (request, reply) => {
    const { id, session } = find(request.body)
    state.accounts[session.userId] = session.name
    kept.save()
    return show(reply, session, id)
  })
  app.post<{ Body: Fields | undefined }>('/class', (request, reply) => {
    const { id, session } = find(request.body)
    if (!session.instructor) throw new LaunchRefused(403, 'Only instructors tie a course to a class.')
    const wanted = request.body?.['class']?.trim()
    if (wanted) state.classes[session.contextId] = wanted.slice(0, 80)
    kept.save()
    return show(reply, session, id)
  })
  app.post<{ Body: Fields | undefined }>('/untie', (request, reply) => {
    const { id, session } = find(request.body)
    if (!session.instructor) throw new LaunchRefused(403, 'Only instructors untie a class.')
    delete state.classes[session.contextId]
    kept.save()
    return show(reply, session, id)
  })

  function find(body: Fields | undefined): { id: string; session: Session } {
    const id = body?.['session'] ?? ''
    const session = sessions.find(id)
    if (!session) throw new LaunchRefused(403, 'This page is too old. Open the desk again from your course.')
    return { id, session }
  }

  function show(reply: FastifyReply, session: Session, id: string): FastifyReply {
    const send = (title: string, body: string) =>
      reply
        .type('text/html; charset=utf-8')
        .send(toolPage(LOOK, title, session.name, `<h1>${escape(title)}</h1>${body}`))
    const tied = state.classes[session.contextId]
    if (!tied && !session.instructor)
      return send('Not open yet', '<p>Your instructor has not tied this course to a class of the harbour yet.</p>')
    if (!state.accounts[session.userId])
      return send(
        'Tie your account',
        `<p>You are new here. Shall the desk know you as <strong>${escape(session.name)}</strong>?</p>${buttonForm('/account', { session: id }, 'Yes, tie my account')}`,
      )
    if (!tied) {
      const choices = CLASSES.map(
        (one, i) =>
          `<label><input type="radio" name="class" value="${escape(one)}"${i === 0 ? ' checked' : ''}> ${escape(one)}</label>`,
      )
      return send(
        'Tie this course to a class',
        `<p>${escape(session.course)} is not tied to a class yet.</p>${buttonForm('/class', { session: id }, 'Tie the course', `<fieldset>${choices.join('')}</fieldset>`)}`,
      )
    }
    const untie = session.instructor ? buttonForm('/untie', { session: id }, 'Untie this class') : ''
    return send(
      tied,
      `<p>Welcome to the desk of ${escape(session.course)}. Two berths are free; the radio listens on channel 12.</p>${untie}`,
    )
  }

  return app
}

function sessionOf(fields: Fields): Session {
  return {
    userId: fields['user_id']!,
    name: fields['lis_person_name_full'] ?? `Visitor ${fields['user_id']!.slice(0, 6)}`,
    contextId: fields['context_id'] ?? '',
    course: fields['context_title'] ?? 'Your course',
    instructor: isInstructor(fields),
  }
}
