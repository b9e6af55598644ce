import { Refusal } from '@bathyscribe/contract'
import { isAdministrator, ownTool, toolScope, visibleTool } from '../../desk/access.js'
import { changeTool, revealSecret, setToolState } from '../../desk/change-tool.js'
import { checkTool } from '../../desk/check-tool.js'
import type { Context } from '../../desk/context.js'
import { createCourse } from '../../desk/create-course.js'
import { exchangeSheet } from '../../desk/exchange-sheet.js'
import { changeEnrolment, changePerson, createPerson, enrol } from '../../desk/people.js'
import { registerTool } from '../../desk/register-tool.js'
import { auditView, courseView, memberView, personView, toolView } from '../../desk/views.js'
import type { Caller } from '../caller.js'
import type { Handlers } from './routes.js'

type SiteCalls =
  | 'listPeople' | 'createPerson' | 'showPerson' | 'changePerson' | 'listAudit'
  | 'listCourses' | 'createCourse' | 'showCourse' | 'listMembers' | 'enrol' | 'changeEnrolment'
  | 'listTools' | 'registerTool' | 'showTool' | 'changeTool' | 'setToolState' | 'showExchangeSheet' | 'revealSecret' | 'checkTool' // prettier-ignore

/** People, courses and tools. */
export function siteHandlers(context: Context): Pick<Handlers, SiteCalls> {
  const { records, clock } = context
  const showTool = async (id: string) => toolView(await records.tools.summary(id, clock.now()))
  const showCourse = async (caller: Caller, id: string) => {
    const course = await records.courses.summary(id, caller.actor.id, isAdministrator(caller.actor))
    return courseView(
      course,
      isAdministrator(caller.actor) || course.myRole === 'instructor' || course.myRole === 'teaching_assistant',
    )
  }

  return {
    listPeople: async ({ query }) => {
      const page = await records.people.list(query.search, query.limit, query.cursor)
      return { ...page, items: page.items.map(personView) }
    },
    createPerson: async ({ caller, body }) => personView(await createPerson(context, caller.actor, body)),
    showPerson: async ({ params }) => {
      const person = await records.people.byRef(params.person)
      if (!person) throw new Refusal('person.not_found', params.person)
      return personView(person)
    },
    changePerson: async ({ caller, params, body }) =>
      personView(await changePerson(context, caller.actor, params.person, body)),
    listAudit: async ({ query }) => {
      const page = await records.audit.list(query.limit, query.cursor)
      return { ...page, items: page.items.map(auditView) }
    },

    listCourses: async ({ caller, query }) => {
      const seesAll = isAdministrator(caller.actor)
      const page = await records.courses.list(caller.actor.id, seesAll, query)
      return {
        ...page,
        items: page.items.map((course) =>
          courseView(course, seesAll || course.myRole === 'instructor' || course.myRole === 'teaching_assistant'),
        ),
      }
    },
    createCourse: async ({ caller, body }) => showCourse(caller, (await createCourse(context, caller.actor, body)).id),
    showCourse: ({ caller }) => showCourse(caller, caller.course.id),
    listMembers: async ({ caller, query }) => {
      const page = await records.people.members(caller.course.id, query)
      return { ...page, items: page.items.map(memberView) }
    },
    enrol: async ({ caller, body }) => memberView(await enrol(context, caller.actor, caller.course.id, body)),
    changeEnrolment: async ({ caller, params, body }) =>
      memberView(await changeEnrolment(context, caller.actor, caller.course.id, params.person, body)),

    listTools: async ({ caller, query }) => {
      const courseId = query.course === undefined ? undefined : (await records.courses.byRef(query.course)).id
      const page = await records.tools.list(await toolScope(records, caller.actor), clock.now(), { ...query, courseId })
      return { ...page, items: page.items.map(toolView) }
    },
    registerTool: async ({ caller, body }) => showTool((await registerTool(context, caller.actor, body)).id),
    showTool: async ({ caller, params }) => showTool((await visibleTool(records, caller.actor, params.tool)).id),
    changeTool: async ({ caller, params, body }) =>
      showTool(await changeTool(context, caller.actor, params.tool, body)),
    setToolState: async ({ caller, params, body }) =>
      showTool(await setToolState(context, caller.actor, params.tool, body.state)),
    showExchangeSheet: async ({ caller, params }) =>
      exchangeSheet(context, await ownTool(records, caller.actor, params.tool)),
    revealSecret: async ({ caller, params }) => ({
      sharedSecret: await revealSecret(context, caller.actor, params.tool),
    }),
    checkTool: async ({ caller, params }) => checkTool(context, await ownTool(records, caller.actor, params.tool)),
  }
}
