import { readdirSync, readFileSync } from 'node:fs'
import { CREDENTIALS } from '@bathyscribe/practice-tools'
import type { CallInput, Sweep } from '@bathyscribe/contract'
import pg from 'pg'
import { signIn } from '../academy/browserless.js'
import type { Result, Setting } from './bench.js'
import { perRequest, residentMb, usedBy } from './processor-time.js'

const PASSWORD = 'a-password-for-the-bench'
const SCORE = '0.645'
const LINKS = 1000
const SEEN_LINKS = 200
/** As many as a sweep sounds at once of one host. */
const SIDE_BY_SIDE = 6
const LOOK_EVERY_MS = 200
const GROWS_BY = 1.3
/** So many times its launches and scores a sounding may cost. */
const OVER_LEAST = 2
const PER_MINUTE = 20

/** A course whose links lead to a practice tool that scores by itself. */
async function fillCourse(
  { client, knotwork, databaseUrl }: Setting,
  code: string,
  links: number,
): Promise<{ course: string; teacher: string; ids: string[] }> {
  const { id: course } = await client.call('createCourse', { body: { code, title: `Sweep of ${links}` } })
  const slug = code.toLowerCase().replace(' ', '-')
  await client.call('createPerson', {
    body: { username: `${slug}-teacher`, fullName: 'Teacher', password: PASSWORD },
  })
  await client.call('enrol', { params: { course }, body: { person: `${slug}-teacher`, role: 'instructor' } })
  await client.call('registerTool', {
    body: {
      name: `Knotwork of ${slug}`,
      ...CREDENTIALS.knotwork,
      launchUrl: `${knotwork}/launch`,
      disclosure: 'name',
      course,
      soundingParameters: { practice_score: SCORE },
      secondReason: 'bench',
    },
  })
  const rows = Array.from({ length: links }, (_, i) => `Link ${i},knotwork-of-${slug},10,Unit`)
  await client.call('makeTable', {
    params: { course },
    body: { table: ['title,tool,points,unit', ...rows].join('\n') },
  })
  const bare = new pg.Client({ connectionString: databaseUrl })
  await bare.connect()
  try {
    const { rows: made } = await bare.query<{ id: string }>(
      `update assignment set state = 'published', published_at = now(), custom_parameters = $2 where course_id = $1 returning id`,
      [course, JSON.stringify({ practice_score: SCORE })],
    )
    await bare.query('analyze')
    return { course, teacher: `${slug}-teacher`, ids: made.map((row) => row.id) }
  } finally {
    await bare.end()
  }
}

/** What some units of work came to: how many a second, and the microseconds of processor that one took of each. */
interface Cost {
  perSecond: number
  server: number
  database: number
  /** Of this process, which follows the pages in the place of the service. */
  follower: number
}

/** Counts what some work takes of the service, of PostgreSQL and of this process. @param work says how many units it was */
async function costOf({ accounts }: Setting, work: () => Promise<number>): Promise<Cost> {
  const [started, own] = [performance.now(), usedBy(process.pid)]
  const used = await perRequest({ server: accounts.server.subject, database: accounts.database }, work)
  return {
    perSecond: used.requests / ((performance.now() - started) / 1000),
    server: used.server,
    database: used.database,
    follower: Math.round((usedBy(process.pid) - own) / used.requests),
  }
}

/** What one sounding takes at the least, by the load: a launch as instructor, and one as test learner that comes back with a score. */
async function leastUnits(url: string, teacher: string, ids: string[], seconds: number): Promise<number> {
  const session = await signIn(url, teacher, PASSWORD)
  const until = performance.now() + seconds * 1000
  let done = 0
  let next = 0
  const work = async () => {
    while (performance.now() < until) {
      const id = ids[next++ % ids.length]
      await session.follow(`/lti/launch/${id}?target=window`)
      const page = await session.follow(`/lti/launch/${id}?target=window&as=test_learner`)
      if (!page.text.includes('Your score was sent')) throw new Error('The load’s score did not come back.')
      done++
    }
  }
  await Promise.all(Array.from({ length: SIDE_BY_SIDE }, work))
  return done
}

async function sweep(
  { client }: Setting,
  body: CallInput<'startSweep'>['body'],
  look: (now: Sweep) => void = () => undefined,
) {
  const started = performance.now()
  let one = await client.call('startSweep', { body })
  while (one.state === 'running') {
    await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS))
    one = await client.call('showSweep', { params: { id: one.id } })
    look(one)
  }
  if (one.verdicts.fail > 0) throw new Error(`The sweep found what is not so: ${JSON.stringify(one.causes)}`)
  return { one, seconds: (performance.now() - started) / 1000 }
}

/**
 * A sweep over a thousand links by the service itself, between two runs of the load; and whether its memory grows. Held against each other is processor time: of service and PostgreSQL
 * for a sounding, and of both with whoever follows the pages for the least of it, since a sounding follows them in the service.
 */
export async function sweepOf(setting: Setting): Promise<Result> {
  const { seconds, say } = setting
  const { course, teacher, ids } = await fillCourse(setting, 'SWE 100', LINKS)
  await leastUnits(setting.url, teacher, ids, 2)
  const least = (): Promise<Cost> => costOf(setting, () => leastUnits(setting.url, teacher, ids, seconds))
  const before = await least()
  const memory: [number, number][] = []
  const subject = await costOf(setting, async () => {
    await sweep(setting, { course }, (now) => memory.push([now.done, residentMb(setting.pids[0])]))
    return LINKS
  })
  const after = await least()
  const middleOf = (what: keyof Cost) => Math.round((before[what] + after[what]) / 2)
  const cpuUs = {
    bare: middleOf('server') + middleOf('database'),
    limit: middleOf('server') + middleOf('database') + middleOf('follower'),
    subject: subject.server + subject.database,
  }
  const largest = (from: number, to: number) =>
    Math.max(...memory.filter(([done]) => done >= from && done <= to).map(([, mb]) => mb))
  const [early, late] = [largest(LINKS * 0.2, LINKS * 0.5), largest(LINKS * 0.8, LINKS)]
  const grows = late > early * GROWS_BY
  const times = cpuUs.subject / cpuUs.limit
  say(
    `  sweep: least ${middleOf('perSecond')}/s at ${cpuUs.limit} µs, soundings ${round(subject.perSecond)}/s at ${cpuUs.subject} µs (${times.toFixed(2)} times), memory ${early} MB then ${late} MB`,
  )
  return {
    name: 'sweep',
    ratio: grows ? 0 : cpuUs.limit / cpuUs.subject,
    floor: 1 / OVER_LEAST,
    cpuUs,
    detail: {
      links: LINKS,
      times: Number(times.toFixed(2)),
      perSecond: { least: round((before.perSecond + after.perSecond) / 2), subject: round(subject.perSecond) },
      serverUs: { least: middleOf('server'), follower: middleOf('follower'), subject: subject.server },
      databaseUs: { least: middleOf('database'), subject: subject.database },
      earlyMb: early,
      lateMb: late,
    },
  }
}

/** Two hundred links through a real browser: how many a minute, and whether anything of it is left behind. */
export async function browserFollower(setting: Setting): Promise<Result> {
  const { course } = await fillCourse(setting, 'SEE 100', SEEN_LINKS)
  const { seconds } = await sweep(setting, { course, follower: 'browser' })
  const perMinute = SEEN_LINKS / (seconds / 60)
  // The browser goes when it has been idle for half a minute.
  let left = browsers()
  for (let i = 0; i < 45 && left > 0; i++) {
    await new Promise((resolve) => setTimeout(resolve, 1000))
    left = browsers()
  }
  setting.say(`  browser-follower: ${perMinute.toFixed(1)} soundings a minute, ${left} processes left behind`)
  return {
    name: 'browser-follower',
    ratio: left > 0 ? 0 : perMinute / PER_MINUTE,
    floor: 1,
    detail: { links: SEEN_LINKS, perMinute: round(perMinute), left },
  }
}

function browsers(): number {
  return readdirSync('/proc').filter((pid) => {
    try {
      return /^\d+$/.test(pid) && /chromium/.test(readFileSync(`/proc/${pid}/cmdline`, 'utf8'))
    } catch {
      return false
    }
  }).length
}

const round = (value: number) => Math.round(value * 10) / 10
