import type { contentOperations, GroupSet } from '@bathyscribe/contract'
import { fileView, pickingView } from './views/content.js'
import type { Context } from '../../desk/context.js'
import { removeFile } from '../../desk/files/store-file.js'
import { addGroup, addGroupSet, changeGroup, removeGroup, removeGroupSet } from '../../desk/roster/groups.js'
import { addUnit, changeUnit, changeWelcome, orderOutline, removeUnit } from '../../desk/outline/change-outline.js'
import { addUnitItem, changeUnitItem, removeUnitItem } from '../../desk/outline/items.js'
import { listDue, readItem, readOutline } from '../../desk/outline/read-outline.js'
import { turnIntoAssignment } from '../../desk/outline/turn.js'
import { leavePicking, openPicker } from '../../desk/pickers/open-picker.js'
import { readAddress } from '../../desk/pickers/read-address.js'
import type { Caller } from '../caller.js'
import type { Handlers } from './routes.js'

type AssignmentCalls =
  | 'deleteAssignment' | 'restoreAssignment' | 'copyAssignment' | 'acceptWarning' | 'preflightCourse' | 'checkTable' | 'makeTable' | 'takePicked'
  | 'turnIntoLink' // oxfmt-ignore
type ContentCalls = Exclude<keyof typeof contentOperations, AssignmentCalls>

/** Outline, pickers, groups, files. */
export function contentHandlers(
  context: Context,
  assignmentDetail: (id: string) => ReturnType<Handlers['showAssignment']>,
): Pick<Handlers, ContentCalls> {
  const { records } = context
  const outline = (caller: Caller) => readOutline(context, caller.actor, caller.course, caller.teaching)
  const item = (caller: Caller, id: string) => readItem(context, caller.course, id, caller.teaching)

  return {
    showOutline: ({ caller }) => outline(caller),
    changeWelcome: async ({ caller, body }) =>
      readOutline(context, caller.actor, await changeWelcome(context, caller.actor, caller.course, body), true),
    addUnit: async ({ caller, body }) => {
      const { id, title, published, revision } = await addUnit(context, caller.actor, caller.course, body)
      return { id, title, published, revision, items: [] }
    },
    changeUnit: async ({ caller, params, body }) => {
      await changeUnit(context, caller.actor, caller.course, params.unit, body)
      return outline(caller)
    },
    removeUnit: ({ caller, params }) =>
      removeUnit(context, caller.actor, caller.course, params.unit) as Promise<undefined>,
    orderOutline: async ({ caller, body }) => {
      await orderOutline(context, caller.actor, caller.course, body)
      return outline(caller)
    },
    addUnitItem: async ({ caller, body }) =>
      item(caller, await addUnitItem(context, caller.actor, caller.course, body)),
    showUnitItem: ({ caller, params }) => item(caller, params.unitItem),
    changeUnitItem: async ({ caller, params, body }) => {
      await changeUnitItem(context, caller.actor, caller.course, params.unitItem, body)
      return item(caller, params.unitItem)
    },
    removeUnitItem: ({ caller, params }) =>
      removeUnitItem(context, caller.actor, caller.course, params.unitItem) as Promise<undefined>,
    turnIntoAssignment: async ({ caller, params, body }) =>
      assignmentDetail(await turnIntoAssignment(context, caller.actor, caller.course, params.unitItem, body)),
    listDue: async ({ caller }) => ({ items: await listDue(context, caller.actor) }),

    openPicker: async ({ caller, body }) =>
      pickingView(await openPicker(context, caller.actor, caller.course.id, body)),
    showPicking: async ({ caller, params }) =>
      pickingView(await records.pickings.show(caller.course.id, params.picking, caller.actor.id)),
    leavePicking: ({ caller, params }) =>
      leavePicking(context, caller.actor, caller.course.id, params.picking) as Promise<undefined>,
    readAddress: ({ caller, body }) => readAddress(context, caller.actor, caller.course.id, body),

    listGroups: async ({ caller }) => ({ items: await records.groups.sets(caller.course.id) }),
    addGroupSet: ({ caller, body }): Promise<GroupSet> => addGroupSet(context, caller.actor, caller.course, body),
    removeGroupSet: ({ caller, params }) =>
      removeGroupSet(context, caller.actor, caller.course, params.groupSet) as Promise<undefined>,
    addGroup: ({ caller, params, body }) => addGroup(context, caller.actor, caller.course, params.groupSet, body.name),
    changeGroup: ({ caller, params, body }) => changeGroup(context, caller.actor, caller.course, params.group, body),
    removeGroup: ({ caller, params }) =>
      removeGroup(context, caller.actor, caller.course, params.group) as Promise<undefined>,

    listFiles: async ({ caller }) => ({ items: (await records.files.list(caller.course.id)).map(fileView) }),
    removeFile: ({ caller, params }) =>
      removeFile(context, caller.actor, caller.course.id, params.file) as Promise<undefined>,
  }
}
