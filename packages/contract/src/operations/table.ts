import { z } from 'zod'
import * as assignments from '../resources/assignments.js'
import { Id, page, PageQuery, SerialId } from '../resources/common.js'
import { Verdict } from '../resources/diagnosis.js'
import * as courses from '../resources/courses.js'
import * as people from '../resources/people.js'
import * as rosters from '../resources/rosters.js'
import * as soundings from '../resources/soundings.js'
import { Watch } from '../resources/watch.js'
import * as wire from '../resources/wire.js'
import { administrator, instructing, member, person, teacher, teaching, teachingSomewhere } from './access.js'
import { define } from './define.js'
import { caseOperations } from './cases.js'
import { contentOperations } from './content.js'
import { peopleOperations } from './people.js'
import { placeOperations } from './places.js'
import { connectionOperations } from './connections.js'
import { diagnosisOperations } from './diagnosis.js'
import { expectationOperations } from './expectations.js'
import { mailOperations } from './mail.js'
import { sweepOperations } from './sweeps.js'
import { recordsOfficeOperations } from './records-office.js'
import { scoreOperations } from './scores.js'
import { signOnOperations } from './sign-on.js'
import { toolOperations } from './tools.js'

const course = z.object({ course: z.string().max(60).describe('identifier, or code such as HYD-210') })
const assignment = z.object({ assignment: z.string().max(200).describe('identifier, or COURSE/short-name') })
const byId = z.object({ id: Id })
const search = z.string().max(100).optional()

/** Every call of the API by its name. */
export const operations = {
  ...peopleOperations,
  ...signOnOperations,

  listCourses: define('courses', 'GET /api/courses', 'Lists the courses you are in; all of them for administrators', {
    touchedBy: ['score', 'assignment', 'people'],
    access: person,
    query: PageQuery.extend({
      search,
      state: z
        .enum(courses.COURSE_STATES)
        .optional()
        .describe('open and closed ones unless said; only administrators see deleted ones'),
      term: z.string().max(60).optional(),
    }),
    answer: page(courses.Course),
  }),
  createCourse: define('courses', 'POST /api/courses', 'Makes a course with its test learner', {
    access: administrator,
    status: 201,
    body: courses.NewCourse,
    answer: courses.Course,
  }),
  showCourse: define('courses', 'GET /api/courses/:course', 'Shows a course', {
    touchedBy: ['assignment', 'people'],
    access: { ...member, deletedToo: true },
    params: course,
    answer: courses.Course,
  }),
  changeCourse: define('courses', 'PATCH /api/courses/:course', 'Changes code, title, term, time zone or dates', {
    access: administrator,
    params: course,
    body: courses.CourseChange,
    answer: courses.Course,
  }),
  setCourseState: define(
    'courses',
    'PUT /api/courses/:course/state',
    'Closes, opens, deletes or restores a course; nothing in it is lost',
    { access: administrator, params: course, body: courses.CourseStateChange, answer: courses.Course },
  ),
  listCategories: define('courses', 'GET /api/courses/:course/categories', 'Lists the categories of a gradebook', {
    touchedBy: ['assignment'],
    access: teacher,
    params: course,
    answer: z.object({ items: z.array(courses.GradebookCategory) }),
  }),
  addCategory: define('courses', 'POST /api/courses/:course/categories', 'Makes a category of the gradebook', {
    access: instructing,
    params: course,
    status: 201,
    body: courses.NewCategory,
    answer: courses.GradebookCategory,
  }),
  changeCategory: define(
    'courses',
    'PATCH /api/courses/:course/categories/:category',
    'Renames, weighs or moves a category',
    {
      access: instructing,
      params: course.extend({ category: Id }),
      body: courses.CategoryChange,
      answer: courses.GradebookCategory,
    },
  ),
  removeCategory: define(
    'courses',
    'DELETE /api/courses/:course/categories/:category',
    'Deletes a category; if it has assignments, say which category they go to',
    { access: instructing, params: course.extend({ category: Id }), query: courses.CategoryRemoval },
  ),
  listMembers: define('courses', 'GET /api/courses/:course/people', 'Lists who is in the course', {
    touchedBy: ['people'],
    access: teacher,
    params: course,
    query: PageQuery.extend({ search }),
    answer: page(people.Member),
  }),
  importRoster: define(
    'people',
    'POST /api/roster-imports',
    'Brings people and enrolments in step with a roster, all or nothing; or only says what would change',
    { access: administrator, body: rosters.RosterImport, answer: rosters.RosterImported },
  ),
  listToolRosters: define(
    'courses',
    'GET /api/courses/:course/tool-rosters',
    'What each tool of the course knows of its people',
    {
      touchedBy: ['people'],
      access: teacher,
      params: course,
      answer: z.object({ items: z.array(rosters.ToolRoster) }),
    },
  ),
  enrol: define('courses', 'POST /api/courses/:course/people', 'Puts a person into the course', {
    access: instructing,
    params: course,
    status: 201,
    body: people.NewEnrolment,
    answer: people.Member,
  }),
  changeEnrolment: define(
    'courses',
    'PATCH /api/courses/:course/people/:person',
    'Changes a role, drops a person or takes one back',
    {
      access: instructing,
      params: course.extend({ person: z.string().max(100) }),
      body: people.EnrolmentChange,
      answer: people.Member,
    },
  ),

  ...toolOperations,
  ...placeOperations,
  ...contentOperations,

  listAssignments: define(
    'assignments',
    'GET /api/courses/:course/assignments',
    'Lists a course’s assignments with their proof',
    {
      touchedBy: ['score', 'refusal', 'launch', 'sounding', 'assignment', 'tool', 'groups'],
      access: teacher,
      params: course,
      answer: z.object({ items: z.array(assignments.Assignment) }),
    },
  ),
  findAssignments: define(
    'assignments',
    'GET /api/assignments',
    'Finds assignments by title in the courses that you are in; as far as you may see them',
    {
      touchedBy: ['assignment', 'outline', 'people', 'groups'],
      access: person,
      perMinute: 240,
      query: z.strictObject({ search: z.string().trim().min(1).max(100), limit: PageQuery.shape.limit }),
      answer: z.object({ items: z.array(assignments.FoundAssignment) }),
    },
  ),
  createAssignment: define(
    'assignments',
    'POST /api/courses/:course/assignments',
    'Makes an external tool assignment',
    {
      access: instructing,
      params: course,
      status: 201,
      body: assignments.NewAssignment,
      answer: assignments.AssignmentDetail,
    },
  ),
  preflightAssignment: define(
    'assignments',
    'POST /api/courses/:course/preflight',
    'Says what preflight thinks of an assignment before it is made',
    {
      access: { ...instructing, scope: 'read' },
      params: course,
      body: assignments.PreflightQuestion,
      answer: assignments.PreflightAnswer,
    },
  ),
  showAssignment: define(
    'assignments',
    'GET /api/assignments/:assignment',
    'Shows an assignment with proof and preflight',
    {
      touchedBy: ['score', 'refusal', 'launch', 'sounding', 'assignment', 'tool', 'groups'],
      access: { ...teacher, deletedToo: true },
      params: assignment,
      answer: assignments.AssignmentDetail,
    },
  ),
  changeAssignment: define('assignments', 'PATCH /api/assignments/:assignment', 'Changes an assignment', {
    access: instructing,
    params: assignment,
    body: assignments.AssignmentChange,
    answer: assignments.AssignmentDetail,
  }),
  publishAssignment: define(
    'assignments',
    'POST /api/assignments/:assignment/publish',
    'Publishes an assignment when preflight finds nothing broken',
    {
      access: instructing,
      params: assignment,
      body: assignments.Publishing.prefault({}),
      answer: assignments.AssignmentDetail,
    },
  ),
  unpublishAssignment: define(
    'assignments',
    'POST /api/assignments/:assignment/unpublish',
    'Makes it a draft again; scores are kept',
    {
      access: instructing,
      params: assignment,
      body: z.strictObject({ keepScores: z.boolean().default(false) }),
      answer: assignments.AssignmentDetail,
    },
  ),
  tryLaunch: define(
    'assignments',
    'POST /api/assignments/:assignment/launches/try',
    'Launches by the service itself and says what the tool answered',
    {
      access: teaching,
      perMinute: 60,
      params: assignment,
      body: assignments.LaunchTry,
      answer: assignments.LaunchTried,
    },
  ),
  listWork: define(
    'learning',
    'GET /api/courses/:course/work',
    'Lists the published assignments with your own results',
    {
      touchedBy: ['score', 'launch', 'assignment', 'groups'],
      access: member,
      params: course,
      answer: z.object({ items: z.array(assignments.Work) }),
    },
  ),
  showWork: define(
    'learning',
    'GET /api/assignments/:assignment/work',
    'Shows a published assignment as a learner meets it',
    { touchedBy: ['score', 'launch', 'assignment'], access: member, params: assignment, answer: assignments.Work },
  ),

  runSounding: define(
    'soundings',
    'POST /api/assignments/:assignment/soundings',
    'Starts a sounding; it runs on by itself',
    {
      access: teaching,
      perMinute: 120,
      params: assignment,
      status: 202,
      body: soundings.NewSounding.prefault({}),
      answer: soundings.SoundingDetail,
    },
  ),
  listSoundings: define('soundings', 'GET /api/soundings', 'Lists soundings, newest first', {
    touchedBy: ['sounding'],
    access: person,
    query: PageQuery.extend({
      course: z.string().max(60).optional(),
      assignment: z.string().max(200).optional(),
      verdict: z.enum(['pass', 'warn', 'fail', 'skipped']).optional(),
    }),
    answer: page(soundings.Sounding),
  }),
  endWait: define(
    'soundings',
    'POST /api/soundings/:id/end-wait',
    'Goes on without the work that a sounding waits for',
    { access: teachingSomewhere, params: byId, answer: soundings.SoundingDetail },
  ),
  showSounding: define('soundings', 'GET /api/soundings/:id', 'Shows a sounding with its findings', {
    touchedBy: ['sounding'],
    access: person,
    params: byId,
    answer: soundings.SoundingDetail,
  }),

  ...expectationOperations,
  ...scoreOperations,
  ...caseOperations,
  ...recordsOfficeOperations,
  ...connectionOperations,
  ...mailOperations,
  ...diagnosisOperations,
  ...sweepOperations,

  listWire: define('wire', 'GET /api/wire', 'Lists wire entries, newest first', {
    touchedBy: ['score', 'refusal', 'launch', 'sounding', 'picking'],
    access: person,
    query: wire.WireQuery,
    answer: page(wire.WireEntry),
  }),
  showWireEntry: define('wire', 'GET /api/wire/:entry', 'Shows a message as it crossed the wire', {
    touchedBy: ['refusal'],
    access: person,
    params: z.object({ entry: SerialId }),
    answer: wire.WireEntryDetail.extend({ verdicts: z.array(Verdict) }),
  }),
  showWatch: define('watch', 'GET /api/watch', 'What needs someone now', {
    touchedBy: ['score', 'refusal', 'launch', 'sounding', 'assignment', 'tool', 'menu', 'case'],
    access: person,
    answer: Watch,
  }),
} as const

export type Operations = typeof operations
export type OperationName = keyof Operations
