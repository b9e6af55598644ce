import { z } from 'zod'
import * as cases from '../resources/cases.js'
import { page, PageQuery, SerialId } from '../resources/common.js'
import { member, person, personHere, teacher, teaching } from './access.js'
import { define } from './define.js'

const assignment = z.object({ assignment: z.string().max(200).describe('identifier, or COURSE/short-name') })
const ofPerson = assignment.extend({ person: z.string().max(100).describe('identifier or user name') })

/** Calls about what happened between one person and one assignment, and about what learners are told. */
export const caseOperations = {
  listCases: define('cases', 'GET /api/cases', 'Lists cases of the courses that you teach, newest first', {
    touchedBy: ['case'],
    access: person,
    query: PageQuery.extend({
      state: z.enum(['open', 'closed']).default('open'),
      course: z.string().max(60).optional(),
    }),
    answer: page(cases.CaseRow),
  }),
  showCase: define(
    'cases',
    'GET /api/assignments/:assignment/cases/:person',
    'Everything that happened between one person and one assignment, what explains it, and who has to act',
    {
      touchedBy: ['case', 'score', 'refusal', 'launch', 'assignment', 'tool'],
      access: teacher,
      params: ofPerson,
      answer: cases.Case,
    },
  ),
  setCaseState: define('cases', 'PUT /api/assignments/:assignment/cases/:person/state', 'Opens or closes a case', {
    access: teaching,
    params: ofPerson,
    body: cases.CaseStateChange,
    answer: cases.Case,
  }),
  writeInCase: define(
    'cases',
    'POST /api/assignments/:assignment/cases/:person/letters',
    'Writes to the learner, or (administrators) to the tool’s support',
    { access: teaching, perMinute: 30, params: ofPerson, body: cases.CaseLetter, answer: cases.Case },
  ),
  writeToLearners: define(
    'cases',
    'POST /api/assignments/:assignment/letters',
    'Writes to several learners of an assignment, by mail or on their pages',
    { access: teaching, perMinute: 30, params: assignment, body: cases.NewLetters, answer: cases.Written },
  ),
  reportMissingScore: define(
    'cases',
    'POST /api/assignments/:assignment/missing-score',
    'Says that your own score is missing',
    {
      access: { ...member, scope: null },
      perMinute: 10,
      params: assignment,
      body: cases.MissingScore.prefault({}),
      answer: cases.MissingScoreHeard,
    },
  ),
  showReminders: define(
    'cases',
    'GET /api/assignments/:assignment/reminders',
    'Who never opened an assignment, and when they were reminded',
    {
      touchedBy: ['case', 'launch', 'people', 'groups'],
      access: teacher,
      params: assignment,
      answer: cases.Reminders,
    },
  ),
  remindLearners: define(
    'cases',
    'POST /api/assignments/:assignment/reminders',
    'Reminds those who never opened an assignment, by mail or on their pages',
    {
      access: teaching,
      perMinute: 30,
      params: assignment,
      body: cases.NewReminder.prefault({}),
      answer: cases.Reminded,
    },
  ),
  listNotes: define('cases', 'GET /api/notes', 'What you were told on your pages and have not put away yet', {
    touchedBy: ['case'],
    access: person,
    answer: z.object({ items: z.array(cases.Note) }),
  }),
  putNoteAway: define('cases', 'POST /api/notes/:id/read', 'Puts away something that you were told', {
    access: personHere,
    params: z.object({ id: SerialId }),
  }),
} as const
