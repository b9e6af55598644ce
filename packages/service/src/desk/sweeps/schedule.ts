import { Refusal, type NewSweepSchedule, type SweepSchedule } from '@bathyscribe/contract'
import { nextOccurrence } from '@bathyscribe/core/dates'
import type { z } from 'zod'
import type { ScheduleRow } from '../../records/sweep-work.js'
import { isAdministrator, requireTeaching } from '../identity/access.js'
import { act, by, type Actor, type Context } from '../context.js'
import { resolveScope, startSweep } from './start-sweep.js'

const WORDS = { day: 'nightly', week: 'weekly' } as const

export async function listSchedules(context: Context, actor: Actor): Promise<SweepSchedule[]> {
  await requireTeaching(context.records, actor)
  return (await context.records.sweepWork.schedules(isAdministrator(actor) ? null : actor.id)).map(view)
}

/** Has a sweep begin again and again, as the person who asks for it. @throws Refusal */
export async function addSchedule(
  context: Context,
  actor: Actor,
  { every, hour, mail, ...scope }: z.output<typeof NewSweepSchedule>,
): Promise<SweepSchedule> {
  const { records, ids, clock } = context
  if (mail) {
    if (!context.mailer) throw new Refusal('mail.off')
    if (!(await records.people.byId(actor.id))?.email) throw new Refusal('mail.no_address')
  }
  const { title } = await resolveScope(context, actor, scope)
  const now = clock.now()
  return records.transaction(async (inside) => {
    const made = await inside.sweepWork.addSchedule({
      id: ids.next(),
      title: `${title}, ${WORDS[every]}`,
      scope,
      every,
      hour,
      mail,
      personId: actor.id,
      nextAt: nextOccurrence(now, every, hour),
      createdAt: now,
    })
    await inside.audit.add({
      ...by(actor),
      at: now,
      action: 'sweep.schedule',
      subject: `sweep ${made.id}`,
      courseId: null,
    })
    return view(made)
  })
}

/** @throws Refusal when there is none of theirs */
export async function removeSchedule(context: Context, actor: Actor, id: string): Promise<void> {
  await requireTeaching(context.records, actor)
  await act(context, { doer: actor, action: 'sweep.unschedule', subject: `sweep ${id}` }, async ({ sweepWork }) => {
    if (!(await sweepWork.removeSchedule(id, isAdministrator(actor) ? null : actor.id)))
      throw new Refusal('sweep.no_schedule', id)
  })
}

/** Begins the sweeps whose time has come, each as its person may now: who teaches nothing any more sweeps nothing. */
export async function startDueSweeps(context: Context): Promise<void> {
  for (;;) {
    const due = await context.records.transaction((inside) =>
      inside.sweepWork.takeDue(context.clock.now(), ({ every, hour }) =>
        nextOccurrence(context.clock.now(), every, hour),
      ),
    )
    if (!due) return
    const person = await context.records.people.byId(due.by.id)
    if (!person || person.closedAt) continue
    try {
      await startSweep(context, person, due.scope, due.id)
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      context.log.warn({ reason: error.message, schedule: due.id }, 'a sweep could not be begun')
    }
  }
}

function view({ scope: _scope, nextAt, ...row }: ScheduleRow): SweepSchedule {
  return { ...row, nextAt: nextAt.toISOString() }
}
