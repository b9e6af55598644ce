import { availableParallelism } from 'node:os'
import type { LoadJob } from '../load/load.js'
import pg from 'pg'
import { middle } from '../load/middle.js'
import type { Result, Setting } from './bench.js'
import { bareRs256 } from './bench-13.js'
import { CONNECTIONS, load } from './loading.js'
import { machineTicks, perRequest } from './processor-time.js'

/** By so much a request may cost more than the least that it must. */
const OVER_LIMIT = 1.3

type Who = 'bare' | 'limit' | 'subject'
const TURNS: readonly Who[] = ['bare', 'limit', 'subject']
/** Short and many: what else the machine has to do meets some of them, and medians do not know it. */
const TURN_SECONDS = 2
/** A round of whose time the host gave more to others says nothing of the programs, and is done again, as often as there are rounds. */
const MOST_STOLEN = 0.05
const FEWEST_CALM = 3
/** Until the runtime has compiled what it will compile, about 8,000 requests. */
const WARM_SECONDS = { bare: 2, limit: 8, subject: 8 } as const

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

type Turn = (seconds: number, begins: () => void) => Promise<Turned>

/** A job of the load, and how it is held against the service. `prepare`: requests that are made beforehand, for each second. */
export type Compared = LoadJob & { expect?: string; prepare: number }

/**
 * Bare, limit and subject in turns: how many requests a second each, and what a request costs in processor time of the server and of PostgreSQL. The ratio is of the costs, which
 * are steady where the machine is not: 1 where the service costs no more than the limit. `perSubject` requests make one of what is counted.
 */
async function inTurns(
  name: string,
  { accounts, databaseUrl, limitUrl, url, seconds, rounds: asked, say }: Setting,
  bare: Turn,
  job: Compared,
  perSubject: number,
): Promise<Result> {
  const turns: Record<Who, Turn> = {
    bare,
    limit: (each, begins) => load({ ...job, prepare: job.prepare * each, target: limitUrl, seconds: each }, begins),
    subject: (each, begins) => load({ ...job, prepare: job.prepare * each, target: url, seconds: each }, begins),
  }
  const rounds: Round[] = []
  const measure = async (who: Who, each: number): Promise<Row> => {
    let result: Turned | undefined
    const used = await perRequest({ server: accounts.server[who], database: accounts.database }, async (begins) => {
      result = await turns[who](each, begins)
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
  await cleanedBetween(databaseUrl, async (clean) => {
    for (const who of TURNS) await measure(who, WARM_SECONDS[who])
    const wanted = Math.ceil((asked * seconds) / TURN_SECONDS)
    while (calm(rounds).length < wanted && rounds.length < 2 * wanted) {
      await clean()
      const before = machineTicks()
      const [bareRow, limit, subject] = [
        await measure('bare', TURN_SECONDS),
        await measure('limit', TURN_SECONDS),
        await measure('subject', TURN_SECONDS),
      ]
      const after = machineTicks()
      const stolen = (after.stolen - before.stolen) / (after.all - before.all)
      const round = { bare: bareRow, limit, subject, stolen }
      rounds.push(round)
      const told = TURNS.map((who) => `${who} ${Math.round(round[who].perSecond)}/s at ${round[who].us} µs`)
      const again = stolen > MOST_STOLEN ? `; ${Math.round(100 * stolen)} % of the machine went to others` : ''
      say(`  ${name}, round ${rounds.length}: ${told.join(', ')}${again}`)
    }
  })
  return resultOf(name, rounds)
}

/** PostgreSQL cleans up behind everybody, every minute, in whose turn it may be: here it does between the rounds. */
async function cleanedBetween(
  databaseUrl: string,
  work: (clean: () => Promise<unknown>) => Promise<void>,
): Promise<void> {
  const database = new pg.Client({ connectionString: databaseUrl })
  await database.connect()
  const set = async (how: string) => {
    await database.query(`alter system ${how}`)
    await database.query('select pg_reload_conf()')
  }
  try {
    await set('set autovacuum = off')
    await work(() => database.query('vacuum (analyze)'))
  } finally {
    await set('reset autovacuum')
    await database.end()
  }
}

/** One turn of each, and the share of the machine that its host gave to others meanwhile. */
type Round = Record<Who, Row> & { stolen: number }
const calm = (rounds: readonly Round[]) => rounds.filter(({ stolen }) => stolen <= MOST_STOLEN)

function resultOf(name: string, all: readonly Round[]): Result {
  // Where hardly any was calm, all of them are all that there is.
  const rounds = calm(all).length >= FEWEST_CALM ? calm(all) : all
  const middleOf = (who: Who, what: keyof Row) => Math.round(middle(rounds.map((one) => one[who][what])))
  const each = (what: keyof Row) => ({
    bare: middleOf('bare', what),
    limit: middleOf('limit', what),
    subject: middleOf('subject', what),
  })
  const cpuUs = each('us')
  const ratios = rounds.map((one) => one.limit.us / one.subject.us)
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
      rounds: { calm: calm(all).length, all: all.length },
    },
  }
}

/** Beside a bare route that does one upsert. */
export function compare(name: string, setting: Setting, job: Compared): Promise<Result> {
  const bare: Turn = (seconds, begins) =>
    load({ kind: 'bare', target: setting.bareUrl, expect: 'ok', prepare: 0, seconds }, begins)
  return inTurns(name, setting, bare, job, 1)
}

/** Beside bare RS256 by all cores of this machine. @param perSubject requests that make one of what is counted */
export async function compareRs256(
  name: string,
  setting: Setting,
  job: Compared,
  { verifies = false, perSubject = 1 } = {},
): Promise<Result> {
  const bare: Turn = async (seconds) => {
    const { perSecond } = await bareRs256({ seconds, verifies })
    return { perSecond, total: 1, cpuUs: Math.round((availableParallelism() * 1e6) / perSecond) }
  }
  const result = await inTurns(name, setting, bare, job, perSubject)
  return { ...result, detail: { ...result.detail, keysetReads: setting.of13.keysetReads() } }
}
