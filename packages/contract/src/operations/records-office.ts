import { z } from 'zod'
import * as office from '../resources/records-office.js'
import { administrator, instructing, teacher } from './access.js'
import { define } from './define.js'

const course = z.object({ course: z.string().max(60).describe('identifier, or code such as HYD-210') })
const column = z.object({ assignment: z.string().max(200).describe('identifier, or COURSE/short-name') })

/** Calls about handing results on to a student information system. */
export const recordsOfficeOperations = {
  showRecordsOffice: define('records office', 'GET /api/records-office', 'Shows where results go on to', {
    touchedBy: ['office'],
    access: { ...administrator, scope: 'read' },
    answer: office.RecordsOfficeAnswer,
  }),
  setRecordsOffice: define(
    'records office',
    'PUT /api/records-office',
    'Sets where results go on to; a token is asked for to see that it answers',
    { access: administrator, body: office.RecordsOfficeSettings, answer: office.RecordsOfficeAnswer },
  ),
  removeRecordsOffice: define('records office', 'DELETE /api/records-office', 'Stops handing results on', {
    access: administrator,
  }),
  showHandOn: define('records office', 'GET /api/courses/:course/hand-on', 'What the records office has of a course', {
    touchedBy: ['office'],
    access: teacher,
    params: course,
    answer: office.HandOnView,
  }),
  handOn: define(
    'records office',
    'POST /api/courses/:course/hand-on',
    'Sends on what was never sent or has changed; the rest runs by itself',
    { access: instructing, params: course, body: office.HandOnAsk, answer: office.HandOnAsked },
  ),
  setHandOn: define(
    'records office',
    'PUT /api/assignments/:assignment/hand-on',
    'Says how the results of a column go on',
    {
      access: { ...instructing, columnToo: true },
      params: column,
      body: z.strictObject({ mode: z.enum(office.HAND_ON) }),
      answer: office.HandOnColumn,
    },
  ),
  exportResults: define(
    'records office',
    'GET /api/courses/:course/results-archive',
    'The results of a course as OneRoster 1.2 CSV, in a zip archive',
    { access: teacher, params: course, answer: office.Archive },
  ),
} as const
