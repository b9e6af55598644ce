import { z } from 'zod'
import { Id, page, PageQuery } from '../resources/common.js'
import * as sweeps from '../resources/sweeps.js'
import { person, teaching, type Access } from './access.js'
import { define } from './define.js'

const acting: Access = { who: 'person', scope: teaching.scope }
const byId = z.object({ id: Id })

/** Calls about soundings of many links. */
export const sweepOperations = {
  startSweep: define('sweeps', 'POST /api/sweeps', 'Sounds many links, side by side; it runs on by itself', {
    access: acting,
    perMinute: 30,
    status: 202,
    body: sweeps.NewSweep,
    answer: sweeps.SweepDetail,
  }),
  listSweeps: define('sweeps', 'GET /api/sweeps', 'Lists sweeps, newest first', {
    touchedBy: ['sweep'],
    access: person,
    query: PageQuery,
    answer: page(sweeps.Sweep),
  }),
  showSweep: define('sweeps', 'GET /api/sweeps/:id', 'Shows a sweep: how far it is, what is wrong, what has changed', {
    touchedBy: ['sweep'],
    access: person,
    params: byId,
    answer: sweeps.SweepDetail,
  }),
  changeSweep: define('sweeps', 'PATCH /api/sweeps/:id', 'Pauses a sweep, lets it go on, or stops it', {
    access: acting,
    params: byId,
    body: z.strictObject({ state: z.enum(['running', 'paused', 'stopped']) }),
    answer: sweeps.SweepDetail,
  }),
  listSweepLinks: define(
    'sweeps',
    'GET /api/sweeps/:id/links',
    'Lists the links of a sweep, what needs somebody first',
    {
      touchedBy: ['sweep'],
      access: person,
      params: byId,
      query: sweeps.SweepLinksQuery,
      answer: page(sweeps.SweepLink),
    },
  ),
  showSweepReport: define(
    'sweeps',
    'GET /api/sweeps/:id/report',
    'The links of a sweep as CSV, or as XML of test runs',
    {
      access: person,
      params: byId,
      query: z.strictObject({ form: z.enum(sweeps.REPORT_FORMS).default('csv') }),
      answer: sweeps.SweepReport,
    },
  ),
  listSweepSchedules: define(
    'sweeps',
    'GET /api/sweep-schedules',
    'Lists your schedules; all of them for administrators',
    {
      touchedBy: ['sweep'],
      access: person,
      answer: z.object({ items: z.array(sweeps.SweepSchedule) }),
    },
  ),
  createSweepSchedule: define('sweeps', 'POST /api/sweep-schedules', 'Sweeps again and again, as you', {
    access: acting,
    status: 201,
    body: sweeps.NewSweepSchedule,
    answer: sweeps.SweepSchedule,
  }),
  removeSweepSchedule: define('sweeps', 'DELETE /api/sweep-schedules/:id', 'Ends a schedule; its sweeps stay', {
    access: acting,
    params: byId,
  }),
} as const
