import { ERRORS, columnChangeInWords, type Case, type CaseEvent, type ErrorCode } from '@bathyscribe/contract'
import { caseInWords, learnerLetter, supportQuestion, toldToLearner, type CaseNames } from '@bathyscribe/core/cases'
import { PROVEN_UNDER } from '@bathyscribe/core/checks'
import { wallTime } from '@bathyscribe/core/dates'
import type { LetterLanguage } from '@bathyscribe/core/diagnosis'
import type { CaseEventRow } from '../../records/cases.js'
import type { CourseRecord } from '../../records/entities/courses.js'
import type { TrailRow } from '../../records/scores.js'
import type { WireRow } from '../../records/wire.js'
import { assignmentRef } from '../assignments/assignment-ref.js'
import type { Context } from '../context.js'
import { datedCourse } from '../courses/dated-course.js'
import { explainedEntries } from '../diagnosis/explained-entry.js'
import { toCell } from '../grades/cell.js'
import { isTaught, taughtCourses, type Seer } from '../identity/access.js'
import { personRef } from '../identity/person-ref.js'
import { signatureOf } from '../mail/signature.js'
import { findCase, type FoundCase } from './case-facts.js'

const MOST_EVENTS = 150
const MOST_CHANGES = 30

/** Everything that happened between one person and one assignment, what explains it, and who has to act. @throws Refusal */
export async function readCase(
  context: Context,
  actor: Seer,
  column: { id: string; courseId: string },
  ref: string,
  { shownDecimals }: Pick<CourseRecord, 'shownDecimals'>,
): Promise<Case> {
  const { records, settings, mailer } = context
  const found = await findCase(context, column, ref)
  const { assignment, person, cell, judgement } = found
  const key = { assignmentId: assignment.id, personId: person.id }
  const [taught, state, written, columnChanges, changes, diagnosis] = await Promise.all([
    taughtCourses(records, actor),
    records.cases.state(key),
    records.cases.events(key, MOST_EVENTS),
    records.scoreHistory.columnChanges(assignment.courseId, { columnId: assignment.id, from: null, until: null, limit: MOST_CHANGES }),
    records.cases.changes({ ...key, registrationId: assignment.registrationId, since: firstSeen(found), limit: MOST_CHANGES }),
    diagnosisOf(context, found),
  ]) // oxfmt-ignore
  const names = namesOf(found)
  const events = [
    ...found.wire.items.filter((one) => isTold(one, found)).map(ofWire),
    ...found.trail.items.map(ofTrail),
    ...found.theirs.map(({ id, courseId, at, statement }) =>
      event(at, 'message', 'bad', statement, { wireEntryId: isTaught(taught, courseId) ? id : null })),
    // What names nobody may be of anybody’s course.
    ...found.unclaimed.filter(({ courseId }) => isTaught(taught, courseId)).map(({ id, at, statement }) =>
      event(at, 'message', 'bad', statement, { isCertain: false, wireEntryId: id })),
    ...columnChanges.map((one) => event(one.at, 'change', 'plain', `Column changed: ${columnChangeInWords({ ...one, at: '' })}`, { by: one.by })),
    ...changes.map(({ at, what, by }) => event(at, 'change', 'plain', `Changed: ${PROVEN_UNDER[what]}`, { by })),
    ...written.map(ofCase),
  ].sort((a, b) => Date.parse(b.at) - Date.parse(a.at)) // oxfmt-ignore
  const from = signatureOf(context)
  const inBoth = <T>(write: (language: LetterLanguage) => T) => ({ en: write('en'), de: write('de') })
  return {
    person: personRef(person),
    assignment: assignmentRef(assignment),
    course: datedCourse(assignment.course),
    tool: assignment.tool,
    state: state?.state ?? 'none',
    since: state?.since.toISOString() ?? null,
    cell: toCell(cell, { decimals: shownDecimals, dueAt: assignment.dueAt }),
    outOf: assignment.points,
    judged: { ...judgement, ...caseInWords(judgement, names) },
    diagnosis,
    events: events.slice(0, MOST_EVENTS),
    more: events.length > MOST_EVENTS || found.wire.next !== null || found.trail.next !== null,
    letters: {
      learner: inBoth((language) => ({
        subject: `${assignment.title} (${assignment.course.code})`,
        text: learnerLetter(judgement, { ...names, from }, language),
      })),
      support: asksSupport(found)
        ? inBoth((language) => ({
            subject: { en: `A score of ${assignment.tool.name}`, de: `Eine Punktzahl von ${assignment.tool.name}` }[language],
            text: diagnosis?.letters[language] ?? supportQuestion({ ...supportFacts(found), platform: settings.publicUrl, from }, language),
          })) // oxfmt-ignore
        : null,
    },
    mail: { on: mailer !== null, learner: person.email },
  }
}

/** What is known already, in words for the learner. */
export async function toldOfCase(context: Context, column: { id: string; courseId: string }, personId: string): Promise<string> {
  const found = await findCase(context, column, personId)
  return toldToLearner(found.judgement, namesOf(found), 'en')
} // oxfmt-ignore

/** There is something to ask where nothing explains it, or where the tool has to act. */
function asksSupport({ judgement: { actor, certainty, code } }: FoundCase): boolean {
  return actor === 'tool' || certainty === 'unknown' || code === 'not_handed_in' || code === 'launch_failed'
}

function firstSeen({ assignment, cell, wire }: FoundCase): Date {
  return cell?.openedAt ?? wire.items.at(-1)?.at ?? assignment.createdAt
}

/** The message that the case is about, where one was refused. */
async function diagnosisOf(context: Context, { judgement, refused, failedLaunch }: FoundCase): Promise<Case['diagnosis']> {
  const id =
    judgement.code === 'score_refused'
      ? refused?.wireEntryId
      : judgement.code === 'launch_failed'
        ? failedLaunch?.id
        : undefined
  if (id === undefined || id === null) return null
  const rows = await context.records.wire.showMany([id])
  return (await explainedEntries(context, rows)).get(id) ?? null
} // oxfmt-ignore

function namesOf(found: FoundCase): CaseNames {
  const { assignment, person, cell, refused, obstacle, judgement, openedAt, failedLaunch } = found
  const at = {
    score_refused: refused?.at,
    stands: cell?.resultAt,
    set_by_hand: cell?.resultAt,
    cleared: cell?.resultAt,
    waits_for_grading: cell?.heardAt,
    grading_failed: cell?.heardAt,
    no_final_score: cell?.heardAt,
    work_goes_on: cell?.heardAt,
    launch_failed: failedLaunch?.at,
  }[judgement.code as string]
  return {
    learner: person.fullName,
    tool: assignment.tool.name,
    assignment: assignment.title,
    course: `${assignment.course.code} ${assignment.course.title}`,
    points: cell?.points ?? null,
    outOf: assignment.points,
    at: written(at ?? openedAt, assignment.course.timeZone),
    refusal: sentenceOf(refused?.code),
    obstacle: sentenceOf(obstacle),
    column: found.elsewhere?.title ?? '',
    unclaimed: found.unclaimed.length,
    othersScored: found.othersScored,
  }
}

const sentenceOf = (code: string | null | undefined) => ERRORS[code as ErrorCode]?.sentence ?? code ?? ''

/** A moment as it is written in letters: `2026-12-01 09:30 Europe/Oslo`. */
export function written(at: Date | null | undefined, zone: string): string {
  return at ? `${wallTime(at, zone).replace('T', ' ')} ${zone}` : ''
}

/** What the tool knows the launch by, without a name. */
function supportFacts({ assignment, person, cell, openedAt }: FoundCase) {
  const words = [cell?.activity, cell?.grading].filter(Boolean).join(', ')
  return {
    tool: assignment.tool.name,
    user: person.subject,
    link: assignment.resourceLinkId,
    context: assignment.courseId,
    openedAt: openedAt?.toISOString() ?? '',
    heard: words && cell?.heardAt ? `${words}, ${cell.heardAt.toISOString()}` : '',
  }
}

function event(
  at: Date,
  kind: CaseEvent['kind'],
  tone: CaseEvent['tone'],
  sentence: string,
  more: Partial<CaseEvent> = {},
): CaseEvent {
  return { at: at.toISOString(), kind, tone, sentence, isCertain: true, by: null, text: null, wireEntryId: null, ...more }
} // oxfmt-ignore

/** What entered the trail is told by the trail, which knows what became of it; a login that went well by the launch after it. */
function isTold({ id, kind, outcome }: WireRow, { trail }: FoundCase): boolean {
  return !(kind === 'login' && outcome === 'accepted') && !trail.items.some((one) => one.wireEntryId === id)
}

function ofWire(row: WireRow): CaseEvent {
  const tone = row.outcome === 'accepted' ? 'good' : 'bad'
  return event(row.at, 'message', tone, row.statement, { wireEntryId: row.id })
}

function ofTrail(row: TrailRow): CaseEvent {
  const { at, outcome, by, comment, wireEntryId } = row
  const tone = outcome === 'refused' ? 'bad' : row.operation === 'progress' ? 'plain' : 'good'
  return event(at, 'score', tone, trailInWords(row), { by: by?.fullName ?? null, text: comment, wireEntryId })
}

function trailInWords(row: TrailRow): string {
  const { operation, outcome, code, sent, sentOutOf, points, outOf, setAsideBy, mergedFrom } = row
  const where = mergedFrom === null ? '' : `, sent to “${mergedFrom}”`
  const aside = setAsideBy === null ? '' : '; set aside, because a sounding or a rehearsal left it'
  const said = sent === null ? 'Score' : `Score ${sent}${sentOutOf === null ? '' : ` of ${sentOutOf}`}`
  if (outcome === 'refused') return `${said} refused: ${sentenceOf(code)}${where}`
  switch (operation) {
    case 'replace':
      return `${said} taken: ${points ?? 'no'} of ${outOf} points${where}${aside}`
    case 'delete':
      return `The tool took its score back${where}${aside}`
    case 'progress':
      return `The tool says: ${[row.activity, row.grading].filter(Boolean).join(', ')}${aside}`
    case 'override':
      return points === null ? 'No points, set by hand' : `${points} of ${outOf} points, set by hand`
    case 'lift':
      return 'Points set by hand were lifted'
    case 'exempt':
      return 'Exempt'
    case 'count':
      return 'Included again'
  }
}

function ofCase(row: CaseEventRow): CaseEvent {
  const more = { by: row.by, text: row.text || null }
  switch (row.kind) {
    case 'said':
      return event(row.at, 'said', 'plain', 'The learner says that the score is missing', more)
    case 'opened':
      return event(row.at, 'state', 'plain', 'Case opened', more)
    case 'closed':
      return event(row.at, 'state', 'plain', 'Case closed', more)
    case 'letter':
    case 'reminder':
      return event(row.at, row.kind, row.failure ? 'bad' : 'plain', letterInWords(row), more)
  }
}

function letterInWords({ kind, sentTo, sentBy, address, isWaiting, sentAt, failure, readAt }: CaseEventRow): string {
  const what = kind === 'reminder' ? 'Reminded' : sentTo === 'support' ? `Written to the tool’s support (${address})` : 'Written to the learner'
  if (sentBy === 'page') return `${what}, on their pages${readAt ? '; put away as read' : '; not put away yet'}`
  const state = failure !== null ? `not taken by the mail server: ${failure}${isWaiting ? '; it is tried again' : ''}` : sentAt ? 'sent' : 'waits to be sent'
  return `${what}, by mail: ${state}`
} // oxfmt-ignore
