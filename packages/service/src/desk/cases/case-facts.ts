import { Refusal, type ErrorCode } from '@bathyscribe/contract'
import { judgeCase, type CaseActor, type CaseJudgement } from '@bathyscribe/core/cases'
import type { Diagnosis } from '@bathyscribe/core/diagnosis'
import { isScored } from '@bathyscribe/core/identity'
import { stateOf } from '@bathyscribe/core/scores'
import { isShown, type AssignmentSummary } from '../../records/assignment-summary.js'
import type { PersonRecord } from '../../records/entities/people.js'
import type { UnclaimedRow } from '../../records/cases.js'
import type { CellRow, TrailRow } from '../../records/scores.js'
import type { WireRow } from '../../records/wire.js'
import type { Context } from '../context.js'
import { launchObstacle } from '../launches/obstacles.js'

/** Messages and entries of the trail that are looked at, the newest. */
const MOST = 100
const MOST_UNCLAIMED = 20

/** What is known of one person in one assignment, and what explains it. */
export interface FoundCase {
  assignment: AssignmentSummary
  person: PersonRecord
  cell: CellRow | undefined
  trail: { items: TrailRow[]; next: string | null }
  wire: { items: WireRow[]; next: string | null }
  /** Refused messages of the tool that were not taken for anybody’s: those that name the person, and those that name nobody known. */
  theirs: UnclaimedRow[]
  unclaimed: UnclaimedRow[]
  elsewhere: { title: string; tied: boolean; wireEntryId: string | null } | null
  othersScored: number
  /** What keeps the person out now. */
  obstacle: ErrorCode | undefined
  /** When it was last opened without a fault. */
  openedAt: Date | null
  /** The newest opening that went wrong, where none has worked since. */
  failedLaunch: WireRow | undefined
  refused: RefusedScore | undefined
  judgement: CaseJudgement
}

/** A score that was refused: in the trail, or before it could enter it. */
export interface RefusedScore {
  at: Date
  code: string | null
  wireEntryId: string | null
}

const OPENINGS: readonly WireRow['kind'][] = ['login', 'launch', 'return']
const SCORES: readonly WireRow['kind'][] = ['outcome', 'score']

/** Whom a case can be about. @throws Refusal for who is no learner of the course */
export async function learnerOf({ records }: Context, courseId: string, ref: string) {
  const member = await records.people.memberByRef(courseId, ref)
  if (!isScored(member.enrolment.role)) throw new Refusal('case.not_of_learner', member.person.fullName)
  return member
}

/** Reads what is known of one learner in one assignment. @throws Refusal for who is no learner of the course */
export async function findCase(
  context: Context,
  column: { id: string; courseId: string },
  personRef: string,
): Promise<FoundCase> {
  const { records, statements, clock } = context
  const { person, enrolment } = await learnerOf(context, column.courseId, personRef)
  const key = { assignmentId: column.id, personId: person.id }
  const [assignment, [cell], trail, wire, link] = await Promise.all([
    records.assignments.summary(column.id),
    records.scores.cells([column.id], [person.id]),
    records.scores.trail(column.id, person.id, MOST, undefined),
    records.wire.list(null, { assignmentId: column.id, personId: person.id, limit: MOST }),
    statements.findLink({ linkId: column.id, personId: person.id }),
  ])
  if (!link) throw new Refusal('assignment.not_found', column.id)
  // What soundings do is theirs: they go wrong on purpose.
  const openings = wire.items.filter((one) => OPENINGS.includes(one.kind) && one.soundingId === null)
  const [newest] = openings
  const failedLaunch = newest && newest.outcome !== 'accepted' ? newest : undefined
  const openedAt =
    openings.find((one) => one.kind === 'launch' && one.outcome === 'accepted')?.at ?? cell?.openedAt ?? null
  const since = openedAt ?? assignment.createdAt
  const { registrationId } = assignment
  const [nobodys, others, strays] = await Promise.all([
    records.cases.unclaimed({ ...key, registrationId, subject: person.subject, since, limit: MOST_UNCLAIMED }),
    records.cases.othersScored(key, since),
    records.scores.elsewhere({ ...assignment, personId: person.id, since }),
  ])
  const [theirs, unclaimed] = [nobodys.filter((one) => one.isTheirs), nobodys.filter((one) => !one.isTheirs)]
  const refused = newestRefused(trail.items, wire.items, theirs)
  const stray = strays.find((one) => one.tiedTo !== null) ?? (openedAt === null ? undefined : strays[0])
  const elsewhere = stray ? { ...stray, tied: stray.tiedTo !== null } : null
  const obstacle = launchObstacle(link, clock.now())
  const facts = cell ?? NOTHING_KNOWN
  const judgement = judgeCase({
    state: stateOf({ ...facts, refusedAt: refused?.at ?? facts.refusedAt }).state,
    points: facts.points,
    overridden: facts.overridden,
    released: assignment.released,
    isShown: isShown(assignment),
    returnsScores: link.registration.features.includes('scores'),
    isActive: enrolment.state === 'active',
    openedAt: facts.openedAt,
    heardAt: facts.heardAt,
    failedLaunchAt: failedLaunch?.at ?? null,
    obstacle: obstacle ? actorOf(obstacle) : null,
    refusedBy: refused ? await refusedBy(context, refused) : 'tool',
    elsewhere,
    unclaimed: unclaimed.length,
    othersScored: others,
  })
  const found = {
    assignment,
    person,
    cell,
    trail,
    wire,
    theirs,
    unclaimed,
    elsewhere,
    obstacle,
    openedAt,
  }
  return { ...found, othersScored: others, failedLaunch, refused, judgement }
}

const NOTHING_KNOWN = {
  openedAt: null,
  hasResult: false,
  points: null,
  overridden: false,
  exempt: false,
  activity: null,
  grading: null,
  heardAt: null,
  resultAt: null,
  comment: null,
  refusedAt: null,
}

function newestRefused(
  trail: readonly TrailRow[],
  wire: readonly WireRow[],
  theirs: readonly UnclaimedRow[],
): RefusedScore | undefined {
  const onWire = wire.filter((one) => SCORES.includes(one.kind) && one.outcome === 'refused' && one.soundingId === null)
  return [
    ...trail.filter((one) => one.outcome === 'refused'),
    ...[...onWire, ...theirs].map(({ at, code, id }) => ({ at, code, wireEntryId: id })),
  ].sort((a, b) => b.at.getTime() - a.at.getTime())[0]
}

/** Who can take away what keeps somebody out. */
function actorOf(obstacle: ErrorCode): CaseActor {
  return /^tool\.|^launch\.(tool_|no_address)/.test(obstacle) ? 'technologist' : 'instructor'
}

/** Who can do something about a refused score: as its cause was found, else as what it says. */
async function refusedBy({ records }: Context, { code, wireEntryId }: RefusedScore): Promise<CaseActor> {
  if (code === 'score.not_a_learner') return 'instructor'
  const found: Diagnosis | undefined = wireEntryId === null ? undefined : (await records.diagnoses.of([wireEntryId])).get(wireEntryId) // oxfmt-ignore
  const [cause] = found?.causes ?? []
  if (cause) return cause.theirs === null ? 'technologist' : 'tool'
  return code?.startsWith('score') ? 'tool' : 'technologist'
}
