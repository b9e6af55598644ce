import type { DataSource } from 'typeorm'

/** What grows without end, by the column that ages it. Deleted in slices, so that no lock is held for long. */
const AGEING = {
  nonce: 'expires_at',
  wire_entry: 'at',
  audit_entry: 'at',
  session: 'expires_at',
  password_miss: 'at',
  sign_in_place: 'last_at',
  invitation: 'expires_at',
  sign_in_link: 'expires_at',
  picking: 'made_at',
  sounding_picture: 'at',
  stranger_minute: 'minute',
  ration: 'ends_at',
  setup_code: 'created_at',
} as const
export type Ageing = keyof typeof AGEING

const SLICE = 5000
/** Where a row’s place is no name of it, because the table lies in parts. */
const KEYS: Partial<Record<Ageing, string>> = { wire_entry: 'id' }

/** Deletes rows older than `before`. @returns how many went. */
export async function expire(database: DataSource, table: Ageing, before: Date): Promise<number> {
  let total = 0
  for (;;) {
    const [, count] = await database.query<[unknown, number]>(
      `delete from ${table} where ${KEYS[table] ?? 'ctid'} = any(array(select ${KEYS[table] ?? 'ctid'} from ${table} where ${AGEING[table]} < $1 limit ${SLICE}))`,
      [before],
    )
    total += count
    if (count < SLICE) return total
  }
}

/** Deletes messages of strangers that are older than `before`. @returns how many went. */
export async function expireStrangers(database: DataSource, before: Date): Promise<number> {
  let total = 0
  for (;;) {
    const [, count] = await database.query<[unknown, number]>(
      `delete from wire_entry where id = any(array(select id from wire_entry where registration_id is null and direction = 'received' and outcome = 'refused'
         and assignment_id is null and person_id is null and at < $1 limit ${SLICE}))`,
      [before],
    )
    total += count
    if (count < SLICE) return total
  }
}
