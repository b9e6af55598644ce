import { z } from 'zod'
import { page, PageQuery } from '../resources/common.js'
import * as gradebook from '../resources/gradebook.js'
import * as reconciliation from '../resources/reconciliation.js'
import * as standing from '../resources/standing.js'
import { instructing, person, teacher, teaching } from './access.js'
import { define } from './define.js'

const course = z.object({ course: z.string().max(60).describe('identifier, or code such as HYD-210') })
const column = z.object({ assignment: z.string().max(200).describe('identifier, or COURSE/short-name') })
const cell = column.extend({ person: z.string().max(100).describe('identifier or user name') })
/** Columns that tools made are meant, too. */
const readsColumn = { ...teacher, columnToo: true }
const asks = { ...instructing, scope: 'read' as const, columnToo: true }

/** Calls about the gradebook: cells, trails, columns. */
export const scoreOperations = {
  showGradebook: define('scores', 'GET /api/courses/:course/gradebook', 'Shows the gradebook', {
    touchedBy: ['score', 'refusal', 'launch', 'assignment', 'outline', 'people'],
    access: teacher,
    params: course,
    query: z.strictObject({
      testLearner: z.enum(['true', 'false']).default('false').describe('with the test learner’s row'),
      first: z.coerce.number().int().min(1).max(5000).default(5000).describe('so many learners at most, by name'),
    }),
    answer: gradebook.Gradebook,
    bulky: true,
  }),
  changeGradebook: define(
    'scores',
    'PATCH /api/courses/:course/gradebook',
    'Changes how points are shown and totalled; no score changes by it',
    {
      access: instructing,
      params: course,
      body: gradebook.GradebookSettings,
      answer: gradebook.Gradebook.shape.settings,
    },
  ),
  showTrail: define(
    'scores',
    'GET /api/assignments/:assignment/trail/:person',
    'All scores ever received for one person, newest first',
    { touchedBy: ['score', 'refusal'], access: readsColumn, params: cell, query: PageQuery, answer: gradebook.Trail },
  ),
  gradeByHand: define(
    'scores',
    'POST /api/assignments/:assignment/results/:person',
    'Sets the instructor’s own points, lifts them, exempts a learner or includes one again',
    { access: { ...teaching, columnToo: true }, params: cell, body: gradebook.GradeAct, answer: gradebook.Trail },
  ),
  listScores: define('scores', 'GET /api/courses/:course/scores', 'The history of the gradebook, newest first', {
    touchedBy: ['score', 'refusal'],
    access: teacher,
    params: course,
    query: gradebook.ScoreQuery,
    answer: page(gradebook.ScoreEntry).extend({
      changes: z.array(gradebook.ColumnChange).describe('of whole columns, in the time of these entries'),
    }),
  }),
  listScoreBursts: define(
    'scores',
    'GET /api/courses/:course/score-bursts',
    'Many scores of one tool in a row, each row as one event, newest first',
    {
      touchedBy: ['score'],
      access: teacher,
      params: course,
      answer: z.object({ items: z.array(gradebook.ScoreBurst) }),
    },
  ),
  listUnscored: define('scores', 'GET /api/assignments/:assignment/unscored', 'Who has no score yet, and why', {
    touchedBy: ['score', 'refusal'],
    access: readsColumn,
    params: column,
    answer: z.object({ items: z.array(gradebook.Unscored) }),
  }),
  showStanding: define(
    'scores',
    'GET /api/assignments/:assignment/standing',
    'Where each learner of an assignment stands, and since when',
    {
      touchedBy: ['score', 'refusal', 'launch', 'people', 'groups', 'assignment'],
      access: teacher,
      params: column,
      answer: standing.Standing,
    },
  ),
  listWaitingWork: define(
    'scores',
    'GET /api/waiting-work',
    'Work of the courses that you teach that waits for a person to grade it, the longest first',
    {
      touchedBy: ['score', 'people'],
      access: person,
      query: PageQuery.extend({ course: z.string().max(60).optional(), tool: z.string().max(120).optional() }),
      answer: page(standing.WaitingWork),
    },
  ),
  previewRecount: define(
    'scores',
    'POST /api/assignments/:assignment/recount',
    'Says which results would change with other points or another way of counting',
    {
      touchedBy: ['score'],
      access: asks,
      params: column,
      body: gradebook.RecountQuestion,
      answer: gradebook.RecountPreview,
    },
  ),
  listTwins: define(
    'scores',
    'GET /api/courses/:course/twins',
    'Columns that tools made beside ours for the same work',
    {
      touchedBy: ['score', 'outline'],
      access: teacher,
      params: course,
      answer: z.object({ items: z.array(gradebook.Twin) }),
    },
  ),
  previewMerge: define(
    'scores',
    'POST /api/assignments/:assignment/merge/preview',
    'Says what merging a column into another would change',
    { access: asks, params: column, body: gradebook.Merge, answer: gradebook.MergePreview },
  ),
  mergeColumn: define(
    'scores',
    'POST /api/assignments/:assignment/merge',
    'Merges a column that a tool made into one of ours; every score is kept',
    {
      access: { ...instructing, columnToo: true },
      params: column,
      body: gradebook.Merge,
      answer: gradebook.MergePreview,
    },
  ),
  reconcileScores: define(
    'scores',
    'POST /api/assignments/:assignment/reconcile',
    'Compares a tool’s own export with a column, and says why where they differ; nothing is changed',
    {
      access: { ...teaching, columnToo: true },
      params: column,
      body: reconciliation.ReconcileQuestion,
      answer: reconciliation.Reconciliation,
    },
  ),
  takeReconciled: define(
    'scores',
    'POST /api/assignments/:assignment/reconcile/take',
    'Takes chosen lines of an export over as the instructor’s own points, with the file as evidence',
    {
      access: { ...teaching, columnToo: true },
      params: column,
      body: reconciliation.ReconcileTake,
      answer: reconciliation.Reconciliation,
    },
  ),
  unmergeColumn: define(
    'scores',
    'DELETE /api/assignments/:assignment/merge',
    'Takes a merge back; each score counts again where it was sent to',
    { access: { ...instructing, columnToo: true }, params: column },
  ),
} as const
