import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { codeOf, publishDrill, registerKnotwork, startAcademy, type TestAcademy, type Visitor } from './harness.js'
import { endOf, runSounding } from './soundings.js'

let academy: TestAcademy
let tomas: Visitor
let n = 0
beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  await academy.person('niamh', { 'HYD-210': 'learner' })
  tomas = await academy.signIn('tomas')
})
const drill = async (change: Record<string, unknown> = {}, tool = 'knotwork-drills') =>
  (await publishDrill(academy, tool, { title: `Deep ${++n}`, ...change })).id
const finding = (one: Awaited<ReturnType<typeof runSounding>>, check: string) =>
  one.findings.find((found) => found.check === check)

describe('a pilot', () => {
  it('has to have agreed, to be a learner of the course, and to be named by somebody who teaches it', async () => {
    const assignment = await drill()
    const call = (who: Visitor, body: object) =>
      codeOf(who.client.call('runSounding', { params: { assignment }, body }))
    expect(await call(tomas, { pilot: 'niamh' })).toBe('sounding.pilot_consent')
    expect(await call(tomas, { pilot: 'tomas', consented: true })).toBe('enrolment.not_found')
    expect(await call(tomas, { pilot: 'nobody', consented: true })).toMatch(/not_found/)
    expect(await call(await academy.signIn('niamh'), { pilot: 'niamh', consented: true })).toBe('access.denied')
  })

  it('gets in where test learners are refused, and keeps the numbers that she had', async () => {
    const assignment = await drill({ customParameters: { practice_fault: 'refuses_test_learner' } })
    await tomas.client.call('gradeByHand', {
      params: { assignment, person: 'niamh' },
      body: { act: 'override', points: '7' },
    })
    await tomas.client.call('gradeByHand', { params: { assignment, person: 'niamh' }, body: { act: 'lift' } })
    const before = await tomas.client.call('showTrail', { params: { assignment, person: 'niamh' } })
    expect((await runSounding(academy, assignment)).verdict).toBe('fail')
    const one = await runSounding(academy, assignment, { pilot: 'niamh', consented: true })
    expect(one).toMatchObject({ verdict: 'pass', pilot: { username: 'niamh' } })
    expect(finding(one, 'value')).toMatchObject({ verdict: 'pass' })
    const after = await tomas.client.call('showTrail', { params: { assignment, person: 'niamh' } })
    expect(after.cell.points).toBe(before.cell.points)
    expect(after.items.filter((entry) => entry.setAsideBy === one.id).length).toBeGreaterThan(0)
    const { items } = await academy.admin.client.call('listAudit', { query: { limit: 50 } })
    expect(items.map((entry) => entry.action)).toContain('sounding.pilot')
  })
})

describe('a sounding that waits for a person', () => {
  it('says what to do, lets others run meanwhile, and goes on by itself when the score comes', async () => {
    const byHand = await registerKnotwork(academy, {
      name: 'Drills by hand',
      secondReason: 'test',
      soundingParameters: {},
    })
    const assignment = await drill({}, byHand.slug)
    const { id } = await academy.admin.client.call('runSounding', { params: { assignment }, body: { waitMinutes: 5 } })
    const waiting = () => academy.admin.client.call('showSounding', { params: { id } })
    await expect.poll(async () => (await waiting()).waiting?.for, { timeout: 15_000 }).toMatch(/as the test learner/)
    expect((await runSounding(academy, await drill())).verdict).toBe('pass')
    expect((await waiting()).state).toBe('running')
    await academy.admin.client.call('tryLaunch', { params: { assignment }, body: { as: 'test_learner' } })
    const { testLearner } = await academy.admin.client.call('showAssignment', { params: { assignment } })
    await handIn(assignment)
    const one = await endOf(academy, id)
    expect(one, JSON.stringify(one.findings.map((each) => each.statement))).toMatchObject({
      state: 'done',
      waiting: null,
    })
    expect(finding(one, 'received')).toMatchObject({ verdict: 'pass' })
    const trail = await academy.admin.client.call('showTrail', { params: { assignment, person: testLearner!.id } })
    expect(trail.cell.points).toBeNull()
  })

  it('goes on without the work when somebody who teaches the course says so; then nothing is said of the score', async () => {
    const assignment = await drill({}, 'drills-by-hand')
    const { id } = await tomas.client.call('runSounding', { params: { assignment }, body: { waitMinutes: 60 } })
    const at = { params: { id } }
    const state = async () => (await tomas.client.call('showSounding', at)).waiting
    await expect.poll(state, { timeout: 15_000 }).not.toBeNull()
    await academy.person('stranger', {})
    expect(await codeOf((await academy.signIn('stranger')).client.call('endWait', at))).toBe('access.denied')
    expect(await codeOf((await academy.signIn('niamh')).client.call('endWait', at))).toBe('access.denied')
    expect(await state()).not.toBeNull()
    await tomas.client.call('endWait', at)
    const one = await endOf(academy, id)
    expect(one).toMatchObject({ state: 'done', verdict: 'warn' })
    expect(finding(one, 'score back')).toMatchObject({ code: 'not_proven' })
    expect(finding(one, 'received')).toBeUndefined()
    // Once it is over it makes no difference.
    expect(await tomas.client.call('endWait', at)).toMatchObject({ id, state: 'done' })
    expect(await codeOf(tomas.client.call('endWait', { params: { id: 'nosuchsoundg' } }))).toBe('sounding.not_found')
  })

  it('waits for nobody where the tool did score by itself, and the score was refused', async () => {
    const assignment = await drill({ customParameters: { practice_fault: 'score_wrong_secret' } })
    const one = await runSounding(academy, assignment, { waitMinutes: 60 })
    expect(one).toMatchObject({ verdict: 'fail' })
    expect(finding(one, 'received')).toMatchObject({ verdict: 'fail', code: 'call_refused' })
  })

  it('is taken for left behind only after the time that it may wait', async () => {
    const assignment = await drill()
    const insert = (id: string, minutes: number, wait: number) =>
      academy.query(
        `insert into sounding (id, assignment_id, state, started_at, waits_until) values ($2, $1, 'running', now() - make_interval(mins => $3), now() + make_interval(mins => $4))`,
        [assignment, id, minutes, wait],
      )
    await insert('waits', 10, 20)
    expect(await codeOf(academy.admin.client.call('runSounding', { params: { assignment } }))).toBe(
      'sounding.already_running',
    )
    await academy.query(`update sounding set waits_until = now() - interval '3 minutes' where id = 'waits'`)
    expect((await runSounding(academy, assignment)).verdict).toBe('pass')
  })

  /** The test learner opens the work in a browser and hands it in. */
  async function handIn(assignment: string): Promise<void> {
    const page = await (await tomas.send(`/lti/launch/${assignment}?as=test_learner`)).text()
    const field = (html: string) =>
      [...html.matchAll(/<input type="hidden" name="([^"]*)" value="([^"]*)"/g)].map(([, key, value]) => [key!, value!.replaceAll('&amp;', '&').replaceAll('&#39;', "'").replaceAll('&quot;', '"')]) // oxfmt-ignore
    const drillPage = await (await fetch(`${academy.knotwork}/launch`, { method: 'POST', body: new URLSearchParams(field(page)) })).text() // oxfmt-ignore
    const answers = new URLSearchParams([...field(drillPage), ['q0', '0'], ['q1', '1'], ['q2', '2']])
    const done = await fetch(`${academy.knotwork}/answers`, { method: 'POST', body: answers })
    expect(done.status).toBe(200)
  }
})

describe('a course without an instructor', () => {
  const without = { course: 'TID-300' }
  let assignment: string
  beforeAll(async () => {
    const { client } = academy.admin
    await client.call('createCourse', { body: { code: 'TID 300', title: 'Tides' } })
    await academy.person('aud', { 'TID-300': 'teaching_assistant' })
    const body = { title: 'High water', tool: 'knotwork-drills', points: '10', publish: true }
    assignment = (await client.call('createAssignment', { params: without, body })).id
  })
  const launched = (one: Awaited<ReturnType<typeof runSounding>>) =>
    one.findings.find(({ stage, check }) => stage === 'launch_instructor' && check !== 'framing')

  it('is sounded by an administrator in the own name, which is said; by nobody else', async () => {
    const mine = await runSounding(academy, assignment)
    expect(mine.verdict, JSON.stringify(mine.findings)).not.toBe('fail')
    const taken = mine.findings.find(({ stage, check }) => stage === 'launch_instructor' && check === 'taken')
    expect(taken!.statement).toMatch(/\(administrator\)/)
    const aud = await academy.signIn('aud')
    const { id } = await aud.client.call('runSounding', { params: { assignment }, body: {} })
    expect(launched(await endOf(academy, id))).toMatchObject({ verdict: 'fail', statement: expect.stringMatching(/no instructor/) as string }) // oxfmt-ignore
    expect(await codeOf(aud.client.call('tryLaunch', { params: { assignment }, body: { as: 'instructor' } }))).toBe(
      'launch.no_instructor',
    )
    const tried = await academy.admin.client.call('tryLaunch', { params: { assignment }, body: { as: 'instructor' } })
    expect(tried.accepted).toBe(true)
  })

  it('is entered by an administrator, as whom stands in the audit', async () => {
    const opened = async (query: string) => {
      expect((await academy.admin.send(`/lti/launch/${assignment}${query}`)).status).toBe(200)
      const { items } = await academy.admin.client.call('listAudit', { query: { limit: 5 } })
      return items.filter((one) => one.action === 'launch as administrator').map((one) => [one.subject, one.after])
    }
    expect((await opened(''))[0]).toEqual([`assignment ${assignment}`, { as: 'ingrid' }])
    expect((await opened('?as=test_learner'))[0]![1]).not.toEqual({ as: 'ingrid' })
    // Who is of the course leaves no such entry.
    await academy.person('ines', { 'TID-300': 'instructor' })
    await (await academy.signIn('ines')).send(`/lti/launch/${assignment}`)
    const { items } = await academy.admin.client.call('listAudit', { query: { limit: 50 } })
    const all = items.filter((one) => one.action === 'launch as administrator')
    expect(all).toHaveLength(2)
    expect(all.map((one) => one.person?.username)).not.toContain('ines')
  })
})

describe('what answers in the place of the tool', () => {
  /** What it answers to instructors, and to all others. */
  let answers: Record<'instructor' | 'other', { status: number; body: string }>
  let sent: string[]
  const server = createServer(async (request, response) => {
    let body = ''
    for await (const chunk of request) body += String(chunk)
    if (request.method !== 'POST') return response.end('Behind a wall')
    const roles = new URLSearchParams(body).get('roles') ?? ''
    sent.push(roles)
    const answer = answers[roles.includes('Instructor') ? 'instructor' : 'other']
    response.writeHead(answer.status, { 'content-type': 'text/html' }).end(`<p>${answer.body}</p>`)
  })
  let slug: string
  beforeAll(async () => {
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
    const launchUrl = `http://127.0.0.1:${(server.address() as AddressInfo).port}/launch`
    slug = (await registerKnotwork(academy, { name: 'Behind a wall', launchUrl, secondReason: 'test' })).slug
  })
  afterAll(() => server.close())
  const GOOD = { status: 200, body: 'Welcome aboard' }

  it.each([
    ['maintenance', 503, 'Down for maintenance. We will be back soon.', /reads like a page of maintenance/],
    ['a firewall', 503, 'Your request has been blocked by our firewall.', /reads like a firewall/],
    ['too many requests', 429, 'Slow down', /429, too many requests/],
    ['a fault of its server', 500, 'Oops', /server failed with 500/],
  ])('is told as that, and not probed further: %s', async (_, status, body, said) => {
    for (const whom of ['instructor', 'other'] as const) {
      sent = []
      answers = { instructor: GOOD, other: GOOD, [whom]: { status, body } }
      const one = await runSounding(academy, await drill({}, slug), { depth: 'plain' })
      const failed = one.findings.filter((found) => found.verdict === 'fail')
      expect(failed[0]?.cause, `${whom}: ${JSON.stringify(failed)}`).toMatch(said)
      expect(failed[0]?.cause).not.toMatch(/test learner/)
      expect(sent.length).toBeLessThan(4)
    }
  })
})

describe('what is expected of a link', () => {
  const expected = (assignment: string, body: object) =>
    tomas.client.call('setExpectation', { params: { assignment }, body })

  it('is checked by every sounding from then on, each part by its own finding', async () => {
    const assignment = await drill()
    await expected(assignment, { answersWithinMs: 60_000, contains: '0.645', scoreFrom: '0.6', scoreTo: '0.7' })
    const good = await runSounding(academy, assignment, { depth: 'plain' })
    expect(good.verdict).toBe('pass')
    for (const check of ['expected time', 'expected words', 'expected score'])
      expect(finding(good, check), check).toMatchObject({ verdict: 'pass' })
    await expected(assignment, { answersWithinMs: 1, contains: 'Clouds', scoreFrom: '0.7', membersFrom: 3 })
    const bad = await runSounding(academy, assignment)
    for (const check of ['expected time', 'expected words', 'expected score', 'expected members'])
      expect(finding(bad, check), check).toMatchObject({ verdict: 'fail', remedy: expect.any(String) as string })
  })

  it('is learned from a sounding that passed, and only from one', async () => {
    const assignment = await drill()
    const learn = () => tomas.client.call('learnExpectation', { params: { assignment } })
    expect(await codeOf(learn())).toBe('expectation.not_proven')
    const one = await runSounding(academy, assignment)
    expect(await learn()).toMatchObject({ scoreFrom: '0.645', scoreTo: '0.645', learnedFrom: one.id })
    expect((await runSounding(academy, assignment)).verdict).toBe('pass')
    await tomas.client.call('removeExpectation', { params: { assignment } })
    expect(await codeOf(tomas.client.call('removeExpectation', { params: { assignment } }))).toBe(
      'expectation.not_found',
    )
    expect((await tomas.client.call('showExpectation', { params: { assignment } })).expectation).toBeNull()
  })

  it('that says nothing, or the wrong way round, is refused and changes nothing', async () => {
    const assignment = await drill()
    await expected(assignment, { contains: 'Knotwork' })
    expect(await codeOf(expected(assignment, {}))).toBe('expectation.empty')
    expect(await codeOf(expected(assignment, { scoreFrom: '0.9', scoreTo: '0.1' }))).toBe('expectation.range')
    expect(await codeOf(expected(assignment, { scoreFrom: '1.5' }))).toBe('request.invalid')
    expect((await tomas.client.call('showExpectation', { params: { assignment } })).expectation).toMatchObject({
      contains: 'Knotwork',
    })
  })
})

describe('two soundings side by side', () => {
  it('say what is worse, better or new since the last that passed', async () => {
    const assignment = await drill()
    expect(await codeOf(tomas.client.call('compareSoundings', { params: { id: (await runSounding(academy, assignment)).id } }))).toBe('sounding.none_passed') // oxfmt-ignore
    await tomas.client.call('setExpectation', { params: { assignment }, body: { contains: 'nowhere to be read' } })
    const worse = await runSounding(academy, assignment)
    const both = await tomas.client.call('compareSoundings', { params: { id: worse.id } })
    expect(both.later.id).toBe(worse.id)
    expect(both.checks.filter((one) => one.change !== 'same').map((one) => [one.check, one.change])).toContainEqual(['expected words', 'new']) // oxfmt-ignore
    expect(both.checks.find((one) => one.check === 'preflight')!.change).toBe('same')
    const stranger = await runSounding(academy, await drill())
    expect(await codeOf(tomas.client.call('compareSoundings', { params: { id: worse.id }, query: { with: stranger.id } }))).toBe('sounding.not_found') // oxfmt-ignore
  })
})

describe('a rehearsal', () => {
  it('shows what the test learner has opened and got, is cleared, and is kept from learners', async () => {
    const assignment = await drill()
    const show = () => tomas.client.call('showRehearsal', { params: { course: 'HYD-210' } })
    const lineOf = async () => (await show()).items.find((one) => one.assignment.id === assignment)!
    expect(await lineOf()).toMatchObject({ launches: 0, points: null })
    await tomas.send(`/lti/launch/${assignment}?as=test_learner`)
    const { testLearner } = await tomas.client.call('showAssignment', { params: { assignment } })
    await tomas.client.call('gradeByHand', {
      params: { assignment, person: testLearner!.id },
      body: { act: 'override', points: '55' },
    })
    expect(await lineOf()).toMatchObject({ launches: 1, points: '55' })
    const reset = await tomas.client.call('clearTestLearner', { params: { course: 'HYD-210' } })
    expect(reset.visits).toBeGreaterThan(0)
    expect((await show()).traces).toBe(0)
    expect(await lineOf()).toMatchObject({ launches: 0, points: null })
    const { items } = await academy.admin.client.call('listAudit', { query: { limit: 20 } })
    expect(items.map((entry) => entry.action)).toContain('rehearsal.reset')
    const niamh = await academy.signIn('niamh')
    expect(await codeOf(niamh.client.call('showRehearsal', { params: { course: 'HYD-210' } }))).toBe('access.denied')
    expect(await codeOf(niamh.client.call('clearTestLearner', { params: { course: 'HYD-210' } }))).toBe('access.denied')
  })

  it('says which tools take no test learners', async () => {
    const assignment = await drill({ customParameters: { practice_fault: 'refuses_test_learner' } })
    await runSounding(academy, assignment)
    const { items } = await tomas.client.call('showRehearsal', { params: { course: 'HYD-210' } })
    expect(items.filter((one) => one.refusesTestLearners).map((one) => one.assignment.id)).toContain(assignment)
  })
})
