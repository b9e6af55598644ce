import { beforeAll, describe, expect, it } from 'vitest'
import { dropWireParts, makeWireParts, WIRE_PART } from '../src/records/wire-partitions.js'
import { publishDrill, registerKnotwork, startAcademy, type TestAcademy } from './harness.js'

let academy: TestAcademy
let assignment: string
beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  assignment = (await publishDrill(academy, 'knotwork-drills')).id
})

const records = { query: (sql: string, values?: unknown[]) => academy.query(sql, values) }
const parts = () =>
  academy
    .query<{ name: string }>(
      `select inhrelid::regclass::text as name from pg_inherits where inhparent = 'wire_entry'::regclass order by 1`,
    )
    .then((rows) => rows.map((row) => row.name))
const launch = async () =>
  (await academy.admin.client.call('tryLaunch', { params: { assignment }, body: { as: 'instructor' } })).wireEntryId
const list = () =>
  academy.admin.client.call('listWire', { query: { assignment } }).then(({ items }) => items.map((one) => one.id))
/** As if so many entries had been written. */
const goOnAt = (id: number) => academy.query(`select setval('wire_entry_id', $1)`, [id])

describe('the parts of the wire log', () => {
  it('are made ahead, by several at once, and take every entry', async () => {
    const before = await parts()
    expect(before.length).toBeGreaterThanOrEqual(3)
    await Promise.all([1, 2, 3].map(() => makeWireParts(records)))
    expect(await parts()).toEqual(before)
    const first = await launch()
    await goOnAt(WIRE_PART * 2 + 5)
    const later = await launch()
    await goOnAt(WIRE_PART * 40)
    const far = await launch()
    expect(await list()).toEqual([far, later, first])
  })

  it('go as a whole when the last of their entries has aged, and take nothing else with them', async () => {
    await academy.query(`update wire_entry set at = now() - interval '400 days' where id < $1`, [WIRE_PART * 2])
    const before = await parts()
    const stays = (await list()).filter((id) => Number(id) > WIRE_PART * 2)
    await academy.query(`insert into diagnosis (wire_entry_id, found) select id, '{}' from wire_entry order by id`)
    expect(await dropWireParts(records, new Date(Date.now() - 180 * 86_400_000))).toBe(1)
    expect((await parts()).length).toBe(before.length - 1)
    expect(await list()).toEqual(stays)
    const [{ n }] = (await academy.query<{ n: number }>(`select count(*)::int as n from diagnosis where wire_entry_id < $1`, [WIRE_PART])) as [{ n: number }] // oxfmt-ignore
    expect(n).toBe(0)
    await makeWireParts(records)
    const newest = await launch()
    expect(await list()).toContain(newest)
  })
})
