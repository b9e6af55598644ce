import { spawn, spawnSync, type ChildProcess } from 'node:child_process'
import { generateKeyPairSync, randomUUID } from 'node:crypto'
import { openSync, readFileSync } from 'node:fs'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { join } from 'node:path'
import { SignJWT } from 'jose'
import pg from 'pg'
import { createClient } from '@bathyscribe/contract'
import { signIn } from '../academy/browserless.js'
import { freePort } from '../machine/ports.js'
import { removePostgres, startPostgres } from '../machine/postgres.js'
import { setupCodeOf } from '../machine/stack.js'
import { CLI, ROOT, Stop, type Say } from '../machine/place.js'

const AGS = 'https://purl.imsglobal.org/spec/lti-ags/scope/'
const PASSWORD = 'a-password-for-the-kill'
const COLUMNS = 10

/** Of one kill: how many scores were answered in all and before it, which of those were lost, and which are kept twice. */
export interface Killed {
  answered: number
  before: number
  lost: number
  twice: number
}

interface Wanted {
  folder: string
  times: number
  scores: number
  connections: number
  say: Say
}

/** Bursts of scores with the service killed in the middle: what was answered 2xx has to be in the trail, and nothing twice. */
export async function runKillTest({ folder, times, scores, connections, say }: Wanted): Promise<Killed[]> {
  const postgres = await startPostgres(join(folder, 'postgres'), { settings: {} })
  const port = await freePort()
  const url = `http://localhost:${port}`
  const env = {
    ...process.env,
    BATHYSCRIBE_PUBLIC_URL: url,
    BATHYSCRIBE_HOST: '127.0.0.1',
    BATHYSCRIBE_PORT: String(port),
    BATHYSCRIBE_DATABASE_URL: postgres.url,
    BATHYSCRIBE_KEY_FILE: join(folder, 'keys.json'),
    BATHYSCRIBE_OUTGOING_ALLOW: '127.0.0.0/8,::1/128',
    BATHYSCRIBE_LOG_LEVEL: 'warn',
  }
  const migrated = spawnSync(process.execPath, [CLI, 'service', 'migrate', '--quiet'], { env, encoding: 'utf8' })
  if (migrated.status !== 0) throw new Stop(migrated.stderr)
  const log = join(folder, 'service.log')
  let service: ChildProcess | undefined
  const start = async () => {
    const out = openSync(log, 'a')
    service = spawn(process.execPath, [CLI, 'service', 'run'], { env, cwd: ROOT, stdio: ['ignore', out, out] })
    for (let i = 0; i < 300; i++) {
      if (await ok(`${url}/readyz`)) return
      await wait(100)
    }
    throw new Stop(`The service did not start: ${readFileSync(log, 'utf8').slice(-2000)}`)
  }
  const pool = new pg.Pool({ connectionString: postgres.url, max: 2 })
  pool.on('error', () => undefined)
  const tool = await toolOfOurs()
  try {
    await start()
    const scene = await setTheScene(url, folder, tool, scores)
    const rounds = []
    for (let round = 0; round < times; round++) {
      const result = await burst({
        url,
        scene,
        tool,
        scores,
        connections,
        pool,
        kill: () => service?.kill('SIGKILL'),
        ended: () => service === undefined || service.exitCode !== null || service.signalCode !== null,
        start,
      })
      rounds.push(result)
      say(
        `  kill ${round + 1}: ${result.before} answered before it, ${result.answered} in all, ${result.lost} lost, ${result.twice} twice`,
      )
    }
    return rounds
  } finally {
    tool.stop()
    await pool.end()
    service?.kill('SIGKILL')
    await wait(300)
    removePostgres(join(folder, 'postgres'))
  }
}

/** Sends one score for everybody in every column; the service is killed somewhere on the way, and what was not answered is sent again. */
interface Burst {
  url: string
  scene: Scene
  tool: Tool
  scores: number
  connections: number
  pool: pg.Pool
  kill: () => void
  ended: () => boolean
  start: () => Promise<void>
}
interface Job {
  column: string
  person: string
  given: number
  timestamp: string
}

async function burst({ url, scene, tool, scores, connections, pool, kill, ended, start }: Burst): Promise<Killed> {
  const { rows: last } = await pool.query<{ id: string }>('select coalesce(max(id), 0) as id from score')
  const jobs: Job[] = Array.from({ length: scores }, (_, i) => ({
    column: scene.columns[i % COLUMNS]!,
    person: scene.subjects[Math.floor(i / COLUMNS)]!,
    given: (i % 97) / 97,
    timestamp: new Date(Date.now() + i).toISOString(),
  }))
  const killAt = Math.floor(scores * (0.15 + 0.6 * Math.random()))
  const answered: Job[] = []
  let bearer = await tool.token(url)
  let killed = false
  const send = async (queue: Job[]) => {
    for (let job = queue.shift(); job; job = queue.shift()) {
      const status = await post(url, scene, bearer, job)
      if (status >= 200 && status < 300) answered.push(job)
      else if (status === 0) again.push(job)
      // A score whose answer was lost may have been kept: sent again it is not newer, which is what it has to be told.
      else if (status !== 409) throw new Stop(`A score was refused: ${status}`)
      if (!killed && answered.length >= killAt) {
        killed = true
        kill()
      }
    }
  }
  const again: Job[] = []
  const all = [...jobs]
  await Promise.all(Array.from({ length: connections }, () => send(all)))
  const beforeKill = answered.length
  while (!ended()) await wait(20)
  await start()
  bearer = await tool.token(url)
  const rest = again.splice(0)
  await Promise.all(Array.from({ length: connections }, () => send(rest)))
  const { rows } = await pool.query<{ key: string; n: number }>(
    `select s.assignment_id || ' ' || p.subject || ' ' || to_char(s.sent_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') as key, count(*)::int as n
     from score s join person p on p.id = s.person_id where s.id > $1 group by 1`,
    [last[0]!.id],
  )
  const kept = new Map(rows.map((row) => [row.key, row.n]))
  const keyOf = (job: Job) => `${job.column} ${job.person} ${job.timestamp}`
  return {
    answered: answered.length,
    before: beforeKill,
    lost: answered.filter((job) => !kept.has(keyOf(job))).length + again.length,
    twice: rows.filter((row) => row.n > 1).length,
  }
}

async function post(url: string, { course }: Scene, bearer: string, job: Job): Promise<number> {
  try {
    const response = await fetch(`${url}/lti/courses/${course}/lineitems/${job.column}/scores`, {
      method: 'POST',
      headers: { 'content-type': 'application/vnd.ims.lis.v1.score+json', authorization: `Bearer ${bearer}` },
      body: JSON.stringify({
        userId: job.person,
        timestamp: job.timestamp,
        activityProgress: 'Completed',
        gradingProgress: 'FullyGraded',
        scoreGiven: job.given,
        scoreMaximum: 1,
      }),
    })
    await response.arrayBuffer()
    // Going down it may still say so: nothing is kept then.
    return response.status >= 500 ? 0 : response.status
  } catch {
    return 0
  }
}

/** A course of as many learners as it takes, with ten columns. */
interface Scene {
  course: string
  columns: string[]
  subjects: string[]
}

async function setTheScene(url: string, folder: string, tool: Tool, scores: number): Promise<Scene> {
  const code = setupCodeOf(folder)
  await createClient({ baseUrl: url, headers: () => ({}) }).call('setUp', {
    body: { code, username: 'ingrid', fullName: 'Ingrid', password: PASSWORD },
  })
  const { client } = await signIn(url, 'ingrid', PASSWORD)
  const { id: course } = await client.call('createCourse', { body: { code: 'KIL 100', title: 'Kill' } })
  const registered = await client.call('registerTool', {
    body: {
      name: 'Burst',
      version: '1.3',
      launchUrl: `${tool.origin}/target`,
      initiationUrl: `${tool.origin}/login`,
      redirectUris: [`${tool.origin}/launch`],
      keysetUrl: `${tool.origin}/keyset`,
      scopes: [`${AGS}score`],
      disclosure: 'opaque',
    },
  })
  tool.clientId = registered.clientId ?? ''
  const people = Math.ceil(scores / COLUMNS)
  const table = `username,course\n${Array.from({ length: people }, (_, i) => `learner-${i},KIL 100`).join('\n')}`
  await client.call('importRoster', { body: { fileName: 'kill', table, apply: true } })
  const columns: string[] = []
  for (let i = 0; i < COLUMNS; i++) {
    const body = { title: `Column ${i}`, tool: registered.slug, points: '10', publish: true }
    columns.push((await client.call('createAssignment', { params: { course: 'KIL-100' }, body })).id)
  }
  const subjects = await tool.subjects(url, course)
  return { course, columns, subjects }
}

/** A tool's end: a keyset, and tokens by jose. */
interface Tool {
  origin: string
  clientId: string
  /** Asked for in place of the scope of scores. */
  scopes?: string | undefined
  stop: () => void
  token: (url: string) => Promise<string>
  /** Of the learners of a course, as the tool is told them. */
  subjects: (url: string, course: string) => Promise<string[]>
}

async function toolOfOurs(): Promise<Tool> {
  const { privateKey, publicKey } = generateKeyPairSync('rsa', { modulusLength: 2048 })
  const keyset = createServer((_, response) =>
    response.end(
      JSON.stringify({ keys: [{ ...publicKey.export({ format: 'jwk' }), kid: 'kill', alg: 'RS256', use: 'sig' }] }),
    ),
  )
  await new Promise<void>((resolve) => keyset.listen(0, '127.0.0.1', resolve))
  const tool: Tool = {
    origin: `http://127.0.0.1:${(keyset.address() as AddressInfo).port}`,
    clientId: '',
    stop: () => keyset.close(),
    async token(url) {
      const assertion = await new SignJWT({})
        .setProtectedHeader({ alg: 'RS256', kid: 'kill' })
        .setIssuer(tool.clientId)
        .setSubject(tool.clientId)
        .setAudience(`${url}/lti/token`)
        .setIssuedAt()
        .setExpirationTime('5m')
        .setJti(randomUUID())
        .sign(privateKey)
      const response = await fetch(`${url}/lti/token`, {
        method: 'POST',
        body: new URLSearchParams({
          grant_type: 'client_credentials',
          client_assertion_type: 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer',
          client_assertion: assertion,
          scope: tool.scopes ?? `${AGS}score`,
        }),
      })
      const body = (await response.json()) as { access_token?: string }
      if (!body.access_token) throw new Stop(`No token: ${JSON.stringify(body)}`)
      return body.access_token
    },
    /** Subjects as the roster service gives them out; the scope for it is granted for this one call. */
    async subjects(url, course) {
      const { client } = await signIn(url, 'ingrid', PASSWORD)
      const roster = 'https://purl.imsglobal.org/spec/lti-nrps/scope/contextmembership.readonly'
      const now = await client.call('showTool', { params: { tool: 'burst' } })
      await client.call('changeTool', {
        params: { tool: 'burst' },
        body: { revision: now.revision, scopes: [`${AGS}score`, roster] },
      })
      tool.scopes = roster
      const bearer = await tool.token(url)
      tool.scopes = undefined
      const all: string[] = []
      let next: string | undefined = `${url}/lti/courses/${course}/memberships?role=Learner`
      while (next) {
        const response: Response = await fetch(next, { headers: { authorization: `Bearer ${bearer}` } })
        const { members } = (await response.json()) as { members: { user_id: string }[] }
        all.push(...members.map((one) => one.user_id))
        next = /<([^<>]+)>; rel="next"/.exec(response.headers.get('link') ?? '')?.[1]
      }
      return all
    },
  }
  return tool
}

async function ok(address: string): Promise<boolean> {
  try {
    return (await fetch(address, { signal: AbortSignal.timeout(1000) })).ok
  } catch {
    return false
  }
}

const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
