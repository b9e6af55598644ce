import type { recordsOfficeOperations } from '@bathyscribe/contract'
import type { Context } from '../../desk/context.js'
import { exportResults, handOn, setHandOn, showHandOn } from '../../desk/records-office/hand-on.js'
import { removeOffice, setOffice, showOffice } from '../../desk/records-office/settings.js'
import type { Handlers } from './routes.js'

/** Calls about handing results on to a student information system. */
export function recordsOfficeHandlers(context: Context): Pick<Handlers, keyof typeof recordsOfficeOperations> {
  return {
    showRecordsOffice: async () => ({ office: await showOffice(context) }),
    setRecordsOffice: async ({ caller, body }) => ({ office: await setOffice(context, caller.actor, body) }),
    removeRecordsOffice: ({ caller }) => removeOffice(context, caller.actor) as Promise<undefined>,
    showHandOn: ({ caller }) => showHandOn(context, caller.course),
    handOn: ({ caller, body }) => handOn(context, caller.actor, caller.course, body),
    setHandOn: ({ caller, body }) => setHandOn(context, caller.actor, caller.assignment, body.mode),
    exportResults: ({ caller }) => exportResults(context, caller.actor, caller.course),
  }
}
