import { connect, createServer, type AddressInfo } from 'node:net'
import { availableParallelism } from 'node:os'
import { pipeline } from 'node:stream'
import pg from 'pg'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { eventually } from '../../../test/eventually.js'
import { createDatabase, openDatabase, openMessagePool, poolOf } from '../src/records/database.js'
import { closeAfterwards } from './closing.js'
import {
  openForm,
  publishDrill,
  registerKnotwork,
  sendScore,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'

let academy: TestAcademy
let aino: Visitor
let other: pg.Client
const links: Record<string, { id: string; resultId: string }> = {}
beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  await academy.person('aino', { 'HYD-210': 'learner' })
  aino = await academy.signIn('aino')
  for (const title of ['Held', 'Free', 'Free too']) {
    const { id } = await publishDrill(academy, 'knotwork-drills', { title })
    links[title] = { id, resultId: (await openForm(aino, id)).fields['lis_result_sourcedid']! }
  }
  const { databaseUrl, databaseSchema } = academy.service.context.settings
  other = new pg.Client({ connectionString: databaseUrl, options: `-c search_path=${databaseSchema}` })
  await other.connect()
})
afterAll(() => other.end())

describe('connections of launches and scores', () => {
  it('are open before the first message comes, and stay so: to open one may take longer than a launch can wait', async () => {
    const fresh = await startAcademy()
    const { databaseUrl, databaseSchema, databaseConnections } = fresh.service.context.settings
    const [{ n }] = (await fresh.query<{ n: number }>(
      `select count(*)::int as n from pg_stat_activity where datname = current_database() and application_name = 'bathyscribe messages'`,
    )) as [{ n: number }]
    expect(n).toBe(6)
    const pool = await openMessagePool({ databaseUrl, databaseSchema, databaseConnections })
    expect(pool.options).toMatchObject({ idleTimeoutMillis: 0, max: 6 })
    expect(pool.idleCount).toBe(6)
    await pool.end()
    // The database of a busy machine, that lets one in after longer than a message may wait.
    const { hostname, port } = new URL(databaseUrl)
    const slow = createServer((socket) => {
      socket.on('error', () => undefined)
      setTimeout(() => {
        const onward = connect(Number(port), hostname)
        onward.on('error', () => undefined)
        pipeline(socket, onward, socket, () => undefined)
      }, 1_500)
    })
    await new Promise<void>((resolve) => slow.listen(0, '127.0.0.1', resolve))
    const through = new URL(databaseUrl)
    through.host = `127.0.0.1:${(slow.address() as AddressInfo).port}`
    const late = await openMessagePool({ databaseUrl: through.href, databaseSchema, databaseConnections })
    expect(late.idleCount).toBe(6)
    // What has to be opened in place of one that was lost, while somebody waits, may not take so long.
    const [lost, ...others] = await Promise.all(Array.from({ length: 6 }, () => late.connect()))
    lost!.release(true)
    await expect(late.connect()).rejects.toThrow(/timeout/)
    for (const one of others) one.release()
    await late.end()
    // The records are opened with patience, too; what is opened later on, while somebody waits, is not waited for so long.
    const database = createDatabase({ databaseUrl: through.href, databaseSchema, databaseConnections })
    const patienceMs = (database.options as { connectTimeoutMS: number }).connectTimeoutMS
    await openDatabase(database)
    const laterMs = poolOf(database).options.connectionTimeoutMillis!
    await database.destroy()
    expect(patienceMs).toBeGreaterThanOrEqual(4 * laterMs)
    expect(laterMs).toBeGreaterThan(1_500)
    slow.close()
    // Without a database a start says what is wrong by itself: nothing is thrown here.
    const nowhere = await openMessagePool({
      databaseUrl: 'postgres://x@127.0.0.1:1/x',
      databaseSchema,
      databaseConnections,
    })
    expect(nowhere.totalCount).toBe(0)
    await nowhere.end()
  })
})

let n = 0
const score = (title: string) => sendScore(academy, links[title]!.resultId, `0.${String(++n).padStart(4, '0')}1`)
const countOf = async (where: string) =>
  Number((await academy.query<{ n: string }>(`select count(*) as n from pg_stat_activity where ${where}`))[0]!.n)

describe('a row that somebody holds', () => {
  it('holds back the scores of its own link, which hear of it in time, and those of no other', async () => {
    await other.query('begin')
    await other.query('select 1 from assignment where id = $1 for update', [links['Held']!.id])
    try {
      const held: ReturnType<typeof score>[] = []
      for (let round = 0; round < 8; round++) {
        held.push(score('Held'))
        const [free, too, launch] = await Promise.all([
          score('Free'),
          score('Free too'),
          openForm(aino, links['Free']!.id),
        ])
        expect([free.codeMajor, too.codeMajor, launch.status]).toEqual(['success', 'success', 200])
      }
      for (const answer of await Promise.all(held)) expect(answer.status).toBe(503)
    } finally {
      await other.query('rollback')
    }
    await eventually(async () => expect((await score('Held')).codeMajor).toBe('success'))
  })
})

describe('a read that nobody waits for any more', () => {
  it('is stopped in PostgreSQL, too, and takes no other with it', async () => {
    const waiting = () =>
      countOf(`wait_event_type = 'Lock' and application_name = 'bathyscribe' and datname = current_database()`)
    await other.query('begin')
    await other.query('lock table category in access exclusive mode')
    try {
      const abort = new AbortController()
      const reads = [1, 2, 3].map(() =>
        academy.admin.send('/api/courses/HYD-210/assignments', { signal: abort.signal }).catch(() => undefined),
      )
      await eventually(async () => expect(await waiting()).toBe(3))
      const aborted = performance.now()
      abort.abort()
      await Promise.all(reads)
      await eventually(async () => expect(await waiting()).toBe(0))
      // Long before its own limit would have ended it.
      expect(performance.now() - aborted).toBeLessThan(15_000)
      expect((await academy.admin.send('/api/session')).status).toBe(200)
    } finally {
      await other.query('rollback')
    }
    expect((await academy.admin.send('/api/courses/HYD-210/assignments')).status).toBe(200)
  })
})

describe('records that can only be read', () => {
  it('are found out by the balancer, and messages hear “later” instead of our own fault', async () => {
    const name = new URL(academy.service.context.settings.databaseUrl).pathname.slice(1)
    // Connections keep the setting they began with, so they are ended, as by a standby that takes over.
    const become = async (readOnly: 'on' | 'off') => {
      await other.query(`alter database ${name} set default_transaction_read_only = ${readOnly}`)
      await other.query(
        `select pg_terminate_backend(pid) from pg_stat_activity where datname = $1 and application_name like 'bathyscribe%'`,
        [name],
      )
    }
    await become('on')
    try {
      await eventually(async () => expect((await academy.visitor().send('/readyz')).status).toBe(503))
      await eventually(async () => expect((await score('Free')).status).toBe(503))
      expect((await academy.visitor().send('/healthz')).status).toBe(200)
    } finally {
      await become('off')
    }
    await eventually(async () => expect((await academy.visitor().send('/readyz')).status).toBe(200))
    await eventually(async () => expect((await score('Free')).codeMajor).toBe('success'))
  })
})

describe('searches of the wire log', () => {
  const AT_ONCE = Math.max(1, Math.floor(availableParallelism() / 2))
  const WAITING = 20
  const search = () => {
    const abort = new AbortController()
    const one = { status: undefined as number | undefined, leave: () => abort.abort(), done: Promise.resolve() }
    one.done = academy.admin.send('/api/wire?search=nothing-like-it', { signal: abort.signal }).then(
      (answer) => void (one.status = answer.status),
      () => void (one.status = 0),
    )
    return one
  }
  const running = () => countOf(`state = 'active' and query ilike '%ilike%' and pid <> pg_backend_pid()`)

  it('take one processor and no more: no statement of the service is shared out among several', async () => {
    const database = await createDatabase(academy.service.context.settings).initialize()
    closeAfterwards(() => database.destroy())
    await database.transaction(async (own) => {
      // As if nothing were cheaper than to share a table out.
      for (const cost of ['parallel_setup_cost', 'parallel_tuple_cost', 'min_parallel_table_scan_size'])
        await own.query(`set local ${cost} = 0`)
      const plan = async () => JSON.stringify(await own.query('explain select count(*) from wire_entry where id > 0'))
      expect(await plan()).not.toContain('Parallel')
      await own.query('set local max_parallel_workers_per_gather = 2')
      expect(await plan()).toContain('Parallel')
    })
  })

  it('take turns: the others wait, who leaves makes room, and more than twenty are told to come later', async () => {
    await other.query('begin')
    await other.query('lock table wire_entry in access exclusive mode')
    const first = Array.from({ length: AT_ONCE }, search)
    await eventually(async () => expect(await running()).toBe(AT_ONCE))
    const more = Array.from({ length: WAITING + 5 }, search)
    const refused = () => more.filter((one) => one.status === 503)
    await eventually(() => expect(refused()).toHaveLength(5))
    const waiting = more.filter((one) => one.status === undefined)
    expect(waiting).toHaveLength(WAITING)
    expect(await running()).toBe(AT_ONCE)
    const [leaver, ...staying] = waiting
    leaver!.leave()
    // As soon as the service has seen that somebody left, another one waits instead: who comes after that one is refused, again and again, and it is not.
    let late = search()
    await eventually(async () => {
      for (let refusedAfter = 0; refusedAfter < 5;) {
        const after = search()
        await Promise.race([late.done, after.done])
        if (late.status === undefined) refusedAfter++
        else [late, refusedAfter] = [after, 0]
        expect(late.status).toBeUndefined()
      }
    })
    await other.query('rollback')
    await Promise.all([...first, ...staying, late].map((one) => one.done))
    expect([...first, ...staying, late].map((one) => one.status)).toEqual(Array(AT_ONCE + WAITING).fill(200))
    expect(await running()).toBe(0)
  })
})
