import type { placeOperations } from '@bathyscribe/contract'
import { catalogueView, menuView } from './views/places.js'
import type { Context } from '../../desk/context.js'
import { addCourseTool, forgetFirstEntry, removeCourseTool } from '../../desk/places/course-tools.js'
import { addMenuEntry, changeMenuEntry, orderMenu, removeMenuEntry } from '../../desk/places/menu.js'
import type { Handlers } from './routes.js'

/** Tools in courses: catalogue and menu. */
export function placeHandlers(context: Context): Pick<Handlers, keyof typeof placeOperations> {
  const { menus } = context.records
  return {
    searchCatalogue: async ({ caller, query }) => {
      const page = await menus.catalogue(caller.course.id, query)
      return { ...page, items: page.items.map(catalogueView) }
    },
    addCourseTool: async ({ caller, body }) => {
      const { tool, menuEntry } = await addCourseTool(context, caller.actor, caller.course, body)
      const { id, slug, name, state } = tool
      return { tool: { id, slug, name, state }, menuEntry: menuEntry && menuView(menuEntry) }
    },
    removeCourseTool: ({ caller, params }) =>
      removeCourseTool(context, caller.actor, caller.course, params.courseTool) as Promise<undefined>,
    forgetFirstEntry: ({ caller, params }) =>
      forgetFirstEntry(context, caller.actor, caller.course, params.courseTool) as Promise<undefined>,
    listMenu: async ({ caller }) => ({ items: (await menus.list(caller.course.id, caller.teaching)).map(menuView) }),
    addMenuEntry: async ({ caller, body }) => menuView(await addMenuEntry(context, caller.actor, caller.course, body)),
    orderMenu: async ({ caller, body }) => ({
      items: (await orderMenu(context, caller.actor, caller.course, body.entries)).map(menuView),
    }),
    changeMenuEntry: async ({ caller, params, body }) =>
      menuView(await changeMenuEntry(context, caller.actor, caller.course, params.menuEntry, body)),
    removeMenuEntry: ({ caller, params }) =>
      removeMenuEntry(context, caller.actor, caller.course, params.menuEntry) as Promise<undefined>,
  }
}
