import type { Client } from '@bathyscribe/contract'
import { preflight, PREFLIGHT_RULES, type PreflightFacts } from '@bathyscribe/core/checks'
import pg from 'pg'
import { openBrowser, signInBy } from '../machine/browser.js'
import { middle } from '../load/middle.js'
import type { Result, Setting } from './bench.js'

type Row = Record<string, unknown>
const ROWS = 500
const LEARNER_PASSWORD = 'a-password-for-the-bench'

async function courseOf(client: Client, code: string): Promise<string> {
  const { id } = await client.call('createCourse', { body: { code, title: `Bench ${code}`, categories: ['Drills'] } })
  return id
}

/** Five hundred rows of CSV with preflight through the API, against bare inserts of the same rows in one transaction. */
export async function bulkAssignments({ client, databaseUrl, rounds, say }: Setting): Promise<Result> {
  const bare = new pg.Client({ connectionString: databaseUrl })
  await bare.connect()
  const table = [
    'title,tool,points,category,unit,due,custom.part',
    ...Array.from({ length: ROWS }, (_, i) => `Drill ${i},bench,10,Drills,Unit ${i % 10},2027-01-01,part${i}`),
  ].join('\n')
  const bares: number[] = []
  const subjects: number[] = []
  try {
    for (let round = 0; round <= Math.max(5, rounds); round++) {
      const course = await courseOf(client, `BULK ${round}`)
      const started = performance.now()
      const { makes } = await client.call('makeTable', { params: { course }, body: { table } })
      const took = performance.now() - started
      if (makes !== ROWS) throw new Error(`${makes} of ${ROWS} rows were made.`)
      const bareMs = await bareInserts(bare, course)
      // The first round warms both up.
      if (round === 0) continue
      subjects.push(took)
      bares.push(bareMs)
      say(`  bulk-assignments, round ${round}: bare ${bareMs.toFixed(0)} ms, subject ${took.toFixed(0)} ms`)
    }
  } finally {
    await bare.end()
  }
  const [bareMs, tableMs] = [middle(bares), middle(subjects)]
  return {
    name: 'bulk-assignments',
    ratio: bareMs / tableMs,
    floor: 0.3,
    detail: { rows: ROWS, bareMs: Math.round(bareMs), tableMs: Math.round(tableMs) },
  }
}

/** The rows that the service has just written, once more, one statement a row. */
async function bareInserts(bare: pg.Client, course: string): Promise<number> {
  const { rows: assignments } = await bare.query<Row>('select * from assignment where course_id = $1', [course])
  const { rows: items } = await bare.query<Row>('select * from unit_item where course_id = $1', [course])
  await bare.query('delete from assignment where course_id = $1', [course])
  const insert = (name: string, table: string, row: Row) => {
    const columns = Object.keys(row)
    const values = columns.map((column) =>
      row[column] !== null && typeof row[column] === 'object' && !(row[column] instanceof Date)
        ? JSON.stringify(row[column])
        : row[column],
    )
    return bare.query({
      name,
      text: `insert into ${table} (${columns.join(', ')}) values (${columns.map((_, i) => `$${i + 1}`).join(', ')})`,
      values,
    })
  }
  const started = performance.now()
  await bare.query('begin')
  for (const row of assignments) await insert('bare-assignment', 'assignment', row)
  for (const row of items) await insert('bare-item', 'unit_item', row)
  await bare.query('commit')
  return performance.now() - started
}

/** How long until the outline page of a course can be used in Chromium: 300 items against 30. */
export async function outline({ client, url, rounds, say }: Setting): Promise<Result> {
  const courses = new Map<number, string>()
  for (const items of [30, 300]) {
    const course = await courseOf(client, `OUT ${items}`)
    courses.set(items, course)
    const rows = Array.from({ length: items }, (_, i) => `Item ${i},bench,10,Unit ${i % 10}`)
    await client.call('makeTable', {
      params: { course },
      body: { table: ['title,tool,points,unit', ...rows].join('\n') },
    })
  }
  const browser = await openBrowser()
  try {
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
    await signInBy(page, url, 'ingrid', LEARNER_PASSWORD)
    const timed = async (items: number) => {
      const started = performance.now()
      await page.goto(`${url}/courses/${courses.get(items)!}/outline`)
      await page.waitForFunction((n) => document.querySelectorAll('[data-outline] .unit-items li').length === n, items)
      // Interactive: a click on the last unit is answered.
      await page.getByRole('button', { name: 'What can be done with Unit 9' }).click()
      await page.getByRole('button', { name: 'Rename Unit 9' }).waitFor()
      return performance.now() - started
    }
    await timed(30)
    await timed(300)
    const few: number[] = []
    const many: number[] = []
    for (let round = 0; round < Math.max(5, rounds); round++) {
      few.push(await timed(30))
      many.push(await timed(300))
    }
    const [fewMs, manyMs] = [middle(few), middle(many)]
    say(`  outline: 30 items ${fewMs.toFixed(0)} ms, 300 items ${manyMs.toFixed(0)} ms`)
    return {
      name: 'outline',
      ratio: (2 * fewMs) / manyMs,
      floor: 1,
      detail: { fewMs: Math.round(fewMs), manyMs: Math.round(manyMs), times: manyMs / fewMs },
    }
  } finally {
    await browser.close()
  }
}

/** Preflight of a thousand assignments in core, by one core of this machine. */
export function preflightRules({ say }: Setting): Result {
  const facts = Array.from({ length: 1000 }, (_, i) => factsOf(i))
  const run = () => facts.reduce((sum, one) => sum + preflight(one).length, 0)
  run()
  const rates: number[] = []
  for (let round = 0; round < 7; round++) {
    const started = performance.now()
    run()
    rates.push((facts.length * PREFLIGHT_RULES.length * 1000) / (performance.now() - started))
  }
  const perSecond = middle(rates)
  say(`  preflight: ${Math.round(perSecond)} rules a second`)
  return {
    name: 'preflight',
    ratio: perSecond / 20_000,
    floor: 1,
    detail: { assignments: facts.length, rules: PREFLIGHT_RULES.length, perSecond: Math.round(perSecond) },
  }
}

function factsOf(i: number): PreflightFacts {
  const url = `https://tool.example/plot/set-${i}?edition=${i % 7}${i % 5 === 0 ? '&sid=q7ZkLm9xR2vT8bWc4' : ''}`
  return {
    now: new Date(),
    platformIsSecure: true,
    assignment: {
      title: `Set ${i}`, points: String(i % 20), counted: true, hasCategory: i % 3 > 0, published: i % 2 > 0, opensAt: null, dueAt: '2026-12-01T00:00:00.000Z', closesAt: null,
      documentTarget: 'frame', ownUrl: url, launchUrl: url, custom: { part: String(i) }, instructions: 'Plot it.', content: null, contentToolId: null,
    },
    unit: { title: 'Unit', published: i % 4 > 0 },
    course: { startsAt: null, endsAt: null, learners: 24 },
    audience: null,
    tool: {
      id: 't', name: 'Tool', state: 'enabled', version: '1.1', returnsScores: true, hasPicker: true, addresses: ['https://tool.example/launch'], framing: 'allowed', exactTitles: [],
      disclosure: 'name', asks: ['name'], firstEntry: 'none', used: true, menuLabel: null,
    },
    entered: true, sameTitle: 0, sameContent: [], lookAlike: null, toolColumns: [],
  } // oxfmt-ignore
}
