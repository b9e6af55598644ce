import type { scoreOperations } from '@bathyscribe/contract'
import type { Context } from '../../desk/context.js'
import { gradeByHand } from '../../desk/grades/grade-by-hand.js'
import { listScoreBursts, listScores, listUnscored } from '../../desk/grades/history.js'
import { listTwins, mergeColumn, previewMerge, unmergeColumn } from '../../desk/grades/merge.js'
import { changeGradebook, readGradebook, readTrail } from '../../desk/grades/read-gradebook.js'
import { reconcileScores, takeReconciled } from '../../desk/grades/reconcile.js'
import { listWaitingWork, readStanding } from '../../desk/grades/standing.js'
import { previewRecount } from '../../desk/grades/recount.js'
import type { Handlers } from './routes.js'

/** Calls about the gradebook. */
export function scoreHandlers(context: Context): Pick<Handlers, keyof typeof scoreOperations> {
  return {
    showGradebook: ({ caller, query }) =>
      readGradebook(context, caller.course, { testLearner: query.testLearner === 'true', first: query.first }),
    changeGradebook: ({ caller, body }) => changeGradebook(context, caller.actor, caller.course, body),
    showTrail: ({ caller, params, query }) => readTrail(context, caller.assignment, params.person, query),
    gradeByHand: async ({ caller, params, body }) => {
      await gradeByHand(context, caller.actor, caller.assignment, params.person, body)
      return readTrail(context, caller.assignment, params.person, { limit: 50 })
    },
    listScores: ({ caller, query }) => listScores(context, caller.course, query),
    listScoreBursts: async ({ caller }) => ({ items: await listScoreBursts(context, caller.course) }),
    listUnscored: async ({ caller }) => ({ items: await listUnscored(context, caller.assignment) }),
    showStanding: ({ caller }) => readStanding(context, caller.course, caller.assignment.id),
    listWaitingWork: ({ caller, query }) => listWaitingWork(context, caller.actor, query),
    previewRecount: ({ caller, body }) => previewRecount(context, caller.assignment, body),
    listTwins: async ({ caller }) => ({ items: await listTwins(context, caller.course) }),
    previewMerge: ({ caller, body }) => previewMerge(context, caller.assignment, body.into),
    mergeColumn: ({ caller, body }) => mergeColumn(context, caller.actor, caller.assignment, body.into),
    reconcileScores: ({ caller, body }) => reconcileScores(context, caller.actor, caller.assignment, body),
    takeReconciled: ({ caller, body }) => takeReconciled(context, caller.actor, caller.assignment, body),
    unmergeColumn: async ({ caller }) => {
      await unmergeColumn(context, caller.actor, caller.assignment)
      return undefined
    },
  }
}
