import { z } from 'zod'
import * as assignments from '../resources/assignments.js'
import { Id } from '../resources/common.js'
import * as content from '../resources/content.js'
import * as outline from '../resources/outline.js'
import * as places from '../resources/places.js'
import { instructing, member, person, teacher } from './access.js'
import { define } from './define.js'

const course = z.object({ course: z.string().max(60).describe('identifier, or code such as HYD-210') })
const assignment = z.object({ assignment: z.string().max(200).describe('identifier, or COURSE/short-name') })
const unit = course.extend({ unit: Id })
const unitItem = course.extend({ unitItem: Id })
const picking = course.extend({ picking: Id })
const file = course.extend({ file: Id })
const group = course.extend({ group: Id })
const groupSet = course.extend({ groupSet: Id })
const reading = { ...instructing, scope: 'read' } as const

/** What a course is made of: outline, pickers, tables of assignments, groups, files. */
export const contentOperations = {
  showOutline: define(
    'outline',
    'GET /api/courses/:course/outline',
    'The course’s units and their contents, as far as you may see them',
    {
      touchedBy: ['score', 'launch', 'sounding', 'assignment', 'outline', 'groups', 'files'],
      access: member,
      params: course,
      answer: outline.Outline,
    },
  ),
  changeWelcome: define('outline', 'PUT /api/courses/:course/welcome', 'Changes the course’s welcome page', {
    access: instructing,
    params: course,
    body: outline.WelcomeChange,
    answer: outline.Outline,
  }),
  addUnit: define('outline', 'POST /api/courses/:course/units', 'Makes a unit at the end', {
    access: instructing,
    params: course,
    status: 201,
    body: outline.NewUnit,
    answer: outline.Unit,
  }),
  changeUnit: define('outline', 'PATCH /api/courses/:course/units/:unit', 'Renames, publishes or hides a unit', {
    access: instructing,
    params: unit,
    body: outline.UnitChange,
    answer: outline.Outline,
  }),
  removeUnit: define(
    'outline',
    'DELETE /api/courses/:course/units/:unit',
    'Takes a unit away; its assignments stay, in no unit',
    {
      access: instructing,
      params: unit,
    },
  ),
  orderOutline: define('outline', 'PUT /api/courses/:course/outline/order', 'Puts units and items into another order', {
    access: instructing,
    params: course,
    body: outline.OutlineOrder,
    answer: outline.Outline,
  }),
  addUnitItem: define('outline', 'POST /api/courses/:course/items', 'Puts something into a unit, at its end', {
    access: instructing,
    params: course,
    status: 201,
    body: outline.NewUnitItem,
    answer: outline.UnitItemDetail,
  }),
  showUnitItem: define('outline', 'GET /api/courses/:course/items/:unitItem', 'Shows an item of a unit', {
    touchedBy: ['outline'],
    access: member,
    params: unitItem,
    answer: outline.UnitItemDetail,
  }),
  changeUnitItem: define('outline', 'PATCH /api/courses/:course/items/:unitItem', 'Changes, publishes or pins it', {
    access: instructing,
    params: unitItem,
    body: outline.UnitItemChange,
    answer: outline.UnitItemDetail,
  }),
  removeUnitItem: define(
    'outline',
    'DELETE /api/courses/:course/items/:unitItem',
    'Takes it out of its unit; an assignment stays',
    {
      access: instructing,
      params: unitItem,
    },
  ),
  turnIntoAssignment: define(
    'outline',
    'POST /api/courses/:course/items/:unitItem/assignment',
    'Makes an assignment of a tool link, in its place',
    {
      access: instructing,
      params: unitItem,
      status: 201,
      body: z.strictObject({ points: assignments.Points, category: z.string().max(80).nullable().default(null) }),
      answer: assignments.AssignmentDetail,
    },
  ),
  turnIntoLink: define(
    'outline',
    'POST /api/assignments/:assignment/tool-link',
    'Makes an ungraded tool link of a draft without scores, in its place',
    {
      access: instructing,
      params: assignment,
      status: 201,
      body: z.strictObject({ unit: Id.optional().describe('when it is in none') }),
      answer: outline.UnitItemDetail,
    },
  ),
  listDue: define('learning', 'GET /api/due', 'What is due next, over all your courses', {
    touchedBy: ['score', 'assignment'],
    access: person,
    answer: z.object({ items: z.array(outline.DueItem) }),
  }),

  openPicker: define('content', 'POST /api/courses/:course/pickings', 'Begins a picking in a tool’s picker', {
    access: instructing,
    params: course,
    status: 201,
    body: content.NewPicking,
    answer: content.Picking,
  }),
  showPicking: define('content', 'GET /api/courses/:course/pickings/:picking', 'What came back from a picker', {
    touchedBy: ['picking'],
    access: reading,
    params: picking,
    answer: content.Picking,
  }),
  leavePicking: define('content', 'DELETE /api/courses/:course/pickings/:picking', 'Gives a picking up', {
    access: instructing,
    params: picking,
  }),
  takePicked: define(
    'content',
    'POST /api/courses/:course/pickings/assignments',
    'Makes an assignment of each picked item',
    {
      access: instructing,
      params: course,
      status: 201,
      body: assignments.PickedAssignments,
      answer: z.object({ items: z.array(assignments.Assignment) }),
    },
  ),
  readAddress: define(
    'content',
    'POST /api/courses/:course/address',
    'Reads a pasted address: whose session is in it, whose tool it is',
    {
      access: reading,
      params: course,
      body: content.AddressQuestion,
      answer: content.AddressAnswer,
    },
  ),

  checkTable: define(
    'assignments',
    'POST /api/courses/:course/assignments/table/check',
    'Says row by row what a table would do',
    {
      access: reading,
      params: course,
      body: assignments.TableQuestion,
      answer: assignments.TableAnswer,
    },
  ),
  makeTable: define(
    'assignments',
    'POST /api/courses/:course/assignments/table',
    'Makes and changes what a table says, in one go or not at all',
    {
      access: instructing,
      params: course,
      body: assignments.TableQuestion,
      answer: assignments.TableAnswer,
    },
  ),
  preflightCourse: define(
    'assignments',
    'GET /api/courses/:course/preflight',
    'What preflight says of every assignment',
    {
      touchedBy: ['assignment'],
      access: teacher,
      params: course,
      answer: assignments.CoursePreflight,
    },
  ),
  acceptWarning: define(
    'assignments',
    'POST /api/assignments/:assignment/acceptances',
    'Accepts a warning of preflight, with a reason',
    {
      access: instructing,
      params: assignment,
      body: assignments.Acceptance,
      answer: assignments.AssignmentDetail,
    },
  ),
  copyAssignment: define(
    'assignments',
    'POST /api/assignments/:assignment/copy',
    'Copies it as a draft, with a column of its own',
    {
      access: instructing,
      params: assignment,
      status: 201,
      answer: assignments.AssignmentDetail,
    },
  ),
  deleteAssignment: define(
    'assignments',
    'DELETE /api/assignments/:assignment',
    'Deletes it; it can be restored for a while',
    {
      access: { ...instructing, deletedToo: true },
      params: assignment,
      answer: assignments.AssignmentDetail,
    },
  ),
  restoreAssignment: define(
    'assignments',
    'POST /api/assignments/:assignment/restore',
    'Brings a deleted one back as it was',
    {
      access: { ...instructing, deletedToo: true },
      params: assignment,
      answer: assignments.AssignmentDetail,
    },
  ),

  listGroups: define('groups', 'GET /api/courses/:course/groups', 'Group sets with their groups', {
    touchedBy: ['groups'],
    access: teacher,
    params: course,
    answer: z.object({ items: z.array(places.GroupSet) }),
  }),
  addGroupSet: define(
    'groups',
    'POST /api/courses/:course/group-sets',
    'Makes a set of groups: empty, divided at random, or from a table',
    {
      access: instructing,
      params: course,
      status: 201,
      body: places.NewGroupSet,
      answer: places.GroupSet,
    },
  ),
  removeGroupSet: define(
    'groups',
    'DELETE /api/courses/:course/group-sets/:groupSet',
    'Takes a set away with its groups',
    {
      access: instructing,
      params: groupSet,
    },
  ),
  addGroup: define('groups', 'POST /api/courses/:course/group-sets/:groupSet/groups', 'Adds a group to a set', {
    access: instructing,
    params: groupSet,
    status: 201,
    body: places.NewGroup,
    answer: places.GroupSet,
  }),
  changeGroup: define('groups', 'PATCH /api/courses/:course/groups/:group', 'Renames a group or says who is in it', {
    access: instructing,
    params: group,
    body: places.GroupChange,
    answer: places.GroupSet,
  }),
  removeGroup: define('groups', 'DELETE /api/courses/:course/groups/:group', 'Takes a group away', {
    access: instructing,
    params: group,
  }),

  listFiles: define('files', 'GET /api/courses/:course/files', 'The course’s files', {
    touchedBy: ['outline', 'picking', 'files'],
    access: teacher,
    params: course,
    answer: z.object({ items: z.array(places.CourseFile) }),
  }),
  removeFile: define('files', 'DELETE /api/courses/:course/files/:file', 'Takes a file away that is used nowhere', {
    access: instructing,
    params: file,
  }),
} as const
