import { createPrivateKey, randomBytes, sign } from 'node:crypto'
import { strToU8, zipSync } from 'fflate'
import { reconcile } from '@bathyscribe/core/reconciliation'
import pg from 'pg'
import { middle } from '../load/middle.js'
import type { Result, SceneOf13, Setting } from './bench.js'
import { load } from './loading.js'

const AGS_SCORE = 'https://purl.imsglobal.org/spec/lti-ags/scope/score'
const ROSTER = 'https://purl.imsglobal.org/spec/lti-nrps/scope/contextmembership.readonly'
const BURST = 5000

/** A service token, by an assertion signed with node's own crypto. */
export async function serviceToken(
  url: string,
  { clientId, kid, pem }: Pick<SceneOf13, 'clientId' | 'kid' | 'pem'>,
  scope: string,
): Promise<string> {
  const part = (value: object) => Buffer.from(JSON.stringify(value)).toString('base64url')
  const now = Math.floor(Date.now() / 1000)
  const claims = {
    iss: clientId,
    sub: clientId,
    aud: `${url}/lti/token`,
    iat: now,
    exp: now + 3000,
    jti: randomBytes(12).toString('hex'),
  }
  const signed = `${part({ alg: 'RS256', kid, typ: 'JWT' })}.${part(claims)}`
  const assertion = `${signed}.${sign('sha256', Buffer.from(signed), createPrivateKey(pem)).toString('base64url')}`
  const response = await fetch(`${url}/lti/token`, {
    method: 'POST',
    body: new URLSearchParams({
      grant_type: 'client_credentials',
      client_assertion_type: 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer',
      client_assertion: assertion,
      scope,
    }),
  })
  const { access_token: token } = (await response.json()) as { access_token?: string }
  if (!token) throw new Error('The bench was given no token.')
  return token
}

/** What the load of scores needs: a token, columns and subjects. */
interface ScoreTargets {
  bearer: string
  path: string
  subjects: string[]
}

export async function scoreTargets({ url, of13, databaseUrl }: Setting): Promise<ScoreTargets> {
  const bare = new pg.Client({ connectionString: databaseUrl })
  await bare.connect()
  try {
    const { rows } = await bare.query<{ subject: string }>(
      `select p.subject from enrolment e join person p on p.id = e.person_id join course c on c.id = e.course_id where c.code_key = 'BEN-100' and e.role = 'learner'`,
    )
    const { rows: courses } = await bare.query<{ id: string }>(`select id from course where code_key = 'BEN-100'`)
    return {
      bearer: await serviceToken(url, of13, AGS_SCORE),
      path: `/lti/courses/${courses[0]!.id}/lineitems/${of13.link}/scores`,
      subjects: rows.map((row) => row.subject),
    }
  } finally {
    await bare.end()
  }
}

/** Five thousand scores at once from one tool: all are taken, and the slowest hundredth is not far from the middle. */
export async function burstOf(url: string, targets: ScoreTargets) {
  const result = await load({ kind: 'ags', ...targets, target: url, amount: BURST, prepare: BURST })
  return { total: result.total, p99Ms: result.p99, p50Ms: result.p50, times: result.p99 / Math.max(1, result.p50) }
}

/** A roster of 5,000 in pages of 500, against the same rows bare; a test counts the queries. */
export async function memberships({ client, url, of13, databaseUrl, rounds, say }: Setting): Promise<Result> {
  const bare = new pg.Client({ connectionString: databaseUrl })
  await bare.connect()
  try {
    const { id: course } = await client.call('createCourse', { body: { code: 'MEM 100', title: 'Five thousand' } })
    const table = `username,course\n${Array.from({ length: 5000 }, (_, i) => `member-${i},MEM 100`).join('\n')}`
    await client.call('importRoster', { body: { fileName: 'bench', table, apply: true } })
    const tool = await client.call('showTool', { params: { tool: 'bench-1-3' } })
    await client.call('changeTool', {
      params: { tool: tool.id },
      body: { revision: tool.revision, scopes: [AGS_SCORE, ROSTER] },
    })
    await client.call('createAssignment', { params: { course }, body: { title: 'Here', tool: tool.slug, points: '1' } })
    const bearer = await serviceToken(url, of13, ROSTER)
    const readAll = async () => {
      let count = 0
      let next: string | undefined = `${url}/lti/courses/${course}/memberships?limit=500`
      while (next) {
        const response: Response = await fetch(next, { headers: { authorization: `Bearer ${bearer}` } })
        count += ((await response.json()) as { members: unknown[] }).members.length
        next = /<([^<>]+)>; rel="next"/.exec(response.headers.get('link') ?? '')?.[1]
      }
      if (count !== 5000) throw new Error(`${count} members were read.`)
    }
    const readBare = async () => {
      let after = ''
      for (let i = 0; i < 10; i++) {
        const { rows } = await bare.query<{ id: string }>(
          `select p.*, e.role from enrolment e join person p on p.id = e.person_id where e.course_id = $1 and e.person_id > $2 order by e.person_id limit 500`,
          [course, after],
        )
        after = rows.at(-1)!.id
        JSON.stringify(rows)
      }
    }
    await readAll()
    await readBare()
    const bares: number[] = []
    const subjects: number[] = []
    for (let round = 0; round < Math.max(5, rounds); round++) {
      let started = performance.now()
      await readBare()
      bares.push(performance.now() - started)
      started = performance.now()
      await readAll()
      subjects.push(performance.now() - started)
    }
    const [bareMs, readMs] = [middle(bares), middle(subjects)]
    say(`  memberships: bare ${bareMs.toFixed(0)} ms, subject ${readMs.toFixed(0)} ms`)
    return {
      name: 'memberships',
      ratio: bareMs / readMs,
      floor: 0,
      detail: { members: 5000, pages: 10, bareMs: Math.round(bareMs), readMs: Math.round(readMs) },
    }
  } finally {
    await bare.end()
  }
}

/** OneRoster of 50,000 enrolments, against a bare COPY of as many rows with the same keys and references. What the references alone cost is told, too. */
export async function rosterImport({ client, databaseUrl, rounds, say }: Setting): Promise<Result> {
  const bare = new pg.Client({ connectionString: databaseUrl })
  await bare.connect()
  const PEOPLE = 10_000
  const CLASSES = 50
  const EACH = 1000
  const users = [
    'sourcedId,status,dateLastModified,enabledUser,username,givenName,familyName,email',
    ...Array.from(
      { length: PEOPLE },
      (_, i) => `u${i},,,true,roster-${i},Given${i},Family${i},roster-${i}@bench.example`,
    ),
  ]
  const classes = [
    'sourcedId,status,dateLastModified,title,classCode',
    ...Array.from({ length: CLASSES }, (_, i) => `c${i},,,Class ${i},CLS ${i}`),
  ]
  const enrolments = [
    'sourcedId,status,dateLastModified,classSourcedId,schoolSourcedId,userSourcedId,role',
    ...Array.from(
      { length: CLASSES * EACH },
      (_, i) => `e${i},,,c${i % CLASSES},s,u${(Math.floor(i / CLASSES) * 7 + i) % PEOPLE},student`,
    ),
  ]
  const manifest =
    'propertyName,value\noneroster.version,1.2\nfile.users,bulk\nfile.classes,bulk\nfile.enrollments,bulk\n'
  const zip = Buffer.from(
    zipSync({
      'manifest.csv': strToU8(manifest),
      'users.csv': strToU8(users.join('\n')),
      'classes.csv': strToU8(classes.join('\n')),
      'enrollments.csv': strToU8(enrolments.join('\n')),
    }),
  ).toString('base64')
  try {
    // Courses and people first, so that what is measured is the enrolments, as in the nights of a term.
    await client.call('importRoster', { body: { fileName: 'bench', zip, apply: true } })
    const plains: number[] = []
    const kept: number[] = []
    const subjects: number[] = []
    for (let round = 0; round < Math.max(3, rounds); round++) {
      await bare.query(
        `delete from enrolment where course_id in (select id from course where code_key like 'CLS-%') and role = 'learner'`,
      )
      const started = performance.now()
      const done = await client.call('importRoster', { body: { fileName: 'bench', zip, apply: true } })
      subjects.push(performance.now() - started)
      if (round === 0) say(`  roster-import: ${done.added} enrolments`)
      const { rows } = await bare.query<Enrolled>(
        `select course_id, person_id, role, state, since from enrolment where course_id in (select id from course where code_key like 'CLS-%') and role = 'learner'`,
      )
      plains.push(await copyRows(bare, rows, ''))
      kept.push(await copyRows(bare, rows, REFERENCES))
    }
    const [plainMs, keptMs, importMs] = [middle(plains), middle(kept), middle(subjects)]
    say(
      `  roster-import: COPY ${plainMs.toFixed(0)} ms, with references ${keptMs.toFixed(0)} ms, subject ${importMs.toFixed(0)} ms`,
    )
    return {
      name: 'roster-import',
      ratio: keptMs / importMs,
      floor: 0.3,
      detail: {
        enrolments: CLASSES * EACH,
        copyMs: Math.round(keptMs),
        copyWithoutReferencesMs: Math.round(plainMs),
        importMs: Math.round(importMs),
      },
    }
  } finally {
    await bare.end()
  }
}

interface Enrolled {
  course_id: string
  person_id: string
  role: string
  state: string
  since: Date
}
const REFERENCES = `alter table bare_enrolment add foreign key (course_id) references course on delete cascade, add foreign key (person_id) references person on delete cascade`
/** COPY into a table of the shape and keys of enrolments, written to the log as any other. @returns milliseconds */
async function copyRows(bare: pg.Client, rows: readonly Enrolled[], then: string): Promise<number> {
  await bare.query('create table bare_enrolment (like enrolment including all)')
  if (then) await bare.query(then)
  const text = rows
    .map((row) => [row.course_id, row.person_id, row.role, row.state, row.since.toISOString()].join('\t'))
    .join('\n')
  const started = performance.now()
  await copyIn(bare, 'bare_enrolment (course_id, person_id, role, state, since)', text)
  const took = performance.now() - started
  await bare.query('drop table bare_enrolment')
  return took
}

/** COPY by the protocol itself: node's driver has none of its own, but lets a query see what the server says. */
async function copyIn(client: pg.Client, table: string, text: string): Promise<void> {
  interface Connection {
    sendCopyFromChunk: (chunk: Buffer) => void
    endCopyFrom: () => void
  }
  const Plain = pg.Query as unknown as new (text: string) => { callback?: (error: Error | null) => void }
  const query = new (class extends Plain {
    handleCopyInResponse(connection: Connection): void {
      connection.sendCopyFromChunk(Buffer.from(`${text}\n`))
      connection.endCopyFrom()
    }
  })(`copy ${table} from stdin`)
  await new Promise<void>((resolve, reject) => {
    query.callback = (error) => (error ? reject(error) : resolve())
    client.query(query as unknown as pg.Query)
  })
}

/** A million lines of exports against as many results, in core, by one core of this machine. */
export function reconcileRows({ say }: Setting): Result {
  const SIZE = 50_000
  const people = Array.from({ length: SIZE }, (_, i) => ({
    id: `p${i}`,
    identifiers: [`learner-${i}`, `subject-${i}`],
    email: `learner-${i}@bench.example`,
    name: `Given${i} Family${i}`,
    points: String((i % 1000) / 10),
  }))
  const lines = people.map((one, i) => ({
    line: i + 2,
    identifier: i % 3 === 0 ? one.identifiers[0]! : '',
    email: i % 3 === 1 ? one.email : '',
    name: i % 3 === 2 ? `Family${i}, Given${i}` : '',
    score: String(((i + (i % 7 === 0 ? 1 : 0)) % 1000) / 10),
    maximum: i % 5 === 0 ? '100' : '',
  }))
  const options = { points: '100', maximum: null, decimals: 0 }
  reconcile(lines, people, options)
  const rates: number[] = []
  for (let round = 0; round < 5; round++) {
    const started = performance.now()
    reconcile(lines, people, options)
    rates.push((SIZE * 60_000) / (performance.now() - started))
  }
  const perMinute = middle(rates)
  say(`  reconcile: ${Math.round(perMinute).toLocaleString('en')} rows a minute`)
  return {
    name: 'reconcile',
    ratio: perMinute / 1_000_000,
    floor: 1,
    detail: { rows: SIZE, perMinute: Math.round(perMinute) },
  }
}
