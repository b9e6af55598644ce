import { preflightQuestion } from '../../desk/assignments/preflight.js'
import { makeAssignment } from '../../desk/assignments/make.js'
import { inText } from './views/moments.js'
import { wireDetailView, wireView } from './views/wire.js'
import { watchView } from './views/watch.js'
import { soundingDetailView, soundingView } from './views/soundings.js'
import { assignmentView } from './views/assignments.js'
import { isAdministrator, requireTeaching, taughtAssignment, taughtCourse } from '../../desk/identity/access.js'
import {
  changeAssignment,
  deleteAssignment,
  publishAssignment,
  restoreAssignment,
  unpublishAssignment,
} from '../../desk/assignments/change.js'
import { acceptWarning, copyAssignment, preflightCourse, remarksOfSummary } from '../../desk/assignments/more-acts.js'
import { takePicked } from '../../desk/assignments/picked-many.js'
import { checkTable, makeTable } from '../../desk/assignments/table.js'
import type { Context } from '../../desk/context.js'
import { explainedEntries } from '../../desk/diagnosis/explained-entry.js'
import { visibleEntry } from '../../desk/diagnosis/visible-entry.js'
import { readItem } from '../../desk/outline/read-outline.js'
import { turnIntoLink } from '../../desk/outline/turn.js'
import { readWatch } from '../../desk/watch/read-watch.js'
import { listWork, showWork } from '../../desk/grades/read-work.js'
import { endWait, startSounding } from '../../desk/soundings/start-sounding.js'
import { excerpt, tryLaunchOnce } from '../../desk/launches/try-launch.js'
import type { Handlers } from './routes.js'
import { visibleSounding } from './soundings.js'

type WorkCalls =
  | 'listAssignments' | 'findAssignments' | 'createAssignment' | 'preflightAssignment' | 'showAssignment' | 'changeAssignment' | 'publishAssignment'
  | 'unpublishAssignment' | 'tryLaunch' | 'listWork' | 'showWork' | 'deleteAssignment' | 'restoreAssignment' | 'copyAssignment'
  | 'acceptWarning' | 'preflightCourse' | 'checkTable' | 'makeTable' | 'takePicked' | 'turnIntoLink' // oxfmt-ignore

type EvidenceCalls =
  | 'runSounding'
  | 'endWait'
  | 'listSoundings'
  | 'showSounding'
  | 'listWire'
  | 'showWireEntry'
  | 'showWatch'

/** Assignments, and all that is done about them. */
export function workHandlers(context: Context): {
  handlers: Pick<Handlers, WorkCalls>
  detail: (id: string) => ReturnType<Handlers['showAssignment']>
} {
  const { records } = context

  async function detail(id: string) {
    const assignment = await records.assignments.summary(id)
    const tool = await records.tools.byId(assignment.registrationId)
    const testLearner = await records.people.firstOfRole(assignment.courseId, 'test_learner')
    return {
      ...assignmentView(assignment),
      preflight: await remarksOfSummary(context, assignment),
      testLearner: testLearner ? { id: testLearner.id, fullName: testLearner.fullName } : null,
      scores: assignment.scores,
      firstEntry: await records.menus.entryOf(assignment.courseId, tool.id, assignment.id),
    }
  }
  const handlers: Pick<Handlers, WorkCalls> = {
    listAssignments: async ({ caller }) => ({
      items: (await records.assignments.summariesOfCourse(caller.course.id)).map(assignmentView),
    }),
    findAssignments: async ({ caller: { actor }, query }) => ({
      items: await records.assignments.find(actor.id, isAdministrator(actor), query),
    }),
    createAssignment: async ({ caller, body }) =>
      detail((await makeAssignment(context, caller.actor, caller.course.id, body)).id),
    preflightAssignment: ({ caller, body }) => preflightQuestion(context, caller.actor, caller.course.id, body),
    showAssignment: ({ caller }) => detail(caller.assignment.id),
    changeAssignment: async ({ caller, body }) => {
      await changeAssignment(context, caller.actor, caller.assignment, body)
      return detail(caller.assignment.id)
    },
    publishAssignment: async ({ caller, body }) => {
      await publishAssignment(context, caller.actor, caller.assignment, body)
      return detail(caller.assignment.id)
    },
    unpublishAssignment: async ({ caller, body }) => {
      await unpublishAssignment(context, caller.actor, caller.assignment, body.keepScores)
      return detail(caller.assignment.id)
    },
    deleteAssignment: async ({ caller }) => {
      await deleteAssignment(context, caller.actor, caller.assignment)
      return detail(caller.assignment.id)
    },
    restoreAssignment: async ({ caller }) => {
      await restoreAssignment(context, caller.actor, caller.assignment)
      return detail(caller.assignment.id)
    },
    copyAssignment: async ({ caller }) => detail(await copyAssignment(context, caller.actor, caller.assignment)),
    acceptWarning: async ({ caller, body }) => {
      await acceptWarning(context, caller.actor, caller.assignment, body)
      return detail(caller.assignment.id)
    },
    preflightCourse: ({ caller }) => preflightCourse(context, caller.course),
    checkTable: ({ caller, body }) => checkTable(context, caller.course, body),
    makeTable: ({ caller, body }) => makeTable(context, caller.actor, caller.course, body),
    takePicked: async ({ caller, body }) => {
      const ids = await takePicked(context, caller.actor, caller.course, body)
      const all = await records.assignments.summariesOfCourse(caller.course.id)
      return { items: all.filter((one) => ids.includes(one.id)).map(assignmentView) }
    },
    turnIntoLink: async ({ caller, body }) => {
      const id = await turnIntoLink(context, caller.actor, caller.course, caller.assignment, body.unit)
      return readItem(context, caller.course, id, true)
    },
    tryLaunch: ({ caller, body }) => triedLaunch(context, caller.actor, caller.assignment, body),
    listWork: async ({ caller }) => ({
      items: await listWork(context, caller.actor, caller.course.id, caller.teaching),
    }),
    showWork: ({ caller }) => showWork(context, caller.actor, caller.assignment.id, caller.teaching),
  }
  return { handlers, detail }
}

async function triedLaunch(...asked: Parameters<typeof tryLaunchOnce>) {
  const { followed, refusal, wireEntryId } = await tryLaunchOnce(...asked)
  return {
    wireEntryId,
    accepted: refusal === undefined,
    statement: refusal ?? `The tool answered ${followed.status}.`,
    status: followed.status,
    url: followed.url,
    steps: followed.steps,
    excerpt: excerpt(followed),
    durationMs: followed.durationMs,
  }
}

/** What was seen of links and messages. `sound` hands a started sounding to a worker. */
export function evidenceHandlers(
  context: Context,
  sound: (soundingId: string) => Promise<void>,
): Pick<Handlers, EvidenceCalls> {
  const { records } = context
  const showSounding = async (id: string) =>
    soundingDetailView(await records.soundings.summary(id), await records.soundings.findings(id))

  return {
    runSounding: async ({ caller, body }) => {
      const id = await startSounding(context, caller.actor, caller.assignment, body)
      await sound(id)
      return showSounding(id)
    },
    endWait: async ({ caller, params }) => {
      const sounding = await visibleSounding(context, caller.actor, params.id)
      await endWait(context, sounding)
      return showSounding(params.id)
    },
    listSoundings: async ({ caller, query }) => {
      const courses = await requireTeaching(records, caller.actor)
      const page = await records.soundings.list(courses, {
        ...query,
        courseId: await taughtCourse(records, courses, query.course),
        assignmentId: await taughtAssignment(records, courses, query.assignment),
      })
      return { ...page, items: page.items.map(soundingView) }
    },
    showSounding: async ({ caller, params }) => {
      const sounding = await visibleSounding(context, caller.actor, params.id)
      return soundingDetailView(sounding, await records.soundings.findings(params.id))
    },

    listWire: async ({ caller, query }) => {
      const courses = await requireTeaching(records, caller.actor)
      const page = await records.wire.list(courses, {
        ...query,
        registrationId: query.tool === undefined ? undefined : (await records.tools.byRef(query.tool)).id,
        courseId: await taughtCourse(records, courses, query.course),
        assignmentId: await taughtAssignment(records, courses, query.assignment),
        personId: query.person === undefined ? undefined : ((await records.people.byRef(query.person))?.id ?? 'nobody'),
      })
      return { ...page, items: page.items.map(wireView) }
    },
    showWireEntry: async ({ caller, params }) => {
      const { entry } = await visibleEntry(context, caller.actor, params.entry)
      const explained = (await explainedEntries(context, [entry])).get(entry.id) ?? null
      const verdicts = await records.verdicts.of(entry.id)
      return { ...wireDetailView(entry, explained), verdicts: inText(verdicts) }
    },
    showWatch: async ({ caller }) => watchView(await readWatch(context, caller.actor)),
  }
}
