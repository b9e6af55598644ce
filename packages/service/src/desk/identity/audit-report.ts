import type { AuditQuery, AuditReport } from '@bathyscribe/contract'
import { writeTable } from '@bathyscribe/core/formats'
import type { z } from 'zod'
import type { AuditWanted } from '../../records/audit.js'
import { by, type Actor, type Context } from '../context.js'

/** As much as a spreadsheet opens at once, and one answer holds. */
const MOST_ROWS = 10_000

/** What is looked for, by the identifiers of the records. @throws Refusal for a person or course that there is not */
export async function auditWanted(
  { records }: Pick<Context, 'records'>,
  { search, person, course, since, until }: z.output<typeof AuditQuery>,
): Promise<AuditWanted> {
  return {
    search,
    personId: person === undefined ? undefined : (await records.people.known(person)).id,
    courseId: course === undefined ? undefined : (await records.courses.byRef(course)).id,
    since: since === undefined ? undefined : new Date(since),
    until: until === undefined ? undefined : new Date(until),
  }
}

/** What was changed by whom as a table, newest first. What was before and after stands in it as JSON. That it was taken is noted. */
export async function reportAudit(
  context: Context,
  actor: Actor,
  query: z.output<typeof AuditQuery>,
): Promise<AuditReport> {
  const { items, next } = await context.records.audit.list(await auditWanted(context, query), MOST_ROWS, undefined)
  const json = (value: unknown) => (value === null || value === undefined ? '' : JSON.stringify(value))
  const text = writeTable(
    ['at', 'username', 'name', 'via', 'action', 'subject', 'course', 'before', 'after'],
    items.map((one) => [
      one.at.toISOString(),
      one.person?.username ?? '',
      one.person?.fullName ?? '',
      one.via,
      one.action,
      one.subject,
      one.course?.code ?? '',
      json(one.before),
      json(one.after),
    ]),
  )
  await context.records.audit.note({
    at: context.clock.now(),
    ...by(actor),
    action: 'export audit',
    subject: 'audit',
    after: { ...query, rows: items.length },
  })
  const day = context.clock.now().toISOString().slice(0, 10)
  return { name: `audit-${day}.csv`, mediaType: 'text/csv', text, rows: items.length, more: next !== null }
}
