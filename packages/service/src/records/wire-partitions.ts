/** Wire entries lie in parts by their number, so that what has aged goes as a whole and the rest stays small enough to be looked through. */

/** Entries in one part. At two thousand messages a second, the parts ahead are enough for an hour and a half. */
export const WIRE_PART = 5_000_000
const AHEAD = 2
const REST = 'wire_entry_rest'

interface Asked {
  query: (sql: string, values?: unknown[]) => Promise<unknown>
}
const partName = (from: bigint) => `wire_entry_${from}`
const part = BigInt(WIRE_PART)

/**
 * Makes the parts for the entries that come next, and one for whatever should find none. Two processes may do so at once.
 * @param first the first number that no part holds yet, where there are none at all
 */
export async function makeWireParts(database: Asked, first?: bigint): Promise<void> {
  const [{ last }] = (await database.query(`select last_value::text as last from wire_entry_id`)) as [{ last: string }]
  const begin = first ?? (BigInt(last) / part) * part
  await database.query(`create table if not exists ${REST} partition of wire_entry default`)
  for (let from = begin; from <= BigInt(last) + part * BigInt(AHEAD); from = (from / part + 1n) * part)
    // One that another process makes in this moment, or that holds entries already, is there.
    await database.query(
      `do $$ begin
         create table if not exists ${partName(from)} partition of wire_entry for values from (${from}) to (${(from / part + 1n) * part});
       exception when duplicate_table or unique_violation or check_violation or invalid_object_definition then null; end $$`,
    )
}

/** Takes parts away whose last entry is older than `before`, with what explains their entries. @returns how many parts went */
export async function dropWireParts(database: Asked, before: Date): Promise<number> {
  const parts = (await database.query(
    `select c.relname as name from pg_inherits i join pg_class c on c.oid = i.inhrelid where i.inhparent = 'wire_entry'::regclass and c.relname <> $1`,
    [REST],
  )) as { name: string }[]
  let gone = 0
  for (const { name } of parts) {
    const [newest] = (await database.query(`select at from "${name}" order by id desc limit 1`)) as { at: Date }[]
    if (!newest || newest.at >= before) continue
    await database.query(`drop table if exists "${name}"`)
    gone++
  }
  await database.query(
    `delete from diagnosis d where not exists (select 1 from wire_entry w where w.id = d.wire_entry_id)`,
  )
  return gone
}
