import type { caseOperations } from '@bathyscribe/contract'
import {
  listCases,
  listNotes,
  putNoteAway,
  reportMissingScore,
  setCaseState,
  writeInCase,
  writeToLearners,
} from '../../desk/cases/act-on-case.js'
import { readCase } from '../../desk/cases/read-case.js'
import { readReminders, remindLearners } from '../../desk/cases/remind.js'
import type { Context } from '../../desk/context.js'
import { showWork } from '../../desk/grades/read-work.js'
import type { Handlers } from './routes.js'

/** Calls about what happened between one person and one assignment, and about what learners are told. */
export function caseHandlers(context: Context): Pick<Handlers, keyof typeof caseOperations> {
  return {
    listCases: ({ caller, query }) => listCases(context, caller.actor, query),
    showCase: ({ caller, params }) => readCase(context, caller.actor, caller.assignment, params.person, caller.course),
    setCaseState: async ({ caller, params, body }) => {
      await setCaseState(context, caller.actor, caller.assignment, params.person, body)
      return readCase(context, caller.actor, caller.assignment, params.person, caller.course)
    },
    writeInCase: async ({ caller, params, body }) => {
      await writeInCase(context, caller.actor, caller.assignment, params.person, body)
      return readCase(context, caller.actor, caller.assignment, params.person, caller.course)
    },
    writeToLearners: ({ caller, body }) => writeToLearners(context, caller.actor, caller.assignment, body),
    reportMissingScore: async ({ caller, body }) => {
      // What a learner may not see is not there for them here either.
      await showWork(context, caller.actor, caller.assignment.id, caller.teaching)
      return reportMissingScore(context, caller.actor, caller.assignment, body.said)
    },
    showReminders: ({ caller }) => readReminders(context, caller.assignment.id),
    remindLearners: ({ caller, body }) => remindLearners(context, caller.actor, caller.assignment.id, body),
    listNotes: async ({ caller }) => ({ items: await listNotes(context, caller.actor) }),
    putNoteAway: async ({ caller, params }) => {
      await putNoteAway(context, caller.actor, params.id)
      return undefined
    },
  }
}
