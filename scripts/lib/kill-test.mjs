// Bursts of scores with the service killed in the middle: what was answered 2xx has to be in the trail, and nothing twice.
import { spawnSync } from 'node:child_process'
import { generateKeyPairSync, randomUUID } from 'node:crypto'
import { createServer } from 'node:http'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { SignJWT } from 'jose'
import pg from 'pg'
import { createClient } from '@bathyscribe/contract'
import { signIn } from './browserless.mjs'
import { freePort } from './ports.mjs'
import { removePostgres, startPostgres } from './postgres.mjs'
import { ROOT, Stop } from './prepare.mjs'

const CLI = join(ROOT, 'packages/cli/bin/bathyscribe.js')
const AGS = 'https://purl.imsglobal.org/spec/lti-ags/scope/'
const PASSWORD = 'a-password-for-the-kill'
const COLUMNS = 10

/** @returns one result for each kill: how many scores were answered before and after it, lost, or kept twice */
export async function runKillTest({ folder, times, scores, connections, spawn, openSync, say }) {
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
  let service
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
    const scene = await setTheScene(url, log, tool, scores)
    const rounds = []
    for (let round = 0; round < times; round++) {
      const result = await burst({
        url,
        scene,
        tool,
        scores,
        connections,
        pool,
        kill: () => service.kill('SIGKILL'),
        ended: () => service.exitCode !== null || service.signalCode !== null,
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
async function burst({ url, scene, tool, scores, connections, pool, kill, ended, start }) {
  const [{ id: before }] = (await pool.query('select coalesce(max(id), 0) as id from score')).rows
  const jobs = Array.from({ length: scores }, (_, i) => ({
    column: scene.columns[i % COLUMNS],
    person: scene.subjects[Math.floor(i / COLUMNS)],
    given: (i % 97) / 97,
    timestamp: new Date(Date.now() + i).toISOString(),
  }))
  const killAt = Math.floor(scores * (0.15 + 0.6 * Math.random()))
  const answered = []
  let bearer = await tool.token(url)
  let killed = false
  const send = async (queue) => {
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
  const again = []
  const all = [...jobs]
  await Promise.all(Array.from({ length: connections }, () => send(all)))
  const beforeKill = answered.length
  while (!ended()) await wait(20)
  await start()
  bearer = await tool.token(url)
  const rest = again.splice(0)
  await Promise.all(Array.from({ length: connections }, () => send(rest)))
  const { rows } = await pool.query(
    `select s.assignment_id || ' ' || p.subject || ' ' || to_char(s.sent_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') as key, count(*)::int as n
     from score s join person p on p.id = s.person_id where s.id > $1 group by 1`,
    [before],
  )
  const kept = new Map(rows.map((row) => [row.key, row.n]))
  const keyOf = (job) => `${job.column} ${job.person} ${job.timestamp}`
  return {
    answered: answered.length,
    before: beforeKill,
    lost: answered.filter((job) => !kept.has(keyOf(job))).length + again.length,
    twice: rows.filter((row) => row.n > 1).length,
  }
}

async function post(url, { course }, bearer, job) {
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
async function setTheScene(url, log, tool, scores) {
  const code = [...readFileSync(log, 'utf8').matchAll(/enter the code (\S+)/g)].at(-1)?.[1]
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
  tool.clientId = registered.clientId
  const people = Math.ceil(scores / COLUMNS)
  const table = `username,course\n${Array.from({ length: people }, (_, i) => `learner-${i},KIL 100`).join('\n')}`
  await client.call('importRoster', { body: { fileName: 'kill', table, apply: true } })
  const columns = []
  for (let i = 0; i < COLUMNS; i++) {
    const body = { title: `Column ${i}`, tool: registered.slug, points: '10', publish: true }
    columns.push((await client.call('createAssignment', { params: { course: 'KIL-100' }, body })).id)
  }
  const subjects = await tool.subjects(url, course)
  return { course, columns, subjects }
}

/** A tool's end: a keyset, and tokens by jose. */
async function toolOfOurs() {
  const { privateKey, publicKey } = generateKeyPairSync('rsa', { modulusLength: 2048 })
  const keyset = createServer((_, response) =>
    response.end(
      JSON.stringify({ keys: [{ ...publicKey.export({ format: 'jwk' }), kid: 'kill', alg: 'RS256', use: 'sig' }] }),
    ),
  )
  await new Promise((resolve) => keyset.listen(0, '127.0.0.1', resolve))
  const tool = {
    origin: `http://127.0.0.1:${keyset.address().port}`,
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
      const body = await response.json()
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
      const all = []
      for (let next = `${url}/lti/courses/${course}/memberships?role=Learner`; next;) {
        const response = await fetch(next, { headers: { authorization: `Bearer ${bearer}` } })
        all.push(...(await response.json()).members.map((one) => one.user_id))
        next = /<([^<>]+)>; rel="next"/.exec(response.headers.get('link') ?? '')?.[1]
      }
      return all
    },
  }
  return tool
}

async function ok(address) {
  try {
    return (await fetch(address, { signal: AbortSignal.timeout(1000) })).ok
  } catch {
    return false
  }
}

const wait = (ms) => new Promise((resolve) => setTimeout(resolve, ms))
