import { changeEnrolment, enrol } from '../../desk/roster/enrolments.js'
import { changePerson, createPerson } from '../../desk/identity/people.js'
import { auditView, doublesView, memberView, personView } from './views/people.js'
import { inText } from './views/moments.js'
import { courseView } from './views/courses.js'
import { isAdministrator } from '../../desk/identity/access.js'
import type { Context } from '../../desk/context.js'
import { addCategory, changeCategory, removeCategory } from '../../desk/courses/categories.js'
import { changeCourse, setCourseState } from '../../desk/courses/change-course.js'
import { createCourse } from '../../desk/courses/create-course.js'
import { auditWanted, reportAudit } from '../../desk/identity/audit-report.js'
import { findDoubles, partPerson } from '../../desk/identity/doubles.js'
import { importRoster } from '../../desk/roster/import-roster.js'
import { removePerson, showPersonData } from '../../desk/identity/person-data.js'
import type { Caller } from '../caller.js'
import type { Handlers } from './routes.js'

type SiteCalls =
  | 'listDoubles' | 'partPerson' | 'showPersonPlaces' | 'reportAudit' | 'listPeople' | 'createPerson' | 'showPerson' | 'changePerson' | 'showPersonData' | 'removePerson' | 'listAudit'
  | 'changeCourse' | 'setCourseState' | 'listCategories' | 'addCategory' | 'changeCategory' | 'removeCategory'
  | 'importRoster' | 'listToolRosters' | 'listCourses' | 'createCourse' | 'showCourse' | 'listMembers' | 'enrol' | 'changeEnrolment' // oxfmt-ignore

/** People and courses. */
export function siteHandlers(context: Context): Pick<Handlers, SiteCalls> {
  const { records } = context
  const showCourse = async (caller: Caller, id: string) => {
    const course = await records.courses.summary(id, caller.actor.id, isAdministrator(caller.actor))
    return courseView(course, caller.actor)
  }

  return {
    listPeople: async ({ query }) => {
      const page = await records.people.list(query, query.limit, query.cursor)
      return { ...page, items: page.items.map(personView) }
    },
    listDoubles: async () => doublesView(await findDoubles(context)),
    partPerson: ({ caller, params, body }) => partPerson(context, caller.actor, params.person, body),
    createPerson: async ({ caller, body }) => personView(await createPerson(context, caller.actor, body)),
    showPerson: async ({ params }) => personView(await records.people.known(params.person)),
    changePerson: async ({ caller, params, body }) =>
      personView(await changePerson(context, caller.actor, params.person, body)),
    showPersonData: ({ caller, params }) => showPersonData(context, caller.actor, params.person),
    removePerson: ({ caller, params, body }) => removePerson(context, caller.actor, params.person, body),
    showPersonPlaces: async ({ params }) => {
      const { id } = await records.people.known(params.person)
      return inText(await records.people.places(id))
    },
    listAudit: async ({ query }) => {
      const page = await records.audit.list(await auditWanted(context, query), query.limit, query.cursor)
      return { ...page, items: page.items.map(auditView) }
    },
    reportAudit: ({ caller, query }) => reportAudit(context, caller.actor, query),

    listCourses: async ({ caller, query }) => {
      const page = await records.courses.list(caller.actor.id, isAdministrator(caller.actor), query)
      return { ...page, items: page.items.map((course) => courseView(course, caller.actor)) }
    },
    createCourse: async ({ caller, body }) => showCourse(caller, (await createCourse(context, caller.actor, body)).id),
    showCourse: ({ caller }) => showCourse(caller, caller.course.id),
    changeCourse: async ({ caller, params, body }) =>
      showCourse(caller, await changeCourse(context, caller.actor, params.course, body)),
    setCourseState: async ({ caller, params, body }) =>
      showCourse(caller, await setCourseState(context, caller.actor, params.course, body.state)),
    listCategories: async ({ caller }) => ({ items: await records.courses.categoriesInUse(caller.course.id) }),
    addCategory: ({ caller, body }) => addCategory(context, caller.actor, caller.course, body),
    changeCategory: ({ caller, params, body }) =>
      changeCategory(context, caller.actor, caller.course, params.category, body),
    removeCategory: async ({ caller, params, query }) => {
      await removeCategory(context, caller.actor, caller.course, params.category, query.moveTo)
    },
    listMembers: async ({ caller, query }) => {
      const page = await records.people.members(caller.course.id, query)
      return { ...page, items: page.items.map(memberView) }
    },
    importRoster: ({ caller, body }) => importRoster(context, caller.actor, body),
    listToolRosters: async ({ caller }) => ({
      items: inText(await records.rosterImports.toolRosters(caller.course.id)),
    }),
    enrol: async ({ caller, body }) => memberView(await enrol(context, caller.actor, caller.course.id, body)),
    changeEnrolment: async ({ caller, params, body }) =>
      memberView(await changeEnrolment(context, caller.actor, caller.course.id, params.person, body)),
  }
}
