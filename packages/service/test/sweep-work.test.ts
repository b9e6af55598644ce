import fc from 'fast-check'
import type { DataSource } from 'typeorm'
import { afterEach, beforeAll, describe, expect, it } from 'vitest'
import { Records } from '../src/records/index.js'
import type { ClaimedLink } from '../src/records/sweep-work.js'
import { openRecords, registerKnotwork, startAcademy } from './harness.js'
import { questionsOf } from './statements.js'

/** The records of sweeps by themselves: their service is stopped, so that nobody else takes links. */
let database: DataSource
let records: Records
let person: string
let links: { assignmentId: string; courseId: string; registrationId: string }[]
const LINKS = 40
const NOW = new Date('2026-11-30T10:00:00Z')
const minutes = (n: number) => new Date(NOW.getTime() + n * 60_000)

beforeAll(async () => {
  const academy = await startAcademy()
  await registerKnotwork(academy)
  await academy.admin.client.call('makeTable', {
    params: { course: 'HYD-210' },
    body: {
      table: [
        'title,tool,points,unit',
        ...Array.from({ length: LINKS }, (_, n) => `Drill ${n},knotwork-drills,10,One`),
      ].join('\n'),
    },
  })
  links = await academy.query(
    `select id as "assignmentId", course_id as "courseId", registration_id as "registrationId" from assignment order by position, id`,
  )
  ;[{ id: person } = { id: '' }] = await academy.query<{ id: string }>('select id from person limit 1')
  await academy.service.stop()
  database = await openRecords(academy)
  records = new Records(database.manager)
})
afterEach(() => database.query('delete from sweep'))

/** A sweep over so many links of each host, as they follow one another. */
async function sweepOver(id: string, hosts: readonly string[], startedAt = NOW): Promise<void> {
  const sweep = { id, title: id, scopeKey: id, personId: person, scheduleId: null, startedAt, depth: 'plain' as const, follower: 'http' as const } // oxfmt-ignore
  await records.sweeps.insert(
    sweep,
    hosts.map((host, n) => ({ ...links[n]!, host })),
  )
}
const claim = (worker: string, limits: { slots: number; perHost: number }, now = NOW) =>
  records.transaction((inside) => inside.sweepWork.claim(worker, now, limits))
const numberOf = ({ assignmentId }: Pick<ClaimedLink, 'assignmentId'>) =>
  links.findIndex((one) => one.assignmentId === assignmentId)
const numbers = (claimed: readonly ClaimedLink[]) => claimed.map(numberOf).sort((a, b) => a - b)
const done = { state: 'done', verdict: 'pass', headline: null, change: 'first', tookMs: 5 } as const

describe('links are taken', () => {
  it('as many as there are slots, in their places, and each once', async () => {
    await sweepOver('s', Array<string>(10).fill('a'))
    expect(numbers(await claim('w', { slots: 4, perHost: 100 }))).toEqual([0, 1, 2, 3])
    expect(numbers(await claim('w', { slots: 4, perHost: 100 }))).toEqual([4, 5, 6, 7])
    expect(numbers(await claim('v', { slots: 4, perHost: 100 }))).toEqual([8, 9])
    expect(await claim('v', { slots: 4, perHost: 100 })).toEqual([])
  })

  it('with what whoever sounds them has to know', async () => {
    await sweepOver('s', ['a'])
    expect(await claim('w', { slots: 1, perHost: 1 })).toEqual([
      {
        sweepId: 's',
        assignmentId: links[0]!.assignmentId,
        courseId: links[0]!.courseId,
        personId: person,
        depth: 'plain',
        follower: 'http',
        verdictBefore: null,
        tookBeforeMs: null,
      },
    ])
  })

  it('so many of a host and no more, those of others at work on it counted, too', async () => {
    await sweepOver('s', [...Array<string>(6).fill('a'), ...Array<string>(6).fill('b')])
    expect(numbers(await claim('w', { slots: 12, perHost: 2 }))).toEqual([0, 1, 6, 7])
    expect(await claim('v', { slots: 12, perHost: 2 })).toEqual([])
    expect(numbers(await claim('v', { slots: 12, perHost: 3 }))).toEqual([2, 8])
    await records.sweepWork.finish({ sweepId: 's', assignmentId: links[0]!.assignmentId }, done)
    expect(numbers(await claim('v', { slots: 12, perHost: 3 }))).toEqual([3])
  })

  it('of every host, however many there are', async () => {
    await sweepOver(
      's',
      Array.from({ length: LINKS }, (_, n) => `host-${n}.example`),
    )
    expect(numbers(await claim('w', { slots: 100, perHost: 1 }))).toHaveLength(LINKS)
  })

  it('of the sweep that began first before others', async () => {
    await sweepOver('later', ['a', 'a', 'b'], minutes(1))
    await sweepOver('sooner', ['a', 'a', 'b'], minutes(0))
    const taken = await claim('w', { slots: 3, perHost: 10 })
    expect(new Set(taken.map((one) => one.sweepId))).toEqual(new Set(['sooner']))
    expect((await claim('w', { slots: 3, perHost: 10 })).map((one) => one.sweepId)).toEqual(Array(3).fill('later'))
  })

  it('of no sweep that is paused, stopped or over, and of none before its time', async () => {
    await sweepOver('s', ['a', 'a'])
    for (const state of ['paused', 'stopped', 'done']) {
      await database.query('update sweep set state = $1', [state])
      expect(await claim('w', { slots: 9, perHost: 9 })).toEqual([])
    }
    await database.query(`update sweep set state = 'running'`)
    const [first] = await claim('w', { slots: 1, perHost: 9 })
    await records.sweepWork.giveBack(first!, minutes(5))
    expect(numbers(await claim('w', { slots: 9, perHost: 9 }, minutes(4)))).toEqual([1])
    expect(numbers(await claim('w', { slots: 9, perHost: 9 }, minutes(5)))).toEqual([0])
  })

  it('by two at once without one taken twice, and without a host that is asked too much', async () => {
    await sweepOver('s', Array<string>(20).fill('a'))
    for (let round = 0; round < 4; round++) {
      const claims = await Promise.all(['v', 'w', 'x'].map((who) => claim(who, { slots: 4, perHost: 5 })))
      const taken = claims.flat()
      expect(taken).toHaveLength(5)
      expect(new Set(taken.map(numberOf)).size).toBe(5)
      for (const one of taken) await records.sweepWork.finish(one, done)
    }
    expect(await claim('v', { slots: 4, perHost: 5 })).toEqual([])
  })

  it('as somebody would who goes through all that wait, whatever waits where', async () => {
    const host = fc.constantFrom('a', 'b', 'c')
    const sweeps = fc.array(fc.array(host, { minLength: 1, maxLength: 12 }), { minLength: 1, maxLength: 3 })
    const steps = fc.array(fc.record({ slots: fc.integer({ min: 1, max: 7 }), perHost: fc.integer({ min: 1, max: 4 }) }), { minLength: 1, maxLength: 4 }) // oxfmt-ignore
    await fc.assert(
      fc.asyncProperty(sweeps, steps, async (all, turns) => {
        await database.query('delete from sweep')
        for (const [n, hosts] of all.entries()) await sweepOver(`s${n}`, hosts, minutes(n))
        const waiting = all.flatMap((hosts, sweep) => hosts.map((at, n) => ({ key: `s${sweep} ${n}`, at })))
        const running: string[] = []
        for (const { slots, perHost } of turns) {
          const expected: string[] = []
          for (const one of [...waiting]) {
            if (expected.length === slots) break
            if (running.filter((at) => at === one.at).length >= perHost) continue
            running.push(one.at)
            expected.push(one.key)
            waiting.splice(waiting.indexOf(one), 1)
          }
          const taken = await claim('w', { slots, perHost })
          expect(taken.map((one) => `${one.sweepId} ${numberOf(one)}`).sort()).toEqual(expected.sort())
        }
      }),
      { numRuns: 40 },
    )
  })

  it('without a look at all that wait', async () => {
    await sweepOver(
      's',
      Array.from({ length: LINKS }, (_, n) => (n % 2 ? 'a' : 'b')),
    )
    const asked = await questionsOf(() => claim('w', { slots: 4, perHost: 1 }))
    const { sql, values } = asked.find((one) => one.sql.includes('update sweep_link'))!
    await database.query('analyze sweep_link')
    await database.query(`update sweep_link set state = 'waiting'`)
    const rows = await database.transaction(async (inside) => {
      // Forty rows are read through from end to end as cheaply as by their keys, and the planner takes now the one and now the other; of many it would not.
      for (const way of ['seqscan', 'hashjoin', 'mergejoin']) await inside.query(`set local enable_${way} = off`)
      const [row] = await inside.query<{ 'QUERY PLAN': [{ Plan: Plan }] }[]>(
        `explain (analyze, timing off, format json) ${sql}`,
        values,
      )
      return lookedAt(row!['QUERY PLAN'][0].Plan)
    })
    expect(rows).toBeLessThan(LINKS / 2)
  })
})

interface Plan {
  'Relation Name'?: string
  'Actual Rows': number
  'Actual Loops': number
  'Rows Removed by Filter'?: number
  Plans?: Plan[]
}
/** Rows of links that a plan looks at. */
function lookedAt(plan: Plan): number {
  const own = plan['Relation Name'] === 'sweep_link' ? (plan['Actual Rows'] + (plan['Rows Removed by Filter'] ?? 0)) * plan['Actual Loops'] : 0 // oxfmt-ignore
  return own + (plan.Plans ?? []).reduce((sum, one) => sum + lookedAt(one), 0)
}

describe('the end of a link', () => {
  it('says whether others still wait, and that of the last ends the sweep, once', async () => {
    await sweepOver('s', ['a', 'a', 'a'])
    const taken = await claim('w', { slots: 2, perHost: 9 })
    expect(await records.sweepWork.finish(taken[0]!, done)).toBe(false)
    expect(await records.sweepWork.endWhenDone('s', NOW)).toBe(false)
    const [last] = await claim('w', { slots: 2, perHost: 9 })
    // Two are running: neither knows of the other, so both have to ask.
    expect(await Promise.all([taken[1]!, last!].map((one) => records.sweepWork.finish(one, done)))).toEqual([
      true,
      true,
    ])
    const ends = await Promise.all([1, 2, 3].map(() => records.sweepWork.endWhenDone('s', NOW)))
    expect(ends.filter(Boolean)).toHaveLength(1)
    expect(await database.query(`select state, ended_at from sweep`)).toEqual([{ state: 'done', ended_at: NOW }])
  })

  it('of one that was given to somebody else meanwhile is none', async () => {
    await sweepOver('s', ['a'])
    const [one] = await claim('w', { slots: 1, perHost: 1 })
    await records.sweepWork.giveBack(one!, null)
    await records.sweepWork.finish(one!, done)
    expect(await database.query('select state, verdict from sweep_link')).toEqual([{ state: 'waiting', verdict: null }])
  })
})

describe('a sounding of a link', () => {
  const started = (id: string, sweepId: string | null, n = 0) =>
    records.soundings.start({
      ...{
        id,
        assignmentId: links[n]!.assignmentId,
        personId: person,
        startedAt: NOW,
        depth: 'plain',
        follower: 'http',
      },
      ...{ pilotId: null, waitMinutes: 0, sweepId },
    } as Parameters<Records['soundings']['start']>[0])
  const soundingOf = async (sweep: string) =>
    (await database.query<{ sounding_id: string | null }[]>('select sounding_id from sweep_link where sweep_id = $1 order by position', [sweep])).map((row) => row.sounding_id) // oxfmt-ignore
  afterEach(() => database.query('delete from sounding'))

  it('is tied to it as it starts, and to that of no other sweep', async () => {
    await sweepOver('s', ['a', 'a'])
    await sweepOver('t', ['a', 'a'])
    await claim('w', { slots: 9, perHost: 9 })
    await started('x', 's')
    await started('y', null, 1)
    expect([await soundingOf('s'), await soundingOf('t')]).toEqual([
      ['x', null],
      [null, null],
    ])
  })

  it('is tied to none that was given back meanwhile', async () => {
    await sweepOver('s', ['a'])
    const [one] = await claim('w', { slots: 1, perHost: 1 })
    await records.sweepWork.giveBack(one!, null)
    await started('x', 's')
    expect(await soundingOf('s')).toEqual([null])
  })

  it('is refused beside another of the same assignment, and then ties nothing', async () => {
    await sweepOver('s', ['a'])
    await claim('w', { slots: 1, perHost: 1 })
    await started('x', null)
    await expect(started('y', 's')).rejects.toMatchObject({ code: 'sounding.already_running' })
    expect(await soundingOf('s')).toEqual([null])
  })

  it('ends once, with all that was found, and after that as it ended', async () => {
    await started('x', null)
    const found = (n: number) => ({ stage: 'settings', check: 'preflight', code: 'clean', verdict: 'pass', facts: { n }, wireEntryId: null, pictureId: null, durationMs: n }) as never // oxfmt-ignore
    await records.soundings.addFindings('x', 0, [found(1), found(2)])
    const last = { after: 2, findings: [found(3)], verdict: 'pass' as const, headline: null, at: minutes(1) }
    const end = () =>
      records.soundings.end('x', { ...last, assignmentId: links[0]!.assignmentId, signs: [['proof', null]] })
    expect(await end()).toBe(true)
    expect((await records.soundings.findings('x')).map((one) => one.facts)).toEqual([{ n: 1 }, { n: 2 }, { n: 3 }])
    expect(await records.soundings.outcome('x', minutes(9))).toEqual({
      verdict: 'pass',
      headline: null,
      tookMs: 60_000,
    })
    expect(await database.query(`select kind, evidence_kind, evidence_id, person_name from launch_evidence`)).toEqual([
      { kind: 'proof', evidence_kind: 'sounding', evidence_id: 'x', person_name: null },
    ])
    last.findings = []
    expect(await end()).toBe(false)
  })

  it('that was interrupted has no verdict, and is not ended over that', async () => {
    await started('x', null)
    const headline = { check: 'sounding', code: 'run_again', verdict: 'skipped', facts: {} } as never
    await records.soundings.interrupt('x', minutes(2), headline)
    const last = { after: 0, findings: [], verdict: 'pass' as const, headline: null, at: minutes(3), signs: [] }
    expect(await records.soundings.end('x', { ...last, assignmentId: links[0]!.assignmentId })).toBe(false)
    expect(await records.soundings.outcome('x', minutes(9))).toMatchObject({ verdict: null, tookMs: 120_000 })
    await expect(records.soundings.outcome('nothing', NOW)).rejects.toMatchObject({ code: 'sounding.not_found' })
    await expect(records.soundings.started('nothing')).rejects.toMatchObject({ code: 'sounding.not_found' })
  })

  it('knows what is expected of its link', async () => {
    await started('x', null)
    expect(await records.soundings.started('x')).toEqual({
      ...{ id: 'x', assignmentId: links[0]!.assignmentId, startedAt: NOW, depth: 'plain', follower: 'http' },
      ...{ waitMinutes: 0, pilot: null, standIn: person, expected: null },
    })
    await records.expectations.set(links[0]!.assignmentId, {
      ...{ answersWithinMs: 800, contains: 'Ready', scoreFrom: '0.5', scoreTo: '0.75', membersFrom: null },
      ...{ setAt: NOW, personId: person, learnedFrom: null },
    })
    expect((await records.soundings.started('x')).expected).toEqual({
      answersWithinMs: 800,
      contains: 'Ready',
      scoreFrom: '0.5',
      scoreTo: '0.75',
      membersFrom: null,
    })
  })
})
