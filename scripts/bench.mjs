// npm run bench [-- NAME…] [--json]: what a request costs against the least that it must, and against a bare baseline, measured in the same run, in turns, medians reported.
import { fork } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { availableParallelism } from 'node:os'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { prepare, RUN, Stop } from './lib/prepare.mjs'

/** What the load needs of the tool of LTI 1.3. */
const tokensOf13 = ({ url, of13: { clientId, redirectUri, scope, kid, pem } }) => ({
  url, clientId, redirectUri, scope, kid, pem,
}) // oxfmt-ignore

const { values: options, positionals } = parseArgs({
  allowPositionals: true,
  options: {
    json: { type: 'boolean' },
    seconds: { type: 'string', default: '5' },
    rounds: { type: 'string', default: '3' },
  },
})
const SECONDS = Number(options.seconds)
const ROUNDS = Number(options.rounds)
const CONNECTIONS = 32
/** By so much a request may cost more than the least that it must. */
const OVER_LIMIT = 1.3
const LEARNERS = 200
const MEMORY_LIMIT_MB = 300
const FOLDER = join(RUN, `bench-${process.pid}`)
let bareRs256, catalogueSearch, sceneOf13, stopScene, content, scores, diagnosis, soundings, large
const say = (line) => process.stderr.write(`${line}\n`)

const BENCHES = {
  outcomes: (setting) =>
    compare('outcomes', setting, {
      kind: 'outcomes',
      path: '/lti/outcomes',
      expect: '>success<',
      prepare: 12_000,
      ...setting.signing,
    }),
  'launch-1.1': (setting) =>
    compare('launch-1.1', setting, {
      kind: 'launch',
      path: `/lti/launch/${setting.assignment}?target=frame`,
      cookies: setting.cookies,
      expect: 'oauth_signature',
      prepare: 0,
    }),
  'launch-1.3': (setting) =>
    compareRs256('launch-1.3', setting, {
      kind: 'launch13',
      path: `/lti/launch/${setting.of13.link}?target=frame`,
      cookies: setting.cookies,
      perSubject: 2,
      ...tokensOf13(setting),
    }),
  'service-token': (setting) =>
    compareRs256('service-token', setting, {
      kind: 'token13',
      path: '/lti/token',
      verifies: true,
      expect: 'access_token',
      prepare: 1200 * SECONDS,
      ...tokensOf13(setting),
    }),
  'catalogue-search': ({ databaseUrl }) => catalogueSearch({ databaseUrl, rounds: ROUNDS, say }),
  'bulk-assignments': ({ client, databaseUrl }) =>
    content.bulkAssignments({ client, databaseUrl, rounds: ROUNDS, say }),
  outline: ({ client, url }) => content.outline({ client, url, rounds: ROUNDS, say }),
  preflight: () => content.preflightRules({ say }),
  'ags-score': async (setting) => {
    const target = await scores.scoreTargets(setting)
    const job = { kind: 'ags', path: target.path, bearer: target.bearer, subjects: target.subjects, prepare: 20_000 }
    const result = await compare('ags-score', setting, job)
    const burst = await scores.burstOf({ url: setting.url, ...target }, load)
    say(`  ags-score: burst of ${burst.total}, 99th percentile ${burst.p99Ms} ms, median ${burst.p50Ms} ms`)
    // The worse of two: what it costs, and a burst whose slowest hundredth stays under twenty times its middle.
    return { ...result, ratio: burst.times < 20 ? result.ratio : 0, detail: { ...result.detail, burst } }
  },
  'gradebook-read': ({ client, url, databaseUrl }) =>
    scores.gradebookRead({ client, url, databaseUrl, rounds: ROUNDS, say }),
  memberships: ({ client, url, of13, databaseUrl }) =>
    scores.memberships({ client, url, of13, databaseUrl, rounds: ROUNDS, say }),
  'roster-import': ({ client, databaseUrl }) => scores.rosterImport({ client, databaseUrl, rounds: ROUNDS, say }),
  reconcile: () => scores.reconcileRows({ say }),
  diagnosis: () => diagnosis.diagnosisOf({ say }),
  sweep: (setting) => soundings.sweepOf(setting, { seconds: SECONDS, say }),
  'beside-slow-reads': (setting) => large.besideSlowReads({ ...setting, seconds: SECONDS, say }),
  'browser-follower': (setting) => soundings.browserFollower(setting, { say }),
  memory,
}

try {
  const names = positionals.length > 0 ? positionals : Object.keys(BENCHES)
  const unknown = names.filter((name) => !(name in BENCHES))
  if (unknown.length > 0)
    throw new Stop(`There is no benchmark “${unknown.join('”, “')}”. There are: ${Object.keys(BENCHES).join(', ')}.`)
  prepare({ say, browser: ['outline', 'gradebook-read', 'browser-follower'].some((name) => names.includes(name)) })
  ;({ bareRs256, catalogueSearch, sceneOf13 } = await import('./lib/bench-13.mjs'))
  content = await import('./lib/bench-content.mjs')
  scores = await import('./lib/bench-scores.mjs')
  diagnosis = await import('./lib/bench-diagnosis.mjs')
  soundings = await import('./lib/bench-sweep.mjs')
  large = await import('./lib/bench-large.mjs')
  await run(names)
} catch (error) {
  if (!(error instanceof Stop)) throw error
  say(error.message)
  process.exitCode = 2
}

async function run(names) {
  const { startStack, stopStack } = await import('./lib/stack.mjs')
  const { freePort } = await import('./lib/ports.mjs')
  const { startPostgres } = await import('./lib/postgres.mjs')
  const running = await startStack({ folder: FOLDER, servicePort: 0, toolsPort: 0 })
  const barePort = await freePort()
  const { url: databaseUrl, folder: postgresFolder } = await startPostgres(join(FOLDER, 'postgres'))
  const bare = fork(new URL('./lib/bare.mjs', import.meta.url), {
    env: { ...process.env, BARE_DATABASE_URL: databaseUrl, BARE_PORT: String(barePort) },
  })
  let limit
  try {
    await new Promise((resolve) => bare.once('message', resolve))
    const scene = await setTheScene(running)
    const limitPort = await freePort()
    const settings = {
      databaseUrl,
      databaseSchema: 'public',
      keyFile: join(FOLDER, 'keys.json'),
      publicUrl: running.url,
      port: limitPort,
    }
    limit = fork(new URL('../packages/yard/dist/benches/run-limit.js', import.meta.url), {
      env: { ...process.env, LIMIT_SETTINGS: JSON.stringify(settings) },
    })
    await new Promise((resolve) => limit.once('message', resolve))
    const setting = {
      ...running,
      databaseUrl,
      bareUrl: `http://127.0.0.1:${barePort}`,
      limitUrl: `http://127.0.0.1:${limitPort}`,
      accounts: {
        server: { bare: bare.pid, limit: limit.pid, subject: running.pids[0] },
        database: Number(readFileSync(join(postgresFolder, 'data/postmaster.pid'), 'utf8').split('\n')[0]),
      },
      ...scene,
    }
    const results = []
    for (const name of names) results.push(await BENCHES[name](setting))
    if (options.json) console.log(JSON.stringify(results))
    else
      for (const { name, ratio, floor, detail } of results)
        console.log(
          `${ratio >= floor ? '●' : '✕'} ${name}: ${ratio.toFixed(2)} (floor ${floor}) ${JSON.stringify(detail)}`,
        )
    if (results.some(({ ratio, floor }) => ratio < floor)) process.exitCode = 1
  } finally {
    bare.kill()
    limit?.kill()
    stopScene?.()
    await stopStack(FOLDER, { remove: true })
  }
}

/** A course of 200 learners with one assignment; twenty of them signed in. */
async function setTheScene({ url, knotwork }) {
  const { setupCodeOf } = await import('./lib/stack.mjs')
  const { signIn } = await import('./lib/browserless.mjs')
  const { createClient } = await import('@bathyscribe/contract')
  const password = 'a-password-for-the-bench'
  await createClient({ baseUrl: url, headers: () => ({}) }).call('setUp', {
    body: { code: setupCodeOf(FOLDER), username: 'ingrid', fullName: 'Ingrid', password },
  })
  const { client } = await signIn(url, 'ingrid', password)
  const signing = { key: 'bench', secret: 'secret-of-the-bench' }
  await client.call('createCourse', { body: { code: 'BEN 100', title: 'Bench' } })
  await client.call('registerTool', {
    body: {
      name: 'Bench',
      consumerKey: signing.key,
      sharedSecret: signing.secret,
      launchUrl: `${knotwork}/launch`,
      disclosure: 'name',
    },
  })
  const { id: assignment } = await client.call('createAssignment', {
    params: { course: 'BEN-100' },
    body: { title: 'Bench', tool: 'bench', points: '100', publish: true },
  })
  const learners = []
  for (let i = 0; i < LEARNERS; i++) {
    const { id } = await client.call('createPerson', {
      body: { username: `learner-${i}`, fullName: `Learner ${i}`, ...(i < 20 && { password }) },
    })
    await client.call('enrol', { params: { course: 'BEN-100' }, body: { person: id, role: 'learner' } })
    learners.push(id)
  }
  const cookies = []
  for (let i = 0; i < 20; i++) cookies.push(await cookieOf(url, `learner-${i}`, password))
  const of13 = await sceneOf13(client)
  stopScene = of13.stop
  return {
    client,
    assignment,
    cookies,
    of13,
    signing: { ...signing, url, resultIds: await resultIdsOf(assignment, learners) },
  }
}

async function cookieOf(url, username, password) {
  const response = await fetch(`${url}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ username, password }),
  })
  return response.headers
    .getSetCookie()
    .find((one) => one.startsWith('bathyscribe_session='))
    .split(';')[0]
}

async function resultIdsOf(assignmentId, people) {
  const { writeResultId } = await import('@bathyscribe/core/lti1')
  const { readKeys } = await import('@bathyscribe/service/keys')
  const { resultIdKey } = readKeys(join(FOLDER, 'keys.json'))
  return people.map((personId) => writeResultId(resultIdKey, { linkId: assignmentId, personId }))
}

/**
 * Bare, limit and subject in turns: how many requests a second each, and what a request costs in processor time of the server and of PostgreSQL. The ratio is of the costs, which
 * are steady where the machine is not: 1 where the service costs no more than the limit. `perSubject` requests make one of what is counted.
 */
async function inTurns(name, setting, { bare, job, perSubject = 1 }) {
  const { perRequest } = await import('@bathyscribe/yard/benches/processor-time')
  const { server: servers, database } = setting.accounts
  const turns = {
    bare,
    limit: (seconds) => load({ ...job, target: setting.limitUrl, seconds }),
    subject: (seconds) => load({ ...job, target: setting.url, seconds }),
  }
  const rows = { bare: [], limit: [], subject: [] }
  const measure = async (who, seconds) => {
    let result
    const used = await perRequest({ server: servers[who], database }, async () => {
      result = await turns[who](seconds)
      return result.total
    })
    const times = who === 'bare' ? 1 : perSubject
    // Bare RS256 is neither of them, and says itself what it used.
    const [server, records] =
      result.cpuUs === undefined ? [used.server * times, used.database * times] : [result.cpuUs, 0]
    return {
      perSecond: result.perSecond / times,
      p99: result.p99,
      server,
      records,
      us: server + records,
    }
  }
  for (const who of Object.keys(turns)) await measure(who, 2)
  for (let round = 1; round <= ROUNDS; round++) {
    for (const who of Object.keys(turns)) rows[who].push(await measure(who, SECONDS))
    const told = Object.keys(turns).map(
      (who) => `${who} ${Math.round(rows[who].at(-1).perSecond)}/s at ${rows[who].at(-1).us} µs`,
    )
    say(`  ${name}, round ${round}: ${told.join(', ')}`)
  }
  const middleOf = (who, what) => Math.round(median(rows[who].map((one) => one[what])))
  const each = (what) => Object.fromEntries(Object.keys(turns).map((who) => [who, middleOf(who, what)]))
  const cpuUs = each('us')
  const ratios = rows.subject.map((one, i) => rows.limit[i].us / one.us)
  return {
    name,
    ratio: cpuUs.limit / cpuUs.subject,
    floor: 1 / OVER_LIMIT,
    cpuUs,
    detail: {
      perSecond: each('perSecond'),
      serverUs: each('server'),
      databaseUs: each('records'),
      times: Number((cpuUs.subject / cpuUs.limit).toFixed(2)),
      spread: [Math.min(...ratios), Math.max(...ratios)].map((one) => Number(one.toFixed(2))),
      p99Ms: middleOf('subject', 'p99'),
      connections: CONNECTIONS,
    },
  }
}

/** Beside a bare route that does one upsert. */
function compare(name, setting, job) {
  const bareJob = { kind: 'bare', target: setting.bareUrl, expect: 'ok', prepare: 0 }
  return inTurns(name, setting, { bare: (seconds) => load({ ...bareJob, seconds }), job })
}

/** Beside bare RS256 by all cores of this machine. */
async function compareRs256(name, setting, { verifies = false, perSubject, ...job }) {
  const bare = async (seconds) => {
    const result = await bareRs256({ seconds, verifies })
    return { ...result, total: 1, cpuUs: Math.round((availableParallelism() * 1e6) / result.perSecond) }
  }
  const result = await inTurns(name, setting, { bare, job, perSubject })
  return { ...result, detail: { ...result.detail, keysetReads: setting.of13.keysetReads() } }
}

/** Resident memory of the service over 100,000 outcomes: its size at the end, and whether the last half still grew. */
async function memory(setting) {
  const job = {
    kind: 'outcomes',
    path: '/lti/outcomes',
    expect: '>success<',
    prepare: 0,
    ...setting.signing,
    target: setting.url,
  }
  const samples = []
  for (let i = 0; i < 10; i++) {
    await load({ ...job, amount: 10_000 })
    samples.push(residentMb(setting.pids[0]))
    say(`  memory after ${(i + 1) * 10_000} outcomes: ${samples.at(-1)} MB`)
  }
  const [middle, end] = [Math.max(...samples.slice(3, 6)), Math.max(...samples.slice(7))]
  const grows = end > middle * 1.1 + 5
  return { name: 'memory', ratio: grows ? 0 : MEMORY_LIMIT_MB / end, floor: 1, detail: { afterMb: samples, grows } }
}

function residentMb(pid) {
  return Math.round(Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))[1]) / 1024)
}

/** One job in a load process of its own. Everything must have come back good. */
function load(job) {
  return new Promise((resolve, reject) => {
    const child = fork(new URL('./lib/load.mjs', import.meta.url))
    child.once('message', (result) => {
      child.kill()
      if (result.wrong + result.non2xx + result.errors > 0)
        reject(new Stop(`The load did not come back good: ${JSON.stringify(result)}`))
      else resolve(result)
    })
    child.once('error', reject)
    child.send({ connections: CONNECTIONS, ...job })
  })
}

function median(values) {
  const sorted = [...values].sort((a, b) => a - b)
  return sorted[Math.floor(sorted.length / 2)]
}
