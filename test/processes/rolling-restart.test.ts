import { spawn, spawnSync, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { mkdirSync, openSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { join } from 'node:path'
import pg from 'pg'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { createClient } from '@bathyscribe/contract'
import { workload } from '@bathyscribe/yard/benches/large'
import { signIn } from '@bathyscribe/yard/academy/browserless'
import { freePort } from '@bathyscribe/yard/machine/ports'
import { removePostgres, startPostgres } from '@bathyscribe/yard/machine/postgres'
import { ROOT, RUN } from '@bathyscribe/yard/machine/place'
import { CLI } from '@bathyscribe/yard/machine/place'
import { eventually } from '../eventually.js'

const PROCESSES = 4
const LEARNERS = 12
/** Launches and scores together. */
const PER_SECOND = 20
const PASSWORD = 'lantern-and-lead-line'
const folder = join(RUN, `e2e-processes-${process.pid}`)
const signing = { key: 'of-the-processes', secret: 'halyard-3-bowline-7-fid', resultIds: [] as string[] }
const running: (ChildProcess | undefined)[] = []
let ports: number[]
let nginx: ChildProcess
let url: string
let database: pg.Pool
let work: Awaited<ReturnType<typeof workload>>

/** Starts one of the processes and waits until it can serve. @returns when it does */
async function start(i: number): Promise<void> {
  const log = openSync(join(folder, `service-${i}.log`), 'a')
  running[i] = spawn(process.execPath, [CLI, 'service', 'run'], {
    cwd: ROOT,
    stdio: ['ignore', log, log],
    env: environmentOf(i),
  })
  await eventually(async () => expect((await fetch(`http://127.0.0.1:${ports[i]}/readyz`)).status).toBe(200))
}
const environmentOf = (i: number) => ({
  ...process.env,
  BATHYSCRIBE_PUBLIC_URL: url,
  BATHYSCRIBE_PORT: String(ports[i]),
  BATHYSCRIBE_DATABASE_URL: databaseUrl,
  BATHYSCRIBE_KEY_FILE: join(folder, 'keys.json'),
  BATHYSCRIBE_TRUST_PROXY: '1',
  BATHYSCRIBE_BROWSER: 'none',
  BATHYSCRIBE_LOG_LEVEL: 'info',
})
let databaseUrl: string
function ended(child: ChildProcess): Promise<void> {
  return new Promise((resolve) => {
    if (child.exitCode !== null || child.signalCode !== null) return resolve()
    child.once('exit', () => resolve())
  })
}

/** The configuration of the documentation, with the ports of this machine, and without the certificate that it has not. */
function startNginx(port: number): ChildProcess {
  const sample = readFileSync(join(ROOT, 'docs/nginx-example.conf'), 'utf8')
  const here = sample
    .replace(/127\.0\.0\.1:808(\d)/g, (_, n: string) => `127.0.0.1:${ports[Number(n) - 1]}`)
    .replace('listen 443 ssl', `listen 127.0.0.1:${port}`)
    .replace(/ *ssl_certificate.*\n/g, '')
    .replace('$proxy_add_x_forwarded_for', '$remote_addr')
  const places = ['client_body', 'proxy', 'fastcgi', 'uwsgi', 'scgi'].map(
    (name) => `${name}_temp_path ${join(folder, name)};`,
  )
  const user = process.getuid?.() === 0 ? 'user root;' : ''
  writeFileSync(
    join(folder, 'nginx.conf'),
    `${user} pid ${join(folder, 'nginx.pid')}; error_log ${join(folder, 'nginx.log')}; events { worker_connections 512; } http { access_log off; ${places.join(' ')} ${here} }`,
  )
  return spawn('/usr/sbin/nginx', ['-c', join(folder, 'nginx.conf'), '-g', 'daemon off;'], { stdio: 'ignore' })
}

beforeAll(async () => {
  mkdirSync(folder, { recursive: true })
  const postgres = await startPostgres(join(folder, 'postgres'), { settings: { fsync: 'off', max_connections: '200' } })
  databaseUrl = postgres.url
  ports = []
  for (let i = 0; i < PROCESSES; i++) ports.push(await freePort())
  const port = await freePort()
  url = `http://localhost:${port}`
  const migrated = spawnSync(process.execPath, [CLI, 'service', 'migrate', '--quiet'], {
    env: environmentOf(0),
    encoding: 'utf8',
  })
  expect(migrated.status, migrated.stderr).toBe(0)
  for (let i = 0; i < PROCESSES; i++) await start(i)
  nginx = startNginx(port)
  await eventually(async () => expect((await fetch(`${url}/readyz`)).status).toBe(200))
  database = new pg.Pool({ connectionString: databaseUrl, max: 2 })
  database.on('error', () => undefined)
  work = await workload(await setTheScene())
})
afterAll(async () => {
  nginx?.kill('SIGQUIT')
  for (const one of running) one?.kill('SIGKILL')
  await Promise.all(running.map((one) => one && ended(one)))
  await database?.end()
  removePostgres(join(folder, 'postgres'))
  rmSync(folder, { recursive: true, force: true })
})

async function setTheScene() {
  // Each process that starts without an administrator prints a code; the last one holds.
  const logs = Array.from({ length: PROCESSES }, (_, i) => readFileSync(join(folder, `service-${i}.log`), 'utf8'))
  const codes = logs.flatMap((log) => [...log.matchAll(/enter the code (\S+)/g)].map(([, code]) => code!))
  await createClient({ baseUrl: url, headers: () => ({}) }).call('setUp', {
    body: { code: codes.at(-1)!, username: 'ingrid', fullName: 'Ingrid Valesdottir', password: PASSWORD },
  })
  const { client } = await signIn(url, 'ingrid', PASSWORD)
  await client.call('createCourse', { body: { code: 'HYD 210', title: 'Hydrographic Surveying' } })
  await client.call('registerTool', {
    body: {
      name: 'Knotwork Drills',
      consumerKey: signing.key,
      sharedSecret: signing.secret,
      launchUrl: 'http://127.0.0.1:9/launch',
    },
  })
  const { id: assignment } = await client.call('createAssignment', {
    params: { course: 'HYD-210' },
    body: { title: 'Bends', tool: 'knotwork-drills', points: '100', publish: true },
  })
  const cookies: string[] = []
  for (let i = 0; i < LEARNERS; i++) {
    await client.call('createPerson', {
      body: { username: `learner-${i}`, fullName: `Learner ${i}`, password: PASSWORD },
    })
    await client.call('enrol', { params: { course: 'HYD-210' }, body: { person: `learner-${i}`, role: 'learner' } })
    const signedIn = await fetch(`${url}/api/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ username: `learner-${i}`, password: PASSWORD }),
    })
    const cookie = signedIn.headers
      .getSetCookie()
      .find((one) => one.startsWith('bathyscribe_session='))!
      .split(';')[0]!
    const page = await (await fetch(`${url}/lti/launch/${assignment}?target=frame`, { headers: { cookie } })).text()
    signing.resultIds.push(/name="lis_result_sourcedid" value="([^"]*)"/.exec(page)![1]!.replaceAll('&quot;', '"'))
    cookies.push(cookie)
  }
  return { url, cookies, assignment, signing }
}

const accepted = async () =>
  Number((await database.query<{ n: string }>(`select count(*) as n from score where outcome = 'accepted'`)).rows[0]!.n)

describe('four processes behind nginx', () => {
  it('restarted one after the other under load refuse nothing, and each score is kept once', async () => {
    const before = await accepted()
    let busy = true
    const load = (async () => {
      const rounds: Awaited<ReturnType<typeof work>>[] = []
      while (busy) rounds.push(await work(2, PER_SECOND))
      return rounds
    })()
    const took: number[] = []
    for (let i = 0; i < PROCESSES; i++) {
      const child = running[i]!
      const begun = performance.now()
      child.kill('SIGTERM')
      await ended(child)
      took.push(performance.now() - begun)
      expect(child.exitCode, readFileSync(join(folder, `service-${i}.log`), 'utf8').slice(-1000)).toBe(0)
      await start(i)
    }
    busy = false
    const rounds = await load
    const sent = rounds.reduce((n, one) => n + one.sent, 0)
    expect(
      rounds.flatMap((one) => Object.entries(one.why)),
      readFileSync(join(folder, 'nginx.log'), 'utf8').slice(-2000),
    ).toEqual([])
    expect(sent).toBeGreaterThan(80)
    expect((await accepted()) - before).toBe(Math.floor(sent / 2))
    // Nothing holds a process up that has nothing to do any more.
    expect(Math.max(...took)).toBeLessThan(10_000)
  })

  it('one of which is killed lose nothing that was answered', async () => {
    const before = await accepted()
    const load = work(6, PER_SECOND)
    setTimeout(() => running[1]!.kill('SIGKILL'), 2000)
    const { sent, refused } = await load
    await start(1)
    const kept = (await accepted()) - before
    // What was not answered may have been kept all the same; what was answered is.
    expect(kept).toBeGreaterThanOrEqual(Math.floor(sent / 2) - refused)
    expect(kept).toBeLessThanOrEqual(Math.ceil(sent / 2))
    expect(refused).toBeLessThan(sent / 10)
  })

  // The moment in which a process closes its door cannot be hit on purpose; a door behind which nobody reads is the same to the proxy.
  it('hand what one of them cut off to the next if it is a message of a tool, and nothing else', async () => {
    running[3]!.kill('SIGTERM')
    await ended(running[3]!)
    let cutOff = 0
    const door = createServer((socket) => {
      socket.on('error', () => undefined)
      socket.once('data', () => {
        cutOff++
        socket.resetAndDestroy()
      })
    })
    await once(door.listen(ports[3], '127.0.0.1'), 'listening')
    /** @returns how many of eight the proxy gave up, and how many were cut off */
    const askEight = async (path: string, type: string) => {
      const before = cutOff
      const statuses: number[] = []
      while (statuses.length < 2 * PROCESSES)
        statuses.push(
          (await fetch(url + path, { method: 'POST', headers: { 'content-type': type }, body: '<a/>' })).status,
        )
      return { givenUp: statuses.filter((status) => status === 502).length, cutOff: cutOff - before }
    }
    try {
      for (const path of ['outcomes', 'token', 'authorize', 'picked/x', 'courses/HYD-210/lineitems/x/scores'])
        expect(await askEight(`/lti/${path}`, 'application/xml'), path).toEqual({ givenUp: 0, cutOff: 2 })
      for (const path of ['/lti/courses/HYD-210/lineitems', '/lti/register', '/api/session'])
        expect(await askEight(path, 'application/json'), path).toEqual({ givenUp: 2, cutOff: 2 })
    } finally {
      door.close()
      await once(door, 'close')
      await start(3)
    }
  })

  it('share sessions, limits and what is changed', async () => {
    const { client } = await signIn(`http://127.0.0.1:${ports[0]}`, 'ingrid', PASSWORD).catch(() =>
      signIn(url, 'ingrid', PASSWORD),
    )
    const { id } = await client.call('createToken', { body: { name: 'spare' } })
    const { token } = await client.call('createToken', { body: { name: 'asks' } })
    const asks = (i: number, path: string) =>
      fetch(`http://127.0.0.1:${ports[i]}${path}`, { headers: { authorization: `Bearer ${token}` } })
    for (let i = 0; i < PROCESSES; i++) expect((await asks(i, '/api/session')).status).toBe(200)
    await client.call('revokeToken', { params: { id } })
    const { items } = (await (await asks(2, '/api/courses')).json()) as { items: unknown[] }
    expect(items).toHaveLength(1)
  })
})
