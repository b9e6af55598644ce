import type { Pool } from 'pg'
import type { EntityManager } from 'typeorm'
import { AssignmentRecords } from './assignments.js'
import { AuditOfDone, AuditRecords } from './audit.js'
import { CourseRecords } from './courses.js'
import { IdentityRecords } from './identities.js'
import { ImpactRecords } from './impact.js'
import { CaseRecords } from './cases.js'
import { DiagnosisRecords } from './diagnoses.js'
import { DoubleRecords } from './doubles.js'
import { ExpectationRecords } from './expectations.js'
import { RehearsalRecords } from './rehearsals.js'
import { DigestRecords } from './digests.js'
import { MenuRecords } from './menus.js'
import { SecretRecords } from './secrets.js'
import { OwnAddressRecords } from './own-addresses.js'
import { PasswordMissRecords } from './password-misses.js'
import { PeopleRecords } from './people.js'
import { PersonDataRecords } from './person-data.js'
import { ScoreHistoryRecords } from './score-history.js'
import { RationRecords } from './rations.js'
import { ReconciliationRecords } from './reconciliations.js'
import { HandedOnRecords } from './handed-on.js'
import { AddressMoveRecords } from './address-moves.js'
import { ReplacementRecords } from './replacements.js'
import { RosterImportRecords } from './roster-imports.js'
import { ConnectionRecords } from './connections.js'
import { ScoreWatchRecords } from './score-watch.js'
import { RosterRecords } from './rosters.js'
import { ColumnRecords } from './columns.js'
import { ScoreRecords } from './scores.js'
import { SignInLinkRecords } from './sign-in-links.js'
import { SignInRecords } from './sign-ins.js'
import { SoundingRecords } from './soundings.js'
import { SweepWorkRecords } from './sweep-work.js'
import { SweepRecords } from './sweeps.js'
import { clientFinder } from './statements/clients.js'
import { callerFinder } from './statements/service-callers.js'
import { linkFinders } from './statements/links.js'
import { scoredLinkFinder } from './statements/scored-links.js'
import { secretsFinder } from './statements/tool-secrets.js'
import { messageWriter } from './statements/messages.js'
import { signInFinder } from './statements/sign-ins.js'
import { withoutStrangers } from './statements/strangers.js'
import { OutlineRecords } from './outline.js'
import { PickingRecords } from './pickings.js'
import { GroupRecords } from './groups.js'
import { FileRecords } from './files.js'
import { PreflightRecords } from './preflight.js'
import { PublishedKeyRecords } from './published-keys.js'
import { ToolRecords } from './tools.js'
import { VerdictRecords } from './verdicts.js'
import { WireStoryRecords } from './wire-story.js'
import { WireRecords } from './wire.js'

/** The records by family, outside of any transaction or (`RecordsInside`) all within one. */
export class Records {
  readonly people: PeopleRecords
  readonly personData: PersonDataRecords
  readonly signIns: SignInRecords
  readonly identities: IdentityRecords
  readonly signInLinks: SignInLinkRecords
  readonly passwordMisses: PasswordMissRecords
  readonly rations: RationRecords
  readonly doubles: DoubleRecords
  readonly courses: CourseRecords
  readonly tools: ToolRecords
  readonly impact: ImpactRecords
  readonly ownAddresses: OwnAddressRecords
  readonly replacements: ReplacementRecords
  readonly addressMoves: AddressMoveRecords
  readonly menus: MenuRecords
  readonly secrets: SecretRecords
  readonly publishedKeys: PublishedKeyRecords
  readonly assignments: AssignmentRecords
  readonly columns: ColumnRecords
  readonly rosters: RosterRecords
  readonly scoreWatch: ScoreWatchRecords
  readonly connections: ConnectionRecords
  readonly rosterImports: RosterImportRecords
  readonly handedOn: HandedOnRecords
  readonly reconciliations: ReconciliationRecords
  readonly scoreHistory: ScoreHistoryRecords
  readonly scores: ScoreRecords
  readonly soundings: SoundingRecords
  readonly expectations: ExpectationRecords
  readonly rehearsals: RehearsalRecords
  readonly sweeps: SweepRecords
  readonly sweepWork: SweepWorkRecords
  readonly wire: WireRecords
  readonly wireStories: WireStoryRecords
  readonly digests: DigestRecords
  readonly cases: CaseRecords
  readonly diagnoses: DiagnosisRecords
  readonly verdicts: VerdictRecords
  readonly outline: OutlineRecords
  readonly pickings: PickingRecords
  readonly groups: GroupRecords
  readonly files: FileRecords
  readonly preflight: PreflightRecords
  readonly audit: AuditRecords

  constructor(private readonly manager: EntityManager) {
    this.people = new PeopleRecords(manager)
    this.personData = new PersonDataRecords(manager)
    this.signIns = new SignInRecords(manager)
    this.identities = new IdentityRecords(manager)
    this.signInLinks = new SignInLinkRecords(manager)
    this.passwordMisses = new PasswordMissRecords(manager)
    this.rations = new RationRecords(manager)
    this.doubles = new DoubleRecords(manager)
    this.courses = new CourseRecords(manager)
    this.tools = new ToolRecords(manager)
    this.impact = new ImpactRecords(manager)
    this.ownAddresses = new OwnAddressRecords(manager)
    this.replacements = new ReplacementRecords(manager)
    this.addressMoves = new AddressMoveRecords(manager)
    this.menus = new MenuRecords(manager)
    this.secrets = new SecretRecords(manager)
    this.publishedKeys = new PublishedKeyRecords(manager)
    this.assignments = new AssignmentRecords(manager)
    this.scoreHistory = new ScoreHistoryRecords(manager)
    this.reconciliations = new ReconciliationRecords(manager)
    this.handedOn = new HandedOnRecords(manager)
    this.rosterImports = new RosterImportRecords(manager)
    this.connections = new ConnectionRecords(manager)
    this.scoreWatch = new ScoreWatchRecords(manager)
    this.rosters = new RosterRecords(manager)
    this.columns = new ColumnRecords(manager)
    this.scores = new ScoreRecords(manager)
    this.soundings = new SoundingRecords(manager)
    this.expectations = new ExpectationRecords(manager)
    this.rehearsals = new RehearsalRecords(manager)
    this.sweeps = new SweepRecords(manager)
    this.sweepWork = new SweepWorkRecords(manager)
    this.wire = new WireRecords(manager)
    this.wireStories = new WireStoryRecords(manager)
    this.digests = new DigestRecords(manager)
    this.cases = new CaseRecords(manager)
    this.diagnoses = new DiagnosisRecords(manager)
    this.verdicts = new VerdictRecords(manager)
    this.outline = new OutlineRecords(manager)
    this.pickings = new PickingRecords(manager)
    this.groups = new GroupRecords(manager)
    this.files = new FileRecords(manager)
    this.preflight = new PreflightRecords(manager)
    this.audit = new AuditRecords(manager)
  }

  /** Does several things or none of them. */
  transaction<T>(work: (inside: RecordsInside) => Promise<T>): Promise<T> {
    return this.manager.transaction((manager) => work(new RecordsInside(manager)))
  }
}

/** The records within one transaction: the only ones by which an act can be noted in the audit. */
export class RecordsInside extends Records {
  override readonly audit: AuditOfDone

  constructor(manager: EntityManager) {
    super(manager)
    this.audit = new AuditOfDone(manager)
  }
}

/** The few statements of the busiest paths: prepared by name, gathered, outside of transactions. */
export function createStatements(pool: Pool, now: () => Date, sessionIdleMs: number) {
  const links = linkFinders(pool, now, sessionIdleMs)
  return {
    ...links,
    findScored: scoredLinkFinder(pool, links.findLink),
    writeMessage: withoutStrangers(pool, messageWriter(pool)),
    findSecrets: secretsFinder(pool, now),
    findClient: clientFinder(pool),
    findCaller: callerFinder(pool),
    findSession: signInFinder(pool, 'session', now, sessionIdleMs),
    findToken: signInFinder(pool, 'token', now),
  }
}
export type Statements = ReturnType<typeof createStatements>
