import type { Client } from '@bathyscribe/contract'
import pg from 'pg'
import type { Page } from 'playwright-core'
import { middle } from '../load/middle.js'
import { openBrowser, signInBy } from '../machine/browser.js'
import type { Result, Setting } from './bench.js'

const PASSWORD = 'a-password-for-the-bench'

/** The gradebook of 500 by 60: through the API against the same rows bare, in Chromium against one of 50 by 10, and how it scrolls. */
export async function gradebookRead({ client, url, databaseUrl, rounds, say }: Setting): Promise<Result> {
  const bare = new pg.Client({ connectionString: databaseUrl })
  await bare.connect()
  const browser = await openBrowser()
  try {
    const large = await fillCourse(client, bare, 'GRA 500', 500, 60)
    const small = await fillCourse(client, bare, 'GRA 50', 50, 10)
    const turns = Math.max(5, rounds)
    const { bareMs, apiMs } = await readings(client, bare, large, turns)
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
    await signInBy(page, url, 'ingrid', PASSWORD)
    const { fewMs, manyMs, wholeMs } = await paintings(page, url, { small, large }, turns)
    const perSecond = await framesOf(page)
    say(
      `  gradebook-read: bare ${bareMs.toFixed(0)} ms, API ${apiMs.toFixed(0)} ms; first paint ${fewMs.toFixed(0)} and ${manyMs.toFixed(0)} ms, all learners after ${wholeMs.toFixed(0)} ms; ${perSecond.toFixed(0)} frames a second`,
    )
    return {
      name: 'gradebook-read',
      // The worst of three: three times the bare reading, twice the small one's paint, fifty frames a second.
      ratio: Math.min((3 * bareMs) / apiMs, (2 * fewMs) / manyMs, perSecond / 50),
      floor: 1,
      detail: {
        bareMs: Math.round(bareMs),
        apiMs: Math.round(apiMs),
        apiTimes: apiMs / bareMs,
        paintFewMs: Math.round(fewMs),
        paintManyMs: Math.round(manyMs),
        paintTimes: manyMs / fewMs,
        wholeMs: Math.round(wholeMs),
        framesPerSecond: Math.round(perSecond),
      },
    }
  } finally {
    await browser.close()
    await bare.end()
  }
}

/** Milliseconds of reading the large one, bare and by the API, in turns. */
async function readings(client: Client, bare: pg.Client, course: string, turns: number) {
  const readBare = async () => {
    await bare.query(`select * from assignment where course_id = $1`, [course])
    await bare.query(`select p.* from enrolment e join person p on p.id = e.person_id where e.course_id = $1`, [course])
    const { rows } = await bare.query(
      `select r.* from result r join assignment a on a.id = r.assignment_id where a.course_id = $1`,
      [course],
    )
    JSON.parse(JSON.stringify(rows))
  }
  const readApi = () => client.call('showGradebook', { params: { course } })
  const timed = async (read: () => Promise<unknown>) => {
    const started = performance.now()
    await read()
    return performance.now() - started
  }
  await readBare()
  await readApi()
  const bares: number[] = []
  const apis: number[] = []
  for (let turn = 0; turn < turns; turn++) {
    bares.push(await timed(readBare))
    apis.push(await timed(readApi))
  }
  return { bareMs: middle(bares), apiMs: middle(apis) }
}

/** Milliseconds until the first cell is there, of a small one and of the large one, and until all learners of the large one are. */
async function paintings(page: Page, url: string, courses: { small: string; large: string }, turns: number) {
  const wholes: number[] = []
  const paint = async (course: string) => {
    const started = performance.now()
    await page.goto(`${url}/courses/${course}/gradebook`)
    await page.locator('.book-body .cell').first().waitFor()
    const took = performance.now() - started
    // The next begins when all learners are there, so that it does not wait for what the one before still asks for.
    await page.getByText(/^(\d+) of \1$/).waitFor()
    if (course === courses.large) wholes.push(performance.now() - started)
    return took
  }
  await paint(courses.small)
  await paint(courses.large)
  const few: number[] = []
  const many: number[] = []
  for (let turn = 0; turn < turns; turn++) {
    few.push(await paint(courses.small))
    many.push(await paint(courses.large))
  }
  return { fewMs: middle(few), manyMs: middle(many), wholeMs: middle(wholes) }
}

/** Frames a second while the gradebook on the page is scrolled. */
async function framesOf(page: Page): Promise<number> {
  const frames = await page.evaluate(async () => {
    const book = document.querySelector('.book')!
    const times: number[] = []
    let last = performance.now()
    for (let i = 0; i < 120; i++) {
      book.scrollTop += 60
      book.scrollLeft += i % 2 === 0 ? 40 : 0
      await new Promise((resolve) => requestAnimationFrame(resolve))
      const now = performance.now()
      times.push(now - last)
      last = now
    }
    return times
  })
  return 1000 / (frames.reduce((sum, one) => sum + one, 0) / frames.length)
}

/** A course of people by columns with a result in every cell, written by SQL. */
async function fillCourse(
  client: Client,
  bare: pg.Client,
  code: string,
  people: number,
  columns: number,
): Promise<string> {
  const { id: course } = await client.call('createCourse', {
    body: { code, title: `Gradebook ${people} by ${columns}` },
  })
  const table = `username,course\n${Array.from({ length: people }, (_, i) => `${code.toLowerCase().replace(' ', '-')}-${i},${code}`).join('\n')}`
  await client.call('importRoster', { body: { fileName: 'bench', table, apply: true } })
  const rows = Array.from({ length: columns }, (_, i) => `Column ${i},bench,10,`)
  await client.call('makeTable', {
    params: { course },
    body: { table: ['title,tool,points,unit', ...rows].join('\n') },
  })
  await bare.query(`update assignment set state = 'published', published_at = now() where course_id = $1`, [course])
  await bare.query(
    `insert into score (assignment_id, person_id, at, operation, outcome, sent, sent_out_of, fraction, points, out_of, wire_entry_id)
     select a.id, e.person_id, now(), 'replace', 'accepted', '0.645', '1', 0.645, 6.45, 10, 1 from assignment a join enrolment e on e.course_id = a.course_id and e.role = 'learner'
     where a.course_id = $1`,
    [course],
  )
  await bare.query(
    `insert into result (assignment_id, person_id, sent, sent_out_of, fraction, points, score_id, at, last_id, out_of, attempts, counted, sum, heard_at)
     select s.assignment_id, s.person_id, s.sent, s.sent_out_of, s.fraction, s.points, s.id, s.at, s.id, 10, 1, 1, 0.645, s.at
     from score s join assignment a on a.id = s.assignment_id where a.course_id = $1`,
    [course],
  )
  await bare.query('analyze')
  return course
}
