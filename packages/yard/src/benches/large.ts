import { outcomeXml, sendOutcome } from '@bathyscribe/practice-tools'
import pg from 'pg'
import { fillSite, INSTITUTION } from '../academy/large-site.js'
import { middle } from '../load/middle.js'
import type { Result, Setting } from './bench.js'

const SEARCHES = 12
const PER_SECOND = 40
const LIMITS = { watchMs: 1000, listMs: 150, p99Ms: 300, leftAfterMs: 15_000 }
const sleep = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
const slowestHundredth = (values: readonly number[]) =>
  [...values].sort((a, b) => a - b)[Math.max(0, Math.ceil(values.length * 0.99) - 1)] ?? 0

/** Pages of a large site, with the time that each may take. */
const PAGES = ({ course }: { course: string }) => ({
  watch: '/api/watch',
  list: `/api/courses/${course}/assignments`,
  outline: `/api/courses/${course}/outline`,
  gradebook: `/api/courses/${course}/gradebook`,
  history: `/api/courses/${course}/scores`,
  tools: '/api/tools?limit=40',
  courses: '/api/courses',
  wire: `/api/wire?course=${course}`,
})

/**
 * Reading beside writing: a site as large as an institution’s, its pages, searches that nobody waits for, and a row that somebody holds.
 * @returns what has the least room left under its limit, as a ratio: 1 is the limit itself
 */
export async function besideSlowReads(setting: Setting): Promise<Result> {
  const { client, url, databaseUrl, seconds, say } = setting
  const database = new pg.Client({ connectionString: databaseUrl })
  await database.connect()
  try {
    const { course, tool } = await fillSite(database, INSTITUTION, { say: (line) => say(`  filling: ${line}`) })
    // Four gigabytes that were written in two minutes are brought to disk before anybody is timed, not meanwhile.
    await database.query('checkpoint')
    const { token } = await client.call('createToken', { body: { name: 'bench', scopes: ['read'] } })
    const get = (path: string, signal: AbortSignal | null = null) =>
      fetch(url + path, { headers: { authorization: `Bearer ${token}` }, signal })
    const timed = async (path: string) => {
      const started = performance.now()
      const answer = await get(path)
      await answer.arrayBuffer()
      if (!answer.ok) throw new Error(`${path} answered ${answer.status}`)
      return performance.now() - started
    }
    const pages: Record<string, number> = {}
    for (const [name, path] of Object.entries(PAGES({ course }))) {
      await timed(path)
      pages[name] = Math.round(middle([await timed(path), await timed(path), await timed(path)]))
      say(`  ${name}: ${pages[name]} ms`)
    }

    const work = workload(setting)
    // A service that has been at work: what its first messages take is no matter of who searches.
    await work(5)
    const abandon = Array.from({ length: SEARCHES }, () => {
      const gone = new AbortController()
      setTimeout(() => gone.abort(), 6000)
      return get(`/api/wire?search=nothing-like-it&tool=${tool}`, gone.signal).catch(() => undefined)
    })
    const beside = await work(Math.max(20, seconds * 4))
    await Promise.all(abandon)
    const { rows } = await database.query<{ n: number }>(
      `select count(*)::int as n from pg_stat_activity where state = 'active' and query ilike '%nothing-like-it%' and pid <> pg_backend_pid()`,
    )
    const left = rows[0]!.n

    // Somebody holds the row of another link.
    const holder = new pg.Client({ connectionString: databaseUrl })
    await holder.connect()
    await holder.query('begin')
    await holder.query('select 1 from assignment where id = $1 for update', [`lga2`])
    const held = work(10)
    await sleep(10_000)
    await holder.query('rollback')
    await holder.end()
    const besideHeld = await held
    say(`  beside ${SEARCHES} abandoned searches: ${JSON.stringify(beside)}, statements left ${left}`)
    say(`  beside a held row: ${JSON.stringify(besideHeld)}`)
    const room = {
      watch: LIMITS.watchMs / pages['watch']!,
      list: LIMITS.listMs / pages['list']!,
      beside: beside.refused > 0 ? 0 : LIMITS.p99Ms / beside.p99Ms,
      held: besideHeld.refused > 0 ? 0 : LIMITS.p99Ms / besideHeld.p99Ms,
      left: left === 0 ? 10 : 0,
    }
    return {
      name: 'beside-slow-reads',
      ratio: Math.min(...Object.values(room)),
      floor: 1,
      detail: { pages, beside, besideHeld, left },
    }
  } finally {
    await database.end()
  }
}

/** What became of a workload. */
export interface Worked {
  sent: number
  /** Answered well, until the last answer came. */
  perSecond: number
  refused: number
  why: Record<string, number>
  p50Ms: number
  p99Ms: number
  /** When those that took too long were sent, and how long that was, in ms. */
  slow: string[]
}

/** Launches and scores in turns, so many a second whether they come back or not. */
export function workload({
  url,
  cookies,
  assignment,
  signing,
}: {
  url: string
  cookies: string[]
  assignment: string
  signing: { key: string; secret: string; resultIds: string[] }
}): (seconds: number, perSecond?: number) => Promise<Worked> {
  let n = 0
  const launch = async () => {
    const answer = await fetch(`${url}/lti/launch/${assignment}?target=frame`, {
      headers: { cookie: cookies[n % cookies.length]! },
      redirect: 'manual',
    })
    await answer.arrayBuffer()
    return answer.status === 200 ? '' : `launch ${answer.status}`
  }
  const score = async () => {
    const resultId = signing.resultIds[n % signing.resultIds.length]!
    const target = { serviceUrl: `${url}/lti/outcomes`, resultId, key: signing.key, secret: signing.secret }
    const answer = await sendOutcome(target, outcomeXml('replaceResult', resultId, `0.${String(n).padStart(5, '0')}1`))
    return answer.codeMajor === 'success' ? '' : `score ${answer.status} ${answer.description}`
  }
  return async (seconds, perSecond = PER_SECOND) => {
    const times: number[] = []
    const slow: string[] = []
    const why: Record<string, number> = {}
    let refused = 0
    const pending: Promise<void>[] = []
    const started = performance.now()
    for (let i = 0; i < seconds * perSecond; i++) {
      n++
      const due = started + (i * 1000) / perSecond
      await sleep(Math.max(0, due - performance.now()))
      const begun = performance.now()
      pending.push(
        (i % 2 === 0 ? launch() : score())
          .catch((error: unknown) => String((error as Error & { cause?: { code?: string } }).cause?.code ?? error))
          .then((reason) => {
            const took = performance.now() - begun
            times.push(took)
            if (took > LIMITS.p99Ms) slow.push(`${Math.round(begun - started)}+${Math.round(took)}`)
            if (reason === '') return
            refused++
            why[reason.slice(0, 80)] = (why[reason.slice(0, 80)] ?? 0) + 1
          }),
      )
    }
    await Promise.all(pending)
    return {
      sent: times.length,
      perSecond: ((times.length - refused) * 1000) / (performance.now() - started),
      refused,
      why,
      p50Ms: Math.round(middle(times)),
      p99Ms: Math.round(slowestHundredth(times)),
      slow: slow.slice(0, 20),
    }
  }
}
