import type { QueryRunner } from 'typeorm'
import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { oneOrAny, plannedOnce } from '../src/records/planned-once.js'
import { closeAfterwards } from './closing.js'
import { openRecords, startAcademy } from './harness.js'

/** One connection, as the records have them. */
let connection: QueryRunner
beforeAll(async () => {
  const database = await openRecords(await startAcademy())
  connection = database.createQueryRunner()
  await connection.connect()
  closeAfterwards(() => connection.release())
})
beforeEach(() => connection.query('deallocate all'))

const ask = (sql: string, values: unknown[] = []): Promise<Record<string, unknown>[]> => connection.query(sql, values)
const kept = async () =>
  (await ask(`select statement from pg_prepared_statements order by prepare_time`)).map((row) =>
    String(row['statement']),
  )

describe('a statement that is planned once', () => {
  it('is kept by its connection under one name, however often it is asked; another is not kept', async () => {
    const sql = plannedOnce('select $1::int * 2 as n')
    for (const n of [1, 2, 21]) expect(await ask(sql, [n])).toEqual([{ n: n * 2 }])
    await ask('select $1::int as n', [1])
    const all = await kept()
    expect(all.filter((one) => one.includes('* 2 as n'))).toHaveLength(1)
    expect(all.filter((one) => one === 'select $1::int as n')).toEqual([])
  })

  it('is planned a few times, and no more after that', async () => {
    const sql = plannedOnce('select username from person where id = $1')
    for (let n = 0; n < 12; n++) await ask(sql, [`nobody-${n}`])
    const [row] = await ask(
      `select generic_plans::int as generic, custom_plans::int as custom from pg_prepared_statements where statement like '%username from person%'`,
    )
    expect(row).toEqual({ generic: 7, custom: 5 })
  })

  it('never passes for another, though they differ by one character', async () => {
    expect(await ask(plannedOnce('select $1::int + 1 as n'), [1])).toEqual([{ n: 2 }])
    expect(await ask(plannedOnce('select $1::int + 2 as n'), [1])).toEqual([{ n: 3 }])
    expect(await ask(plannedOnce('select $1::int + 1 as n'), [1])).toEqual([{ n: 2 }])
  })

  it('that failed is asked again on the same connection, within a transaction that was rolled back and after it', async () => {
    const sql = plannedOnce('select 1 / $1::int as n')
    await connection.startTransaction()
    await expect(ask(sql, [0])).rejects.toThrow(/division by zero/)
    await connection.rollbackTransaction()
    expect(await ask(sql, [1])).toEqual([{ n: 1 }])
    await expect(ask(sql, [0])).rejects.toThrow(/division by zero/)
    expect(await ask(sql, [-1])).toEqual([{ n: -1 }])
  })

  it('goes on when its table gets a column and an index, as it does while an upgrade runs beside', async () => {
    const sql = plannedOnce('select count(*)::int as n from course where code_key = $1')
    for (let n = 0; n < 7; n++) expect(await ask(sql, ['HYD-210'])).toEqual([{ n: 1 }])
    await ask('alter table course add column later text')
    await ask('create index course_later on course (later)')
    expect(await ask(sql, ['HYD-210'])).toEqual([{ n: 1 }])
    await ask('alter table course drop column later')
    expect(await ask(sql, ['NAV-120'])).toEqual([{ n: 0 }])
  })

  it('takes what the driver takes: dates, lists, nothing', async () => {
    const at = new Date('2026-11-30T10:00:00Z')
    const sql = plannedOnce('select $1::timestamptz as at, $2::text[] as list, $3::text as none')
    expect(await ask(sql, [at, ['a', 'b,"c"'], null])).toEqual([{ at, list: ['a', 'b,"c"'], none: null }])
  })

  it.each([
    'select 1 where $1::text is null or true',
    'select 1 where ($1::text[] is null or $1 = $2)',
    'select 1 where $12 IS NULL OR true',
  ])('has no conditions that may be left out: %s', async (sql) => {
    await expect(() => connection.query(plannedOnce(sql), [])).rejects.toThrow(/planned each time/)
  })
})

describe('one or any', () => {
  const found = async (ids: string[]) => {
    const { which, ids: asked } = oneOrAny(ids)
    const rows = await ask(`select n from unnest('{a,b,c}'::text[]) n where n ${which} order by 1`, [asked])
    return rows.map((row) => row['n'])
  }

  it.each([[[]], [['a']], [['x']], [['a', 'c']], [['a', 'x', 'b']]])('finds %j as it is', async (ids) => {
    expect(await found(ids)).toEqual(ids.filter((one) => one !== 'x').sort())
  })

  it('looks for one by its key, and for several, or none, by a list', () => {
    expect(oneOrAny(['a'])).toEqual({ which: '= $1', ids: 'a' })
    expect(oneOrAny([])).toEqual({ which: '= any($1)', ids: [] })
    expect(oneOrAny(['a', 'b'])).toEqual({ which: '= any($1)', ids: ['a', 'b'] })
  })
})
