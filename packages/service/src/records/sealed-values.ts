import type { DataSource, EntityManager } from 'typeorm'
import { SEALED_FOR, type Sealed } from './key-mark.js'

/** Every column that holds what is sealed under the key file: how a row is found again, and what its value is bound to. */
export const SEALED_COLUMNS = [
  { table: 'registration', column: 'secret_sealed', id: 'id', about: 'id' },
  { table: 'other_secret', column: 'sealed', id: 'id', about: 'registration_id' },
  { table: 'platform_key', column: 'sealed', id: 'kid', about: `'${SEALED_FOR.platformKey}' || kid` },
  { table: 'records_office', column: 'secret_sealed', id: 'id', about: `'${SEALED_FOR.office}'` },
  { table: 'sign_in_link', column: 'code_sealed', id: 'person_id', about: `'${SEALED_FOR.signInLink}'` },
  { table: 'identity_provider', column: 'secret_sealed', id: 'id', about: `'${SEALED_FOR.identityProvider}' || id` },
  { table: 'session', column: 'id_token_sealed', id: 'id', about: `'${SEALED_FOR.idToken}'` },
] as const

export interface SealedValue extends Sealed {
  /** Of `table.column`, and of the row. */
  column: string
  id: string
}

/** Whatever is sealed, wherever it lies. */
export class SealedValues {
  constructor(private readonly manager: EntityManager) {}

  /** All of them: tools and keys are hundreds, sessions thousands, at an institution's size. */
  all(): Promise<SealedValue[]> {
    return this.manager.query<SealedValue[]>(
      SEALED_COLUMNS.map(
        ({ table, column, id, about }) =>
          `select '${table}.${column}' as column, ${id}::text as id, ${about} as about, ${column} as sealed from ${table} where ${column} is not null`,
      ).join(' union all '),
    )
  }

  /** @returns whether the value still was the one that was read; what somebody set meanwhile stays */
  async replace(value: SealedValue, sealed: Buffer): Promise<boolean> {
    const found = SEALED_COLUMNS.find((one) => `${one.table}.${one.column}` === value.column)!
    const [, count] = await this.manager.query<[unknown, number]>(
      `update ${found.table} set ${found.column} = $3 where ${found.id}::text = $1 and ${found.column} = $2`,
      [value.id, value.sealed, sealed],
    )
    return count === 1
  }
}

/** Does something that one program at a time may do, over all machines. @returns undefined when another one is at it */
export async function sealingAlone<T>(database: DataSource, work: () => Promise<T>): Promise<T | undefined> {
  const runner = database.createQueryRunner()
  try {
    const [lock] = (await runner.query(`select pg_try_advisory_lock(hashtext('bathyscribe reseal')) as mine`)) as [
      { mine: boolean },
    ]
    return lock.mine ? await work() : undefined
  } finally {
    await runner.query(`select pg_advisory_unlock_all()`).catch(() => undefined)
    await runner.release()
  }
}
