import pg, { type Pool } from 'pg'
import { DataSource } from 'typeorm'
import type { Settings } from '../settings/settings.js'
import { AssignmentRecord, CategoryRecord, CourseRecord } from './entities/courses.js'
import { CourseFileRecord, PickingRecord, UnitItemRecord, UnitRecord } from './entities/content.js'
import { ApiTokenRecord, EnrolmentRecord, PersonRecord, SessionRecord } from './entities/people.js'
import { IdentityProviderRecord, IdentityRecord } from './entities/identities.js'
import { DeploymentRecord, InvitationRecord, MenuEntryRecord, RegistrationRecord } from './entities/tools.js'
import { FirstLine1764000000000 } from './migrations/1-first-line.js'
import { EveryWayIn1765000000000 } from './migrations/2-every-way-in.js'
import { AssignmentsInFull1766000000000 } from './migrations/3-assignments-in-full.js'
import { ScoresAndRosters1767000000000 } from './migrations/4-scores-and-rosters.js'
import { ReconciliationAndOffice1768000000000 } from './migrations/5-reconciliation-and-office.js'
import { Connections1769000000000 } from './migrations/6-connections.js'
import { Digests1770000000000 } from './migrations/7-digests.js'
import { Diagnoses1771000000000 } from './migrations/8-diagnoses.js'
import { Sweeps1772000000000 } from './migrations/9-sweeps.js'
import { SoundingsInDepth1773000000000 } from './migrations/10-soundings-in-depth.js'
import { WireInParts1774000000000 } from './migrations/11-wire-in-parts.js'
import { LeanEnrolments1775000000000 } from './migrations/12-lean-enrolments.js'
import { PeopleByIdentifier1776000000000 } from './migrations/13-people-by-identifier.js'
import { WaitedTooLong } from './statements/gather.js'
import { GuardedSignIn1777000000000 } from './migrations/14-guarded-sign-in.js'
import { BoundedReading1778000000000 } from './migrations/15-bounded-reading.js'
import { ProofThatAges1779000000000 } from './migrations/16-proof-that-ages.js'
import { KeyMark1780000000000 } from './migrations/17-key-mark.js'
import { CoursesThatEnd1781000000000 } from './migrations/18-courses-that-end.js'
import { SignInLinks1782000000000 } from './migrations/19-sign-in-links.js'
import { ColumnChanges1783000000000 } from './migrations/20-column-changes.js'
import { Replacements1784000000000 } from './migrations/21-replacements.js'
import { SecondRegistrations1785000000000 } from './migrations/22-second-registrations.js'
import { OwnAddresses1786000000000 } from './migrations/23-own-addresses.js'
import { Strangers1787000000000 } from './migrations/24-strangers.js'
import { NewestFirst1788000000000 } from './migrations/25-newest-first.js'
import { FreshPasswords1789000000000 } from './migrations/26-fresh-passwords.js'
import { SaidInFull1790000000000 } from './migrations/27-said-in-full.js'
import { AddressMoves1791000000000 } from './migrations/28-address-moves.js'
import { Rations1792000000000 } from './migrations/29-rations.js'
import { FindingsAsFacts1793000000000 } from './migrations/30-findings-as-facts.js'
import { FoundByIndex1794000000000 } from './migrations/31-found-by-index.js'
import { SpreadOfScores1795000000000 } from './migrations/32-spread-of-scores.js'
import { PublishedKeys1796000000000 } from './migrations/33-published-keys.js'
import { Verdicts1797000000000 } from './migrations/34-verdicts.js'
import { PlainWords1798000000000 } from './migrations/35-plain-words.js'
import { FramePermissions1799000000000 } from './migrations/36-frame-permissions.js'
import { AuditLookedThrough1800000000000 } from './migrations/37-audit-looked-through.js'
import { Cases1801000000000 } from './migrations/38-cases.js'
import { WaitingWork1802000000000 } from './migrations/39-waiting-work.js'
import { SignOn1803000000000 } from './migrations/40-sign-on.js'
import { PlanningClient } from './planned-once.js'

const MIGRATIONS = [
  FirstLine1764000000000,
  EveryWayIn1765000000000,
  AssignmentsInFull1766000000000,
  ScoresAndRosters1767000000000,
  ReconciliationAndOffice1768000000000,
  Connections1769000000000,
  Digests1770000000000,
  Diagnoses1771000000000,
  Sweeps1772000000000,
  SoundingsInDepth1773000000000,
  WireInParts1774000000000,
  LeanEnrolments1775000000000,
  PeopleByIdentifier1776000000000,
  GuardedSignIn1777000000000,
  BoundedReading1778000000000,
  ProofThatAges1779000000000,
  KeyMark1780000000000,
  CoursesThatEnd1781000000000,
  SignInLinks1782000000000,
  ColumnChanges1783000000000,
  Replacements1784000000000,
  SecondRegistrations1785000000000,
  OwnAddresses1786000000000,
  Strangers1787000000000,
  NewestFirst1788000000000,
  FreshPasswords1789000000000,
  SaidInFull1790000000000,
  AddressMoves1791000000000,
  Rations1792000000000,
  FindingsAsFacts1793000000000,
  FoundByIndex1794000000000,
  SpreadOfScores1795000000000,
  PublishedKeys1796000000000,
  Verdicts1797000000000,
  PlainWords1798000000000,
  FramePermissions1799000000000,
  AuditLookedThrough1800000000000,
  Cases1801000000000,
  WaitingWork1802000000000,
  SignOn1803000000000,
]

type DatabaseSettings = Pick<Settings, 'databaseUrl' | 'databaseSchema' | 'databaseConnections'>

/** Longer than any page or import takes; what reads on behind it would only keep others waiting. */
const STATEMENT_LIMIT_MS = 20_000
/** What tools and browsers wait for is written in milliseconds; a row that is held is waited for so long, and then tried by itself. */
const MESSAGE_LIMIT_MS = 5_000
const MESSAGE_LOCK_MS = 120
const CONNECT_LIMIT_MS = 5_000
const MESSAGE_CONNECT_MS = 800
/** Before the first request nobody waits: a server that has much to do may take its time to let the service in. */
const OPEN_LIMIT_MS = 30_000

/** Of the connections that a process may hold, those kept for launches and scores: reading can never use them up. */
function shares({ databaseConnections }: DatabaseSettings): { messages: number; rest: number } {
  const messages = Math.min(6, Math.max(1, Math.floor(databaseConnections / 2)))
  return { messages, rest: Math.max(1, databaseConnections - messages) }
}

/**
 * `jit`: small statements that are planned as dear ones would be compiled for longer than they run.
 * `max_parallel_workers_per_gather`: whoever searches may have one processor for it, not all of them.
 */
function options({ databaseSchema }: DatabaseSettings, limits: Record<string, number | string>): string {
  const all = {
    search_path: databaseSchema,
    TimeZone: 'UTC',
    jit: 'off',
    max_parallel_workers_per_gather: 0,
    ...limits,
  }
  return Object.entries(all)
    .map(([name, value]) => `-c ${name}=${value}`)
    .join(' ')
}

/**
 * The connections of launches, scores, tokens and sign-ins: the few statements that are prepared by name, each planned once
 * for any number of questions. Left to itself PostgreSQL takes every plan that it made for two rows for cheaper than that one,
 * and plans anew each time, which costs more than the statements do (PREPARE: custom and generic plans). The connections are
 * opened before the first message comes, when nobody waits for it: all of them, because a message that has to open one
 * takes none that comes free meanwhile. What cannot be opened yet is opened when it is needed, and then as fast as a
 * message has to be answered.
 */
export async function openMessagePool(settings: DatabaseSettings): Promise<Pool> {
  const pool = new pg.Pool({
    connectionString: settings.databaseUrl,
    max: shares(settings).messages,
    connectionTimeoutMillis: OPEN_LIMIT_MS,
    // Once opened they stay: on a busy machine a new one takes longer to open than a launch may wait for it.
    idleTimeoutMillis: 0,
    application_name: 'bathyscribe messages',
    keepAlive: true,
    options: options(settings, {
      statement_timeout: MESSAGE_LIMIT_MS,
      lock_timeout: MESSAGE_LOCK_MS,
      plan_cache_mode: 'force_generic_plan',
    }),
  })
  // A lost idle connection is replaced on next use.
  pool.on('error', () => undefined)
  const opened = await Promise.allSettled(Array.from({ length: pool.options.max }, () => pool.connect()))
  for (const one of opened) if (one.status === 'fulfilled') one.value.release()
  pool.options.connectionTimeoutMillis = MESSAGE_CONNECT_MS
  return pool
}

/** The connection to the records, not opened yet. @param limits `none` for migrations, which take as long as they take */
export function createDatabase(settings: DatabaseSettings, limits: 'usual' | 'none' = 'usual'): DataSource {
  return new DataSource({
    type: 'postgres',
    url: settings.databaseUrl,
    poolSize: shares(settings).rest,
    connectTimeoutMS: OPEN_LIMIT_MS,
    applicationName: 'bathyscribe',
    entities: [
      PersonRecord,
      SessionRecord,
      IdentityProviderRecord,
      IdentityRecord,
      ApiTokenRecord,
      EnrolmentRecord,
      CourseRecord,
      CategoryRecord,
      RegistrationRecord,
      MenuEntryRecord,
      DeploymentRecord,
      InvitationRecord,
      AssignmentRecord,
      UnitRecord,
      UnitItemRecord,
      CourseFileRecord,
      PickingRecord,
    ],
    migrations: MIGRATIONS,
    migrationsTableName: 'migration',
    migrationsTransactionMode: 'all',
    installExtensions: false,
    extra: {
      options: options(settings, limits === 'none' ? {} : { statement_timeout: STATEMENT_LIMIT_MS }),
      keepAlive: true,
      Client: PlanningClient,
    },
    // A lost idle connection is replaced on next use; the request that meets it is answered 503 by the error handler.
    poolErrorHandler: () => undefined,
  })
}

/** Opens it with patience; what opens more connections later on is answered sooner. */
export async function openDatabase(database: DataSource): Promise<void> {
  await database.initialize()
  poolOf(database).options.connectionTimeoutMillis = CONNECT_LIMIT_MS
}

/** The pool below TypeORM, for what is no record: live changes, counts of key uses. */
export function poolOf(database: DataSource): Pool {
  return (database.driver as unknown as { master: Pool }).master
}

/** Runs what migrations are missing. Two at once wait for each other. @throws Error when the schema is newer than this program. */
export async function migrate(database: DataSource, schema: string): Promise<string[]> {
  const runner = database.createQueryRunner()
  try {
    await runner.query(`create schema if not exists "${schema}"`)
    await runner.query(`select pg_advisory_lock(hashtext('bathyscribe migrate ' || $1))`, [schema])
    await refuseNewerSchema(database)
    return (await database.runMigrations({ transaction: 'all' })).map((migration) => migration.name)
  } finally {
    await runner.query(`select pg_advisory_unlock_all()`).catch(() => undefined)
    await runner.release()
  }
}

/** Whether every migration has been run. */
export async function isMigrated(database: DataSource): Promise<boolean> {
  await refuseNewerSchema(database)
  const done = await appliedMigrations(database)
  return MIGRATIONS.every((migration) => done.includes(migration.name))
}

/** @throws Error in words when a migration is missing, or the schema is newer than this program */
export async function requireMigrated(database: DataSource): Promise<void> {
  if (!(await isMigrated(database)))
    throw new Error('The records are not up to date. Run `bathyscribe service migrate` first.')
}

/** Whether something can be written now: a full disk, a standby and a read-only database can all be read. */
export async function isWritable(database: DataSource): Promise<boolean> {
  try {
    await database.query(`insert into pulse (id, at) values (1, now()) on conflict (id) do update set at = excluded.at`)
    return true
  } catch (error) {
    if (isUnavailable(error) || isTooSlow(error)) return false
    throw error
  }
}

async function refuseNewerSchema(database: DataSource): Promise<void> {
  const known = new Set(MIGRATIONS.map((migration) => migration.name))
  const strange = (await appliedMigrations(database)).filter((name) => !known.has(name))
  if (strange.length > 0)
    throw new Error(
      `The records were made by a newer version of this program (${strange.join(', ')}). Start that version.`,
    )
}

async function appliedMigrations(database: DataSource): Promise<string[]> {
  const [found] = await database.query<{ there: string | null }[]>(`select to_regclass('migration')::text as there`)
  if (!found?.there) return []
  return (await database.query<{ name: string }[]>(`select name from migration order by id`)).map((row) => row.name)
}

const CONNECTION_LOST =
  /Connection terminated|timeout exceeded when trying to connect|Client has encountered a connection error|not queryable|the database system is/i
const SOCKET_CODES = new Set(['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT', 'ENOENT'])

/** Whether an error says that the database cannot be reached for the moment, and not that a statement was wrong. */
export function isUnavailable(error: unknown): boolean {
  for (let at = error; at instanceof Error; at = at.cause) {
    const code = String(
      (at as { code?: unknown }).code ?? (at as { driverError?: { code?: unknown } }).driverError?.code ?? '',
    )
    // 25006: a standby that is not yet the new primary, or a database that was set read-only.
    if (/^(08|53|57P0|25006)/.test(code) || SOCKET_CODES.has(code) || CONNECTION_LOST.test(at.message)) return true
    if (at instanceof WaitedTooLong) return true
    if (at instanceof AggregateError && at.errors.some(isUnavailable)) return true
  }
  return false
}

/** Whether a statement waited for a row that somebody else holds, longer than it may. */
export function isLocked(error: unknown): boolean {
  return driverError(error).code === '55P03'
}

/** Whether a statement took longer than one may, or was given up because nobody waits for it any more. */
export function isTooSlow(error: unknown): boolean {
  return driverError(error).code === '57014'
}

/** Whether a value was sent that no text can hold (U+0000), which nothing that is kept can be found by. */
export function isUnstorable(error: unknown): boolean {
  return driverError(error).code === '22021'
}

/** Whether what a statement refers to went away, or came into use, while it was on its way. */
export function isReferenceLost(error: unknown): boolean {
  return driverError(error).code === '23503'
}

/** The name of the unique key that a statement ran against; undefined for other errors. */
export function violatedKey(error: unknown): string | undefined {
  const { code, constraint } = driverError(error)
  return code === '23505' ? (constraint ?? '') : undefined
}

function driverError(error: unknown): { code?: unknown; constraint?: string } {
  const own = (error ?? {}) as {
    code?: unknown
    constraint?: string
    driverError?: { code?: unknown; constraint?: string }
  }
  return own.driverError ?? own
}
