import { z } from 'zod'
import { Id, page, PageQuery } from '../resources/common.js'
import * as menu from '../resources/menu.js'
import { instructing, member, teacher } from './access.js'
import { define } from './define.js'

const course = z.object({ course: z.string().max(60).describe('identifier, or code such as HYD-210') })
const entry = course.extend({ menuEntry: Id })
const courseTool = course.extend({ courseTool: z.string().max(120).describe('identifier or short name') })
const entries = z.object({ items: z.array(menu.MenuEntry) })

/** Tools in a course: its catalogue, and its menu. */
export const placeOperations = {
  searchCatalogue: define('courses', 'GET /api/courses/:course/catalogue', 'Tools that the course may use', {
    touchedBy: ['tool', 'menu'],
    access: teacher,
    params: course,
    query: PageQuery.extend({ search: z.string().max(100).optional() }),
    answer: page(menu.CatalogueItem),
  }),
  addCourseTool: define('courses', 'POST /api/courses/:course/tools', 'Adds a tool of the catalogue to the course', {
    access: instructing,
    params: course,
    status: 201,
    body: menu.NewCourseTool,
    answer: menu.CourseToolAdded,
  }),
  removeCourseTool: define(
    'courses',
    'DELETE /api/courses/:course/tools/:courseTool',
    'Takes an unused tool out of the course',
    {
      access: instructing,
      params: courseTool,
    },
  ),
  forgetFirstEntry: define(
    'courses',
    'DELETE /api/courses/:course/tools/:courseTool/first-entry',
    'Lets the first entry be made again, after it was undone at the tool’s end',
    { access: instructing, params: courseTool },
  ),
  listMenu: define('courses', 'GET /api/courses/:course/menu', 'The course’s menu, as far as you see it', {
    touchedBy: ['tool', 'menu'],
    access: member,
    params: course,
    answer: entries,
  }),
  addMenuEntry: define('courses', 'POST /api/courses/:course/menu', 'Puts a tool into the course’s menu', {
    access: instructing,
    params: course,
    status: 201,
    body: menu.NewMenuEntry,
    answer: menu.MenuEntry,
  }),
  orderMenu: define('courses', 'PUT /api/courses/:course/menu/order', 'Puts the entries into another order', {
    access: instructing,
    params: course,
    body: menu.MenuOrder,
    answer: entries,
  }),
  changeMenuEntry: define(
    'courses',
    'PATCH /api/courses/:course/menu/:menuEntry',
    'Renames, hides, shows or changes an entry',
    {
      access: instructing,
      params: entry,
      body: menu.MenuEntryChange,
      answer: menu.MenuEntry,
    },
  ),
  removeMenuEntry: define('courses', 'DELETE /api/courses/:course/menu/:menuEntry', 'Takes an entry out of the menu', {
    access: instructing,
    params: entry,
  }),
} as const
