import { Problem } from '@bathyscribe/core/result'
import { createHash } from 'node:crypto'
import {
  ERRORS,
  Refusal,
  type ErrorCode,
  type ReconciledRow,
  type ReconcileQuestion,
  type ReconcileTake,
  type Reconciliation,
} from '@bathyscribe/contract'
import { readTable } from '@bathyscribe/core/formats'
import {
  guessColumns,
  RECONCILED_CLASSES,
  LIKELY_REASONS,
  reasonFor,
  reconcile,
  type Explained,
  type ExportReading,
  type Reconciled,
  type TrailFacts,
} from '@bathyscribe/core/reconciliation'
import type { z } from 'zod'
import type { AssignmentRecord } from '../../records/entities/courses.js'
import type { ReconciledPersonRow } from '../../records/reconciliations.js'
import type { Actor, Context } from '../context.js'
import { gradeMany, type HandAct } from './grade-by-hand.js'

const LIMITS = { characters: 4_000_000, rows: 50_000 }

type Question = z.output<typeof ReconcileQuestion>

/** Compares a tool's own export with a column, line by line, and says why where they differ. Changes nothing but what is remembered of the reading. @throws Refusal */
export async function reconcileScores(
  context: Context,
  actor: Actor,
  column: AssignmentRecord,
  asked: Question,
): Promise<Reconciliation> {
  const { records } = context
  const { heads, rows } = read(asked.table)
  const headKey = heads.join('\t').toLowerCase()
  const remembered = await records.reconciliations.reading(column.registrationId, headKey)
  const reading =
    asked.reading ??
    remembered?.reading ??
    guessColumns(
      heads,
      rows.map((row) => row.cells),
    )
  const maximum = asked.maximum === undefined ? (remembered?.maximum ?? null) : asked.maximum
  requireReading(heads, reading)
  if (asked.confirm)
    await records.reconciliations.remember({
      registrationId: column.registrationId,
      heads: headKey,
      reading,
      maximum,
      personId: actor.id,
      at: context.clock.now(),
    })
  const course = await records.courses.byRef(column.courseId)
  const people = await records.reconciliations.people(column.id)
  const byId = new Map(people.map((one) => [one.id, one]))
  const found = reconcile(
    rows.map(({ line, cells }) => lineOf(line, cells, heads, reading)),
    people.map((one) => ({
      id: one.id,
      identifiers: [one.username, one.subject, one.sourcedId, one.id].filter((id) => id !== null),
      email: one.email,
      name: one.fullName,
      points: one.standing,
    })),
    { points: column.points, maximum, decimals: course.shownDecimals },
  )
  const tool = await records.tools.byId(column.registrationId)
  const answer = found.map((one) => rowOf(one, one.personId === null ? undefined : byId.get(one.personId)))
  return {
    column: { id: column.id, slug: column.slug, title: column.title, points: column.points },
    tool: { id: tool.id, slug: tool.slug, name: tool.name, state: tool.state },
    fileName: asked.fileName,
    sha256: createHash('sha256').update(asked.table).digest('hex'),
    heads,
    reading,
    confirmed: asked.confirm || (asked.reading === undefined && remembered !== undefined),
    maximum,
    counts: Object.fromEntries(
      RECONCILED_CLASSES.map((name) => [name, answer.filter((one) => one.class === name).length]),
    ) as Reconciliation['counts'],
    rows: answer,
    taken: 0,
  }
}

/** Takes chosen lines over as the instructor's own points; each carries the file, its line and its fingerprint as evidence. All or none. @throws Refusal */
export async function takeReconciled(
  context: Context,
  actor: Actor,
  column: AssignmentRecord,
  asked: z.output<typeof ReconcileTake>,
): Promise<Reconciliation> {
  const { lines, ...question } = asked
  const before = await reconcileScores(context, actor, column, question)
  const byLine = new Map(before.rows.map((one) => [one.line, one]))
  const acts = [...new Set(lines)].map((line): HandAct => {
    const row = byLine.get(line)
    if (!row?.person || row.theirPoints === null || row.class === 'unreadable')
      throw new Refusal('reconciliation.line', `line ${line}`)
    return {
      personId: row.person.id,
      act: { act: 'override', points: row.theirPoints, comment: '' },
      evidence: `${before.fileName}, line ${line} (SHA-256 ${before.sha256.slice(0, 12)})`,
    }
  })
  await gradeMany(context, actor, column, acts)
  return { ...(await reconcileScores(context, actor, column, question)), taken: acts.length }
}

interface Line {
  line: number
  cells: string[]
}

function read(text: string): { heads: string[]; rows: Line[] } {
  const heads: string[] = []
  const table = readTable(
    text,
    (head) => {
      // Heads may come twice in exports of the wild: the later ones are told apart.
      let name = head.slice(0, 120)
      for (let n = 2; heads.includes(name); n++) name = `${head.slice(0, 110)} (${n})`
      heads.push(name)
      return name
    },
    LIMITS,
  )
  if (table instanceof Problem) throw Refusal.of(table)
  return { heads, rows: table.rows.map(({ line, cells }) => ({ line, cells: heads.map((head) => cells[head] ?? '') })) }
}

function requireReading(heads: readonly string[], reading: ExportReading): void {
  const strange = Object.values(reading).find((head) => !heads.includes(head))
  if (strange !== undefined) throw new Refusal('reconciliation.head', `“${strange.slice(0, 60)}”`)
  if (reading.score === undefined) throw new Refusal('reconciliation.no_score', heads.join(', ').slice(0, 200))
  if (!reading.identifier && !reading.email && !reading.name && !reading.family)
    throw new Refusal('reconciliation.no_person', heads.join(', ').slice(0, 200))
}

function lineOf(line: number, cells: readonly string[], heads: readonly string[], reading: ExportReading) {
  const cell = (head: string | undefined) =>
    (head === undefined ? '' : (cells[heads.indexOf(head)] ?? '')).slice(0, 300)
  return {
    line,
    identifier: cell(reading.identifier),
    email: cell(reading.email),
    name: cell(reading.name) || `${cell(reading.given)} ${cell(reading.family)}`.trim(),
    score: cell(reading.score),
    maximum: cell(reading.maximum),
  }
}

function rowOf(found: Reconciled, person: ReconciledPersonRow | undefined): ReconciledRow {
  const reason = reasonFor(found, person && factsOf(person))
  const { personId: _, ...rest } = found
  return {
    ...rest,
    person: person ? { id: person.id, fullName: person.fullName, username: person.username } : null,
    reason: reason?.reason ?? null,
    statement: sentenceFor(found, reason),
    certainty:
      reason && (LIKELY_REASONS.includes(reason.reason) ? 'likely' : reason.reason === 'unexplained' ? null : 'seen'),
    at: reason?.at?.toISOString() ?? null,
  }
}

function factsOf(person: ReconciledPersonRow): TrailFacts {
  const moment = (text: string) => new Date(text)
  return {
    openedAt: person.openedAt,
    overridden: person.overridden,
    exempt: person.exempt,
    dropped: person.state === 'dropped',
    derived: person.derived,
    waiting: person.grading !== null && person.grading !== 'FullyGraded',
    received: person.received.map((one) => ({ at: moment(one.at), points: one.points })),
    refused: person.refused && { ...person.refused, at: moment(person.refused.at) },
  }
}

function sentenceFor(found: Reconciled, reason: Explained | null): string {
  switch (found.class) {
    case 'same':
      return ''
    case 'rounding':
      return 'Only rounded otherwise.'
    case 'scale':
      return 'The same share of another maximum.'
    case 'missing_there':
      if (reason) return REASONS[reason.reason](reason)
      return found.line === null ? 'The file does not name this person.' : 'The file has no score for this person.'
    case 'unknown_person':
      return 'Nobody of the course is called so.'
    case 'unreadable':
      return found.theirPoints === null && found.theirs !== null
        ? 'The score cannot be read, or the person is in the file twice.'
        : 'The line cannot be read.'
    default:
      return reason ? REASONS[reason.reason](reason) : ''
  }
}

const REASONS: Record<Explained['reason'], (reason: Explained) => string> = {
  never_launched: () => 'Never entered through this assignment, so the tool has nothing to return a score for.',
  never_sent: () => 'Opened here; no score of the tool ever came. Likely it was never sent.',
  refused: ({ code }) => `The tool sent it, but it was refused: ${ERRORS[code as ErrorCode]?.sentence ?? code ?? ''}`,
  overridden: () => 'The instructor’s own points apply here.',
  exempt: () => 'Exempt here.',
  dropped: () => 'Dropped from the course.',
  not_sent_again: () =>
    'No such score ever came here. Likely the tool changed it after its last one and did not send it again.',
  file_older: () => 'The file has a score that came here before the last one. Likely the file is older.',
  cleared: () => 'The tool took its score back here.',
  another_counts: () => 'This score came, too, but another one counts in this column.',
  not_final: () => 'The tool’s last word was that it is not final. Likely it has not sent the final one yet.',
  unexplained: () => 'Neither trail nor wire log says why.',
}
