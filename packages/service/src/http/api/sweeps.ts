import type { sweepOperations } from '@bathyscribe/contract'
import type { Context } from '../../desk/context.js'
import { listSweepLinks, listSweeps, reportSweep, showSweep } from '../../desk/sweeps/read-sweep.js'
import { addSchedule, listSchedules, removeSchedule } from '../../desk/sweeps/schedule.js'
import { moveSweep, startSweep } from '../../desk/sweeps/start-sweep.js'
import type { Handlers } from './routes.js'

/** Calls about soundings of many links. */
export function sweepHandlers(context: Context): Pick<Handlers, keyof typeof sweepOperations> {
  return {
    startSweep: async ({ caller, body }) =>
      showSweep(context, caller.actor, await startSweep(context, caller.actor, body)),
    listSweeps: ({ caller, query }) => listSweeps(context, caller.actor, query),
    showSweep: ({ caller, params }) => showSweep(context, caller.actor, params.id),
    changeSweep: async ({ caller, params, body }) => {
      await moveSweep(context, caller.actor, params.id, body.state)
      return showSweep(context, caller.actor, params.id)
    },
    listSweepLinks: ({ caller, params, query }) => listSweepLinks(context, caller.actor, params.id, query),
    showSweepReport: ({ caller, params, query }) => reportSweep(context, caller.actor, params.id, query.form),
    listSweepSchedules: async ({ caller }) => ({ items: await listSchedules(context, caller.actor) }),
    createSweepSchedule: ({ caller, body }) => addSchedule(context, caller.actor, body),
    removeSweepSchedule: async ({ caller, params }) => {
      await removeSchedule(context, caller.actor, params.id)
      return undefined
    },
  }
}
