import { createSextant, createSignal, createWatchlog } from '@bathyscribe/practice-tools'
import { beforeAll, describe, expect, it } from 'vitest'
import { eventually } from '../../../test/eventually.js'
import { startAcademy, type TestAcademy, type Visitor } from './harness.js'
import { startPractice, type Practice } from './practice-13.js'
import { SCOPES_13 } from './scoring-13.js'
import { endOf } from './soundings.js'

let academy: TestAcademy
let tomas: Visitor
let aino: Visitor
let bo: Visitor
const tools: Record<'watchlog' | 'signal' | 'sextant', Practice> = {} as never
const SCOPES = [SCOPES_13.score, SCOPES_13.columns, SCOPES_13.results]

beforeAll(async () => {
  academy = await startAcademy({ outgoingTimeoutMs: 10_000 })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  for (const name of ['aino', 'bo']) await academy.person(name, { 'HYD-210': 'learner' })
  ;[tomas, aino, bo] = [await academy.signIn('tomas'), await academy.signIn('aino'), await academy.signIn('bo')]
  tools.watchlog = await startPractice(academy, 'Watchlog Essays', createWatchlog, SCOPES, { target: '/log' })
  tools.signal = await startPractice(academy, 'Signal Mast', createSignal, SCOPES, { target: '/mast' })
  tools.sextant = await startPractice(academy, 'Sextant Bench', createSextant, SCOPES, { target: '/bench' })
})
const make = async (tool: Practice, title: string, more: Record<string, unknown> = {}) =>
  (
    await academy.admin.client.call('createAssignment', {
      params: { course: 'HYD-210' },
      body: { title, tool: tool.slug, points: '12', category: 'Drills', publish: true, ...more },
    })
  ).id
const trail = (assignment: string, person: string) => tomas.client.call('showTrail', { params: { assignment, person } })

describe('Watchlog Essays', () => {
  it('hands in, withdraws, waits, is graded with a rubric, returned with its comment, and looked at from the gradebook', async () => {
    const essay = await make(tools.watchlog, 'First watch')
    const page = await tools.watchlog.enter(aino, essay)
    await page.post('/hand-in', { text: 'At two bells the wind backed.' })
    expect((await trail(essay, 'aino')).cell).toMatchObject({ state: 'waiting', points: null })
    await page.post('/withdraw')
    expect((await trail(essay, 'aino')).cell.state).toBe('started')
    await page.post('/hand-in', { text: 'At four bells the wind veered.' })

    const [{ id, subject }] = (await academy.query<{ id: string; subject: string }>(
      `select id, subject from person where username = 'aino'`,
    )) as [{ id: string; subject: string }]
    const review = await tools.watchlog.enter(tomas, essay, `/lti/review/${essay}/${id}`)
    expect(review.html).toContain('At four bells')
    await review.post('/grade', {
      student: subject,
      facts: '4',
      seamanship: '3.5',
      language: '1',
      comment: 'Say who gave the order.',
      show: 'on',
    })
    const graded = await trail(essay, 'aino')
    expect(graded).toMatchObject({
      reviewable: true,
      cell: { state: 'commented', points: '8.5', sent: '8.5', sentOutOf: '12', comment: 'Say who gave the order.' },
    })
    expect(graded.items.map((one) => one.grading)).toEqual([
      'FullyGraded',
      'PendingManual',
      'NotReady',
      'PendingManual',
    ])
    const work = await aino.client.call('showWork', { params: { assignment: essay } })
    expect(work).toMatchObject({ reviewable: true, result: { points: '8.5', comment: 'Say who gave the order.' } })
    expect((await tools.watchlog.enter(aino, essay, `/lti/review/${essay}/${id}`)).html).toContain(
      'Say who gave the order.',
    )
    expect((await bo.send(`/lti/review/${essay}/${id}`)).status).toBe(404)
  })
})

describe('Signal Mast', () => {
  it('sends on demand, and to a column of its own, which is found to be for the same work', async () => {
    const link = await make(tools.signal, 'Cloud and cover, round 1', {
      points: '5',
      customParameters: { topic: 'Cloud and cover', round: '1' },
    })
    await (await tools.signal.enter(bo, link)).post('/observe', { text: 'Lookout posted.' })
    expect((await trail(link, 'bo')).cell.points).toBe('5')
    const mast = await tools.signal.enter(tomas, link)
    expect((await mast.post('/send')).html).toContain('1 of 1 scores were taken')
    await mast.post('/send', { own: 'yes' })
    const { items } = await tomas.client.call('listTwins', { params: { course: 'HYD-210' } })
    expect(items).toMatchObject([{ made: { title: 'Cloud and cover, round 1', scored: 1 }, ours: { id: link } }])
    await tomas.client.call('mergeColumn', { params: { assignment: items[0]!.made.id }, body: { into: link } })
    expect((await trail(link, 'bo')).items).toHaveLength(3)
  })
})

describe('Sextant Bench', () => {
  it('marks all answers again as a long job, and the gradebook shows it as one event', async () => {
    const link = await make(tools.sextant, 'Noon altitude', {
      points: '20',
      customParameters: { exercise: 'altitude' },
    })
    await (await tools.sextant.enter(tomas, link)).post('/choose', { exercise: 'altitude', open: 'on' })
    for (const who of [aino, bo]) await (await tools.sextant.enter(who, link)).post('/answer', { answer: '0' })
    const before = (await trail(link, 'aino')).items.length
    const progress = await (await tools.sextant.enter(tomas, link)).post('/rescore', { tolerance: '2' })
    expect(progress.html).toContain('scores sent again')
    const state = async () =>
      (await (await fetch(`${tools.sextant.url}/practice/rescoring`)).json()) as { done: number; of: number }
    await eventually(async () => expect(await state()).toMatchObject({ done: 2, of: 2, refused: 0 }))
    const after = await trail(link, 'aino')
    expect(after.items).toHaveLength(before + 1)
    expect(after.items[0]).toMatchObject({ pointsBefore: '0', points: '20' })
  })

  it.each([
    ['score_above_maximum', { outcome: 'accepted', points: '24' }],
    ['score_twice', { outcome: 'accepted', points: '20' }],
    ['score_ten_at_once', { outcome: 'accepted', points: '20' }],
  ] as const)('%s: what was earned stands once', async (fault, expected) => {
    const link = await make(tools.sextant, `Fault ${fault}`, { points: '20' })
    await (await tools.sextant.enter(tomas, link)).post('/choose', { exercise: 'altitude', open: 'on' })
    await tools.sextant.faults(fault)
    const page = await tools.sextant.enter(aino, link)
    const question = /name="answer"/.test(page.html)
    expect(question).toBe(true)
    await page.post('/answer', { answer: String((await answerOf()).answer) })
    await tools.sextant.faults()
    const { items, cell } = await trail(link, 'aino')
    expect(items[0]).toMatchObject(expected)
    expect(cell.points).toBe(expected.points)
    expect(new Set(items.map((one) => one.sentAt)).size).toBe(items.length)
  })

  it.each([
    ['score_old_timestamp', 'score_service.not_newer'],
    ['score_wrong_user', 'score_service.unknown_person'],
    ['score_expired_token', 'service_token.unknown'],
  ] as const)('%s: is refused by name and moves nothing', async (fault, code) => {
    const link = await make(tools.sextant, `Fault ${fault}`, { points: '20' })
    await (await tools.sextant.enter(tomas, link)).post('/choose', { exercise: 'altitude', open: 'on' })
    const answer = String((await answerOf()).answer)
    await (await tools.sextant.enter(aino, link)).post('/answer', { answer })
    await tools.sextant.faults(fault)
    await (await tools.sextant.enter(aino, link)).post('/answer', { answer })
    await tools.sextant.faults()
    const { items } = await academy.admin.client.call('listWire', {
      query: { kind: 'score', outcome: 'refused', limit: 1 },
    })
    expect(items[0]).toMatchObject({ code })
    expect((await trail(link, 'aino')).cell).toMatchObject({ points: '20' })
  })

  it('that makes a column of its own is found out', async () => {
    const link = await make(tools.sextant, 'Doubled', { points: '10' })
    await (await tools.sextant.enter(tomas, link)).post('/choose', { exercise: 'altitude', open: 'on' })
    await tools.sextant.faults('duplicate_column')
    await (await tools.sextant.enter(aino, link)).post('/answer', { answer: '0' })
    await tools.sextant.faults()
    const { items } = await tomas.client.call('listTwins', { params: { course: 'HYD-210' } })
    expect(items.find((one) => one.ours.id === link)).toMatchObject({ made: { title: 'Doubled' } })
    const shown = await tomas.client.call('showAssignment', { params: { assignment: link } })
    expect(shown.preflight.map((one) => one.rule)).toContain('one_column')
  })

  async function answerOf() {
    const { EXERCISES } = await import('../../practice-tools/src/sextant/exercises.js')
    return EXERCISES.find((one) => one.id === 'altitude') ?? EXERCISES[0]!
  }
})

describe('a sounding', () => {
  it.each(['watchlog', 'signal', 'sextant'] as const)('proves %s to the gradebook', async (name) => {
    const link = await make(tools[name], `Sounded ${name}`, { counting: 'best' })
    const { id } = await tomas.client.call('runSounding', { params: { assignment: link } })
    const found = await endOf({ admin: tomas }, id)
    expect(found.findings.filter((one) => one.verdict === 'fail')).toEqual([])
    expect(found.findings.find((one) => one.check === 'value')).toMatchObject({ verdict: 'pass' })
  })
})
