import type { SweepDetail } from '@bathyscribe/contract'
import { startService } from '@bathyscribe/service'
import { XMLParser } from 'fast-xml-parser'
import Papa from 'papaparse'
import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { eventually } from '../../../test/eventually.js'
import { startDueSweeps } from '../src/desk/sweeps/schedule.js'
import {
  codeOf,
  publishDrill,
  registerKnotwork,
  SECRET,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'
import { startCatcher } from './mail-catcher.js'

let academy: TestAcademy
let post: Awaited<ReturnType<typeof startCatcher>>
let tomas: Visitor
let nadia: Visitor
const LINKS = 6

beforeAll(async () => {
  post = await startCatcher()
  academy = await startAcademy({ smtpUrl: post.url, outgoingTimeoutMs: 10_000 })
  await academy.admin.client.call('createCourse', {
    body: { code: 'NAV 120', title: 'Coastal Navigation', categories: ['Drills'] },
  })
  await registerKnotwork(academy)
  await registerKnotwork(academy, { name: 'Knotwork Annex', secondReason: 'a second one' })
  for (let n = 1; n <= LINKS; n++) await publishDrill(academy, 'knotwork-drills', { title: `Drill ${n}` })
  for (const title of ['=HYPERLINK("x")', '<b>&"annex"</b>']) await publishDrill(academy, 'knotwork-annex', { title })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  await academy.person('nadia', { 'NAV-120': 'instructor' })
  await academy.query(`update person set email = username || '@skerrow.example'`)
  ;[tomas, nadia] = [await academy.signIn('tomas'), await academy.signIn('nadia')]
})
beforeEach(() => {
  post.caught.length = 0
})

const start = (body: object = {}, who = tomas) => who.client.call('startSweep', { body })
const show = (id: string, who = tomas) => who.client.call('showSweep', { params: { id } })
async function ended(sweep: { id: string }): Promise<SweepDetail> {
  return eventually(async () => {
    const now = await show(sweep.id, academy.admin)
    expect(['done', 'stopped']).toContain(now.state)
    return now
  })
}
const sweep = async (body: object = {}) => ended(await start(body))
const links = async (id: string, query: object = {}) =>
  (await academy.admin.client.call('listSweepLinks', { params: { id }, query: { limit: 100, ...query } })).items
async function secretOfAnnex(sharedSecret: string) {
  const { revision } = await academy.admin.client.call('showTool', { params: { tool: 'knotwork-annex' } })
  await academy.admin.client.call('changeTool', {
    params: { tool: 'knotwork-annex' },
    body: { sharedSecret, revision },
  })
}

describe('a sweep', () => {
  it('over everything, and again with one thing broken in between: exactly that is newly broken, then still, then fixed', async () => {
    const first = await sweep()
    expect(first).toMatchObject({
      title: 'All of my courses',
      state: 'done',
      links: LINKS + 2,
      done: LINKS + 2,
      before: null,
    })
    expect(first.verdicts.fail).toBe(0)
    expect(first.changes.first).toBe(LINKS + 2)

    await secretOfAnnex('not-the-one')
    const second = await sweep()
    expect(second.before).toBe(first.id)
    expect(second.changes).toMatchObject({ newly_broken: 2, same: LINKS, fixed: 0 })
    expect((await links(second.id, { change: 'newly_broken' })).map((one) => one.tool.name)).toEqual([
      'Knotwork Annex',
      'Knotwork Annex',
    ])
    // Two links, one cause.
    expect(second.causes).toMatchObject([{ links: 2, newly: 2, tool: { name: 'Knotwork Annex' } }])
    expect(second.causes[0]!.cause).toMatch(/shared secret is wrong/)
    // And what was done since the sweep before: to these two, and to no other link.
    const changed = { what: 'tool_credentials', by: 'Ingrid Valesdottir' }
    expect(second.causes[0]!.changed).toMatchObject(changed)
    const told = (await links(second.id)).map((one) => [one.tool.slug, one.changed?.what ?? null])
    expect(told.filter(([, what]) => what !== null)).toEqual([
      ['knotwork-annex', 'tool_credentials'],
      ['knotwork-annex', 'tool_credentials'],
    ])
    expect((await links(first.id)).every((one) => one.changed === null)).toBe(true)
    const csv = await academy.admin.client.call('showSweepReport', {
      params: { id: second.id },
      query: { form: 'csv' },
    })
    expect(csv.text).toContain('was changed by Ingrid Valesdottir since the sweep before')

    expect((await sweep()).changes).toMatchObject({ still_broken: 2, newly_broken: 0 })
    await secretOfAnnex(SECRET)
    expect((await sweep()).changes).toMatchObject({ fixed: 2, still_broken: 0 })
  })

  it('over a course, a tool, a list, a term: goes over those links and no others', async () => {
    expect((await sweep({ course: 'HYD-210', tool: 'knotwork-annex' })).links).toBe(2)
    const { items } = await tomas.client.call('listAssignments', { params: { course: 'HYD-210' } })
    const listed = await sweep({ assignments: items.slice(0, 3).map((one) => one.id) })
    expect(listed).toMatchObject({ links: 3, title: '3 links' })
    await academy.query(`update course set term = '2026-2' where code = 'HYD 210'`)
    expect(await sweep({ term: '2026-2' })).toMatchObject({ links: LINKS + 2, title: 'term 2026-2' })
    expect(await codeOf(start({ term: '1999' }))).toBe('sweep.nothing')
  })

  it('is paused, goes on, and is ended', async () => {
    const { id } = await start()
    const paused = await tomas.client.call('changeSweep', { params: { id }, body: { state: 'paused' } })
    expect(paused.state).toBe('paused')
    await eventually(async () => expect((await links(id)).filter((one) => one.state === 'running')).toEqual([]))
    const { done } = await show(id)
    // Whoever still took links of a paused sweep would have had time to: another sweep is done from end to end.
    await sweep({ course: 'HYD-210', tool: 'knotwork-annex' })
    expect((await show(id)).done).toBe(done)
    await tomas.client.call('changeSweep', { params: { id }, body: { state: 'running' } })
    expect((await ended({ id })).done).toBe(LINKS + 2)
    expect(await codeOf(tomas.client.call('changeSweep', { params: { id }, body: { state: 'paused' } }))).toBe(
      'sweep.over',
    )
    const other = await start()
    await tomas.client.call('changeSweep', { params: { id: other.id }, body: { state: 'stopped' } })
    expect((await ended(other)).state).toBe('stopped')
  })

  it('at the same time as another over the same links: each sounds each of them once', async () => {
    // By two people: one has no two of the same at once.
    const [a, b] = await Promise.all([start(), start({ course: 'HYD-210' }, academy.admin)])
    expect([(await ended(a)).done, (await ended(b)).done]).toEqual([LINKS + 2, LINKS + 2])
    for (const { id } of [a, b]) {
      const own = (await links(id)).map((one) => one.soundingId)
      expect(new Set(own).size).toBe(LINKS + 2)
      expect(own).not.toContain(null)
    }
  })

  it('whose service is stopped in the middle goes on in another, each link once', async () => {
    const { id } = await start()
    const second = await startService({ ...academy.service.context.settings, port: 0 } as never)
    try {
      await eventually(async () => expect((await show(id)).done).toBeGreaterThan(0))
      await academy.query(
        `update sweep_link set state = 'running', worker = 'killed', beat_at = now() - interval '1 minute', sounding_id = null, verdict = null
         where sweep_id = $1 and assignment_id = (select assignment_id from sweep_link where sweep_id = $1 order by position desc limit 1)`,
        [id],
      )
      await academy.query(`update sweep set state = 'running', ended_at = null where id = $1`, [id])
      expect((await ended({ id })).done).toBe(LINKS + 2)
      expect((await links(id)).filter((one) => one.state !== 'done')).toEqual([])
    } finally {
      await second.stop()
    }
  })

  it('is reported as CSV that no spreadsheet runs and as XML that parses, whatever titles hold', async () => {
    const { id } = await sweep()
    const report = (form: 'csv' | 'junit') => tomas.client.call('showSweepReport', { params: { id }, query: { form } })
    const csv = Papa.parse<Record<string, string>>((await report('csv')).text, {
      header: true,
      skipEmptyLines: true,
    }).data
    expect(csv).toHaveLength(LINKS + 2)
    expect(csv.map((row) => row['assignment'])).toContain(`'=HYPERLINK("x")`)
    const xml = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: '' }).parse(
      (await report('junit')).text,
    ) as {
      testsuites: { tests: string; failures: string; testsuite: { testcase: { name: string }[] } }
    }
    expect(xml.testsuites).toMatchObject({ tests: String(LINKS + 2), failures: '0' })
    expect(xml.testsuites.testsuite.testcase.map((one) => one.name)).toContain('<b>&"annex"</b>')
  })

  it('pages its links without missing or repeating one', async () => {
    const { id } = await sweep()
    const seen: string[] = []
    let cursor: string | undefined
    do {
      const page = await tomas.client.call('listSweepLinks', { params: { id }, query: { limit: 3, cursor } })
      seen.push(...page.items.map((one) => one.assignment.id))
      cursor = page.next ?? undefined
    } while (cursor)
    expect(seen).toHaveLength(LINKS + 2)
    expect(new Set(seen).size).toBe(LINKS + 2)
  })

  it('is nobody else’s: who teaches other courses neither sees nor moves it, and sounds none of its links', async () => {
    const { id } = await sweep()
    expect(await codeOf(show(id, nadia))).toBe('sweep.not_found')
    expect((await nadia.client.call('listSweeps', {})).items).toEqual([])
    expect(await codeOf(nadia.client.call('listSweepLinks', { params: { id }, query: {} }))).toBe('sweep.not_found')
    expect(await codeOf(nadia.client.call('changeSweep', { params: { id }, body: { state: 'stopped' } }))).toBe(
      'sweep.not_found',
    )
    expect(await codeOf(start({ course: 'HYD-210' }, nadia))).toBe('course.not_found')
    expect(await codeOf(start({}, nadia))).toBe('sweep.nothing')
  })
})

describe('a schedule', () => {
  it('begins sweeps as its person, and mails what is newly broken and nothing else', async () => {
    const made = await tomas.client.call('createSweepSchedule', {
      body: { tool: 'knotwork-annex', every: 'day', hour: 3, mail: true },
    })
    expect(made).toMatchObject({ title: 'Knotwork Annex, nightly', lastSweep: null })
    expect(new Date(made.nextAt).getUTCHours()).toBe(3)
    const due = async () => {
      await academy.query(`update sweep_schedule set next_at = now() - interval '1 second'`)
      await Promise.all([1, 2].map(() => startDueSweeps(academy.service.context as never)))
      const { lastSweep } = (await tomas.client.call('listSweepSchedules', {})).items[0]!
      return ended({ id: lastSweep! })
    }
    const first = await due()
    expect(first).toMatchObject({ scheduled: true, links: 2 })
    expect(
      (await tomas.client.call('listSweeps', { query: { limit: 200 } })).items.filter((one) => one.scheduled),
    ).toHaveLength(1)
    expect(post.caught).toEqual([])
    await secretOfAnnex('not-the-one')
    await due()
    await eventually(() => expect(post.caught).toHaveLength(1))
    expect(post.caught[0]!.text).toContain('2 newly broken')
    // What stays broken is mailed to nobody; what breaks after it is, so that the mail before it would have come by now.
    await due()
    await secretOfAnnex(SECRET)
    await due()
    await secretOfAnnex('not-the-one')
    await due()
    await eventually(() => expect(post.caught).toHaveLength(2))
    expect(post.caught[1]!.text).toContain('2 newly broken')
    await secretOfAnnex(SECRET)
    expect(await codeOf(nadia.client.call('removeSweepSchedule', { params: { id: made.id } }))).toBe(
      'sweep.no_schedule',
    )
    await tomas.client.call('removeSweepSchedule', { params: { id: made.id } })
    expect((await tomas.client.call('listSweepSchedules', {})).items).toEqual([])
  })
})
