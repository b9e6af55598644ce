import type { Pool } from 'pg'
import { DataSource } from 'typeorm'
import type { Settings } from '../settings/settings.js'
import { AssignmentRecord, CategoryRecord, CourseRecord } from './entities/courses.js'
import { CourseFileRecord, PickingRecord, UnitItemRecord, UnitRecord } from './entities/content.js'
import { ApiTokenRecord, EnrolmentRecord, PersonRecord, SessionRecord } from './entities/people.js'
import { SoundingRecord } from './entities/soundings.js'
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
import { GuardedSignIn1777000000000 } from './migrations/14-guarded-sign-in.js'

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
]

type DatabaseSettings = Pick<Settings, 'databaseUrl' | 'databaseSchema' | 'databaseConnections'>

/** The connection to the records, not opened yet. */
export function createDatabase(settings: DatabaseSettings): DataSource {
  return new DataSource({
    type: 'postgres',
    url: settings.databaseUrl,
    poolSize: settings.databaseConnections,
    connectTimeoutMS: 5000,
    applicationName: 'bathyscribe',
    entities: [
      PersonRecord,
      SessionRecord,
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
      SoundingRecord,
    ],
    migrations: MIGRATIONS,
    migrationsTableName: 'migration',
    migrationsTransactionMode: 'all',
    installExtensions: false,
    extra: { options: `-c search_path=${settings.databaseSchema} -c TimeZone=UTC`, keepAlive: true },
    // A lost idle connection is replaced on next use; the request that meets it is answered 503 by the error handler.
    poolErrorHandler: () => undefined,
  })
}

/** The pool below TypeORM, for the few statements of the busiest paths, which are prepared by name. */
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
    if (/^(08|53|57P0)/.test(code) || SOCKET_CODES.has(code) || CONNECTION_LOST.test(at.message)) return true
    if (at instanceof AggregateError && at.errors.some(isUnavailable)) return true
  }
  return false
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
