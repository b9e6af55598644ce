import { availableParallelism } from 'node:os'
import type { LoadJob } from '../load/load.js'
import { middle } from '../load/middle.js'
import type { Result, Setting } from './bench.js'
import { bareRs256 } from './bench-13.js'
import { CONNECTIONS, load } from './loading.js'
import { perRequest } from './processor-time.js'

/** By so much a request may cost more than the least that it must. */
const OVER_LIMIT = 1.3

type Who = 'bare' | 'limit' | 'subject'
const TURNS: readonly Who[] = ['bare', 'limit', 'subject']

/** What one turn came to: `us` is what a request took of server and records together, in microseconds of processor. */
interface Row {
  perSecond: number
  p99: number
  server: number
  records: number
  us: number
}

/** What a turn answers with; bare RS256 says itself what it used. */
interface Turned {
  perSecond: number
  total: number
  p99?: number
  cpuUs?: number
}

/** A job of the load, and how it is held against the service. */
export type Compared = LoadJob & { expect?: string; prepare: number }

/**
 * Bare, limit and subject in turns: how many requests a second each, and what a request costs in processor time of the server and of PostgreSQL. The ratio is of the costs, which
 * are steady where the machine is not: 1 where the service costs no more than the limit. `perSubject` requests make one of what is counted.
 */
async function inTurns(
  name: string,
  { accounts, limitUrl, url, seconds: each, rounds, say }: Setting,
  bare: (seconds: number) => Promise<Turned>,
  job: Compared,
  perSubject: number,
): Promise<Result> {
  const turns: Record<Who, (seconds: number) => Promise<Turned>> = {
    bare,
    limit: (seconds) => load({ ...job, target: limitUrl, seconds }),
    subject: (seconds) => load({ ...job, target: url, seconds }),
  }
  const rows: Record<Who, Row[]> = { bare: [], limit: [], subject: [] }
  const measure = async (who: Who, seconds: number): Promise<Row> => {
    let result: Turned | undefined
    const used = await perRequest({ server: accounts.server[who], database: accounts.database }, async () => {
      result = await turns[who](seconds)
      return result.total
    })
    const times = who === 'bare' ? 1 : perSubject
    const [server, records] =
      result?.cpuUs === undefined ? [used.server * times, used.database * times] : [result.cpuUs, 0]
    return {
      perSecond: (result?.perSecond ?? 0) / times,
      p99: result?.p99 ?? 0,
      server,
      records,
      us: server + records,
    }
  }
  for (const who of TURNS) await measure(who, 2)
  for (let round = 1; round <= rounds; round++) {
    for (const who of TURNS) rows[who].push(await measure(who, each))
    const told = TURNS.map((who) => `${who} ${Math.round(rows[who].at(-1)!.perSecond)}/s at ${rows[who].at(-1)!.us} µs`)
    say(`  ${name}, round ${round}: ${told.join(', ')}`)
  }
  return resultOf(name, rows)
}

function resultOf(name: string, rows: Record<Who, Row[]>): Result {
  const middleOf = (who: Who, what: keyof Row) => Math.round(middle(rows[who].map((one) => one[what])))
  const each = (what: keyof Row) => ({
    bare: middleOf('bare', what),
    limit: middleOf('limit', what),
    subject: middleOf('subject', what),
  })
  const cpuUs = each('us')
  const ratios = rows.subject.map((one, i) => rows.limit[i]!.us / one.us)
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
export function compare(name: string, setting: Setting, job: Compared): Promise<Result> {
  const bare = (seconds: number) => load({ kind: 'bare', target: setting.bareUrl, expect: 'ok', prepare: 0, seconds })
  return inTurns(name, setting, bare, job, 1)
}

/** Beside bare RS256 by all cores of this machine. @param perSubject requests that make one of what is counted */
export async function compareRs256(
  name: string,
  setting: Setting,
  job: Compared,
  { verifies = false, perSubject = 1 } = {},
): Promise<Result> {
  const bare = async (seconds: number): Promise<Turned> => {
    const { perSecond } = await bareRs256({ seconds, verifies })
    return { perSecond, total: 1, cpuUs: Math.round((availableParallelism() * 1e6) / perSecond) }
  }
  const result = await inTurns(name, setting, bare, job, perSubject)
  return { ...result, detail: { ...result.detail, keysetReads: setting.of13.keysetReads() } }
}
