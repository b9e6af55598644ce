import { inWords } from '@bathyscribe/contract'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { codeOf, KEY, publishDrill, registerKnotwork, SECRET, startAcademy, type TestAcademy } from './harness.js'
import { runSounding } from './soundings.js'

let academy: TestAcademy
let n = 0

beforeAll(async () => {
  academy = await startAcademy({ outgoingTimeoutMs: 8000, toolSlowMs: 12_000 })
  await registerKnotwork(academy)
  await academy.person('tomas', { 'HYD-210': 'instructor' })
})

const sound = (assignment: string) => runSounding(academy, assignment)
const drill = async (tool = 'knotwork-drills', change: Record<string, unknown> = {}) =>
  (await publishDrill(academy, tool, { title: `Drill ${++n}`, ...change })).id
const faulty = (fault: string) => drill('knotwork-drills', { customParameters: { practice_fault: fault } })

describe('a sounding of the honest tool', () => {
  it('passes every stage, and lights all six marks with evidence', async () => {
    const assignment = await drill()
    const one = await sound(assignment)
    expect(one).toMatchObject({ state: 'done', verdict: 'pass', cause: null })
    expect(one.stages.map(({ stage, verdict }) => `${stage} ${verdict}`)).toEqual([
      ...['settings', 'registration', 'reachability', 'launch_instructor', 'launch_test_learner'].map(
        (each) => `${each} pass`,
      ),
      ...[
        'score pass',
        'gradebook pass',
        'again pass',
        'roster skipped',
        'picker skipped',
        'review skipped',
        'cleanup pass',
      ],
    ])
    expect(one.findings.find((found) => found.stage === 'gradebook')!.statement).toBe(
      '0.645 of 1 × 100 points = 64.5, as the gradebook has it.',
    )
    // What is told was made of facts, which come along.
    expect(one.findings.find((found) => found.check === 'value')).toMatchObject({
      code: 'agrees',
      facts: { sent: '0.645', outOf: '1', points: '100', value: '64.5' },
    })
    for (const found of one.findings) expect(found).toMatchObject(inWords(found))
    const { proof } = await academy.admin.client.call('showAssignment', { params: { assignment } })
    expect(proof.map((mark) => mark.state)).toEqual(Array(6).fill('proven'))
  })

  it('leaves nothing in anybody’s numbers: the trail keeps what came, set aside by the sounding', async () => {
    const { client } = academy.admin
    for (const testLearner of ['false', 'true'] as const) {
      const book = await client.call('showGradebook', { params: { course: 'HYD-210' }, query: { testLearner } })
      expect(book.rows.flatMap((row) => Object.values(row.cells)).filter((cell) => cell.points !== null)).toEqual([])
    }
    const assignment = await drill()
    const one = await sound(assignment)
    const { testLearner } = await client.call('showAssignment', { params: { assignment } })
    const trail = await client.call('showTrail', { params: { assignment, person: testLearner!.id } })
    expect(trail.items.length).toBeGreaterThan(0)
    expect(trail.items.map((entry) => entry.setAsideBy)).toEqual(trail.items.map(() => one.id))
    expect(trail.cell.points).toBeNull()
  })

  it('keeps what the test learner had before: a rehearsal’s score stands again afterwards', async () => {
    const { client } = academy.admin
    const assignment = await drill()
    const { testLearner } = await client.call('showAssignment', { params: { assignment } })
    await client.call('gradeByHand', {
      params: { assignment, person: testLearner!.id },
      body: { act: 'override', points: '12' },
    })
    await sound(assignment)
    const trail = await client.call('showTrail', { params: { assignment, person: testLearner!.id } })
    expect(trail.cell).toMatchObject({ points: '12' })
  })
})

describe('a sounding of a registration that is wrong', () => {
  it.each([
    ['a wrong secret', { sharedSecret: 'halyard-3-bowline-fid-7' }, /The shared secret is wrong/],
    ['a wrong key', { consumerKey: 'skerrow-knot' }, /does not know the consumer key “skerrow-knot”/],
    ['key and secret swapped', { consumerKey: SECRET, sharedSecret: KEY }, /swapped/],
    ['a blank behind the secret', { sharedSecret: `${SECRET} `, acceptBlanks: true }, /has spaces/],
    ['a port where nobody listens', { launchUrl: 'http://127.0.0.1:5/launch' }, /Nothing answers/],
  ])('with %s names it', async (name, change, cause) => {
    const tool = await registerKnotwork(academy, { name, secondReason: 'test', ...change })
    const one = await sound(await drill(tool.slug))
    expect(one.verdict).toBe('fail')
    expect(one.cause).toMatch(cause)
    const later = one.findings.filter((finding) => finding.verdict === 'skipped')
    expect(later.length).toBeGreaterThan(0)
  })

  it.each<[string, Record<string, unknown>, Record<string, unknown>, string, string, RegExp]>([
    [
      'was not told how to score',
      { soundingParameters: {} },
      {},
      'warn',
      'warn',
      /^Whether its score comes back is not proven/,
    ],
    ['returns no scores', { features: [] }, {}, 'fail', 'fail', /^No score of this assignment can come back/],
    [
      'was not told how to score what is not counted',
      { soundingParameters: {} },
      { counted: false },
      'pass',
      'skipped',
      /^$/,
    ],
    ['returns no scores for what is not counted', { features: [] }, { counted: false }, 'pass', 'skipped', /^$/],
  ])('where the tool %s', async (name, change, work, verdict, stage, cause) => {
    const tool = await registerKnotwork(academy, { name: `Tool that ${name}`, secondReason: 'a test', ...change })
    const one = await sound(await drill(tool.slug, work))
    expect([one.verdict, one.stages.find((each) => each.stage === 'score')!.verdict]).toEqual([verdict, stage])
    expect(one.cause ?? '').toMatch(cause)
    // What did not come is never compared.
    expect(one.stages.find((each) => each.stage === 'gradebook')!.verdict).toBe('skipped')
    if (verdict === 'warn')
      expect(one.findings.find((each) => each.stage === 'score')!.remedy).toMatch(/--wait 10.*--sounding NAME=VALUE/)
  })

  it('after a rotation that the tool did not follow names the secret that it has, and the wire says what was changed', async () => {
    const tool = await registerKnotwork(academy, { name: 'Rotated here', secondReason: 'a test' })
    const link = await drill(tool.slug)
    expect((await sound(link)).verdict).toBe('pass')
    await academy.admin.client.call('rotateSecret', {
      params: { tool: tool.slug },
      body: { sharedSecret: 'a-new-one-that-only-we-have', overlapHours: 24, launchesWith: 'new' },
    })
    const one = await sound(link)
    expect([one.verdict, one.cause]).toEqual(['fail', expect.stringMatching(/still has the previous secret/)])
    const { wireEntryId } = one.findings.find((each) => each.verdict === 'fail')!
    const told = await academy.admin.client.call('showWireDifference', { params: { entry: wireEntryId! } })
    expect(told.good).not.toBeNull()
    expect(told.changes).toMatchObject([{ what: 'tool_credentials', by: 'Ingrid Valesdottir' }])
    const check = await academy.admin.client.call('checkTool', { params: { tool: tool.slug } })
    expect(check.findings.map((each) => each.statement).join()).toMatch(/another secret of this registration/)
  })

  it('left behind by a killed service is marked as interrupted, and a new one can be started', async () => {
    const assignment = await drill()
    await academy.query(
      `insert into sounding (id, assignment_id, state, started_at) values ('killed', $1, 'running', now() - interval '3 minutes')`,
      [assignment],
    )
    expect((await sound(assignment)).verdict).toBe('pass')
    const old = await academy.admin.client.call('showSounding', { params: { id: 'killed' } })
    expect(old).toMatchObject({ state: 'interrupted', cause: expect.stringContaining('run it again') as string })
  })

  it('cannot be started twice at once', async () => {
    const assignment = await faulty('slow')
    const codes = await Promise.all(
      [1, 2, 3].map(() => codeOf(academy.admin.client.call('runSounding', { params: { assignment } }))),
    )
    expect(codes.filter((code) => code === undefined)).toHaveLength(1)
    expect(codes.filter((code) => code === 'sounding.already_running')).toHaveLength(2)
  })
})

describe('a tool’s end that is hostile', () => {
  let server: Server
  let base: string
  beforeAll(async () => {
    server = createServer((request, response) => {
      const to = new URL(request.url!, 'http://x').searchParams.get('to')
      if (to === 'loop') response.writeHead(302, { location: request.url! }).end()
      else if (to === 'endless') {
        response.writeHead(200, { 'content-type': 'text/html' })
        const more = setInterval(() => response.write('x'.repeat(64 * 1024)), 1)
        response.on('close', () => clearInterval(more))
      } else response.writeHead(302, { location: to ?? 'http://10.0.0.1/' }).end()
    })
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
    base = `http://127.0.0.1:${(server.address() as AddressInfo).port}/`
  })
  afterAll(() => void server.close())

  it.each([
    ['redirects in a circle', '?to=loop', 'outgoing.too_many_redirects'],
    ['never ends', '?to=endless', 'outgoing.too_large'],
    ['redirects to a private host', '?to=http://10.1.2.3/', 'outgoing.forbidden_address'],
    ['redirects to a private host by its IPv6 form', '?to=http://[::ffff:192.168.1.1]/', 'outgoing.forbidden_address'],
    ['redirects to a file', '?to=file:///etc/passwd', 'outgoing.bad_redirect'],
  ])('%s: the launch ends by %3$s', async (name, query, code) => {
    const tool = await registerKnotwork(academy, { name, launchUrl: base + query })
    const tried = await academy.admin.client.call('tryLaunch', {
      params: { assignment: await drill(tool.slug) },
      body: { as: 'instructor' },
    })
    expect(tried.accepted).toBe(false)
    const entry = await academy.admin.client.call('showWireEntry', { params: { entry: tried.wireEntryId } })
    expect(entry.code).toBe(code)
  })
})
