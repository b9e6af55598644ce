import { beforeAll, describe, expect, it } from 'vitest'
import { startAcademy, type TestAcademy, type Visitor } from './harness.js'
import { launch13, LINE_ITEM, register13, SCORE, startClient13, verified, type Client13 } from './harness-13.js'

const AGS = 'https://purl.imsglobal.org/spec/lti-ags/claim/endpoint'
const READ = 'https://purl.imsglobal.org/spec/lti-ags/scope/lineitem.readonly'
let academy: TestAcademy
let client: Client13
let clientId = ''
let aino: Visitor
let subject = ''
let endpoint: { lineitem: string; lineitems: string; scope: string[] }
let assignment = ''

beforeAll(async () => {
  academy = await startAcademy()
  client = await startClient13(academy)
  clientId = (await register13(academy, client)).clientId!
  await academy.person('aino', { 'HYD-210': 'learner' })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  aino = await academy.signIn('aino')
  assignment = await make('Bearings')
  const claims = await claimsOf(assignment)
  endpoint = claims[AGS] as typeof endpoint
  subject = claims.sub!
})

async function make(title: string, more = {}) {
  const made = await academy.admin.client.call('createAssignment', {
    params: { course: 'HYD-210' },
    body: { title, tool: 'bearing-book', points: '40', category: 'Drills', publish: true, ...more },
  })
  return made.id
}
async function claimsOf(id: string) {
  const { fields } = await launch13(aino, id, client)
  return verified(academy, fields['id_token']!, clientId)
}
async function token(scope = SCORE) {
  const { body } = await client.token({ client_assertion: await client.assertion(clientId), scope })
  return body['access_token']!
}
let tick = 0
const score = (change: Record<string, unknown> = {}) => ({
  userId: subject,
  timestamp: new Date(Date.now() + tick++).toISOString(),
  activityProgress: 'Completed',
  gradingProgress: 'FullyGraded',
  scoreGiven: 64.5,
  scoreMaximum: 100,
  ...change,
})
async function post(body: unknown, options: { bearer?: string; lineitem?: string } = {}) {
  const response = await fetch(`${options.lineitem ?? endpoint.lineitem}/scores`, {
    method: 'POST',
    headers: {
      'content-type': 'application/vnd.ims.lis.v1.score+json',
      authorization: `Bearer ${options.bearer ?? (await token())}`,
    },
    body: typeof body === 'string' ? body : JSON.stringify(body),
  })
  return { status: response.status, error: ((await response.json().catch(() => ({}))) as { error?: string }).error }
}
const trail = async (id = assignment) =>
  await academy.admin.client.call('showTrail', { params: { assignment: id, person: 'aino' } })

describe('a launch of an assignment', () => {
  it('names its own column, so that two assignments on one content are told apart', async () => {
    expect(endpoint).toEqual({
      scope: [LINE_ITEM, READ, SCORE],
      lineitems: expect.any(String) as string,
      lineitem: `${endpoint.lineitems}/${assignment}`,
    })
    const other = (await claimsOf(await make('Bearings again')))[AGS] as typeof endpoint
    expect(other.lineitem).not.toBe(endpoint.lineitem)
  })
})

describe('a score of LTI 1.3', () => {
  it('is taken to the column of the right person, exact, with its comment in the trail', async () => {
    expect(await post(score({ comment: 'Well plotted' }))).toEqual({ status: 204, error: undefined })
    const { cell, items, explained } = await trail()
    expect(cell).toMatchObject({
      state: 'commented',
      points: '25.8',
      sent: '64.5',
      sentOutOf: '100',
      comment: 'Well plotted',
    })
    expect(items[0]).toMatchObject({
      outcome: 'accepted',
      counts: true,
      comment: 'Well plotted',
    })
    expect(explained).toContain('64.5 of 100 × 40 points = 25.8, shown as 26 (half up, no decimals)')
    const shown = await academy.admin.client.call('showAssignment', { params: { assignment } })
    expect(shown.proof.map((mark) => mark.state)).toEqual(Array.from({ length: 6 }, () => 'proven'))
  })

  it('replaces the one before, is cleared by one without scoreGiven, and moves nothing before it is final', async () => {
    await post(score({ scoreGiven: 30, scoreMaximum: 40 }))
    expect((await trail()).cell.points).toBe('30')
    expect((await post(score({ gradingProgress: 'PendingManual', scoreGiven: 1, scoreMaximum: 1 }))).status).toBe(204)
    expect((await trail()).cell.points).toBe('30')
    await post(score({ scoreGiven: undefined, scoreMaximum: undefined }))
    expect((await trail()).cell).toMatchObject({ state: 'cleared', points: null })
    await post(score({ scoreGiven: 44, scoreMaximum: 40 }))
    expect((await trail()).cell.points).toBe('44')
  })

  it('is refused by 409 when it is not newer than what stands, also when many come at once', async () => {
    const late = score({ scoreGiven: 1, scoreMaximum: 40 })
    await post(score({ scoreGiven: 20, scoreMaximum: 40 }))
    expect(await post(late)).toEqual({ status: 409, error: 'score_service.not_newer' })
    const same = score({ scoreGiven: 22, scoreMaximum: 40 })
    const bearer = await token()
    const statuses = (await Promise.all(Array.from({ length: 6 }, () => post(same, { bearer })))).map(
      (one) => one.status,
    )
    expect(statuses.filter((one) => one === 204)).toHaveLength(1)
    expect(statuses.filter((one) => one === 409)).toHaveLength(5)
    expect((await trail()).cell.points).toBe('22')
  })

  it.each([
    ['score_service.malformed', '['],
    ['score_service.malformed', '{"a":1,"a":2}'],
    ['score_service.malformed', { userId: '' }],
    ['score_service.timestamp', { timestamp: '2026-12-01' }],
    ['score_service.timestamp', { timestamp: '2026-12-01T12:00:00' }],
    ['score_service.progress', { gradingProgress: 'Done' }],
    ['score_service.progress', { activityProgress: 'Sleeping' }],
    ['score_service.given', { scoreGiven: -1 }],
    ['score_service.given', { scoreGiven: '64' }],
    ['score_service.maximum', { scoreMaximum: 0 }],
    ['score_service.maximum', { scoreMaximum: undefined }],
  ])('%s: %j is refused by name and leaves the gradebook alone', async (code, change) => {
    const before = (await trail()).cell.points
    expect(await post(typeof change === 'string' ? change : score(change))).toEqual({ status: 400, error: code })
    expect((await trail()).cell.points).toBe(before)
  })

  it('for a stranger, an instructor, another tool’s column or without the scope is refused', async () => {
    expect(await post(score({ userId: 'nobody' }))).toEqual({ status: 400, error: 'score_service.unknown_person' })
    const [tomas] = await academy.query<{ subject: string }>(`select subject from person where username = 'tomas'`)
    expect(await post(score({ userId: tomas!.subject }))).toEqual({ status: 400, error: 'score.not_a_learner' })
    expect(await post(score(), { lineitem: `${endpoint.lineitems}/nothing` })).toEqual({
      status: 404,
      error: 'line_item.not_found',
    })
    expect(await post(score(), { bearer: await token(LINE_ITEM) })).toEqual({
      status: 403,
      error: 'service_token.scope',
    })
    expect(await post(score(), { bearer: 'a.b.c' })).toEqual({ status: 401, error: 'service_token.unknown' })
    await academy.admin.client.call('changeEnrolment', {
      params: { course: 'HYD-210', person: 'aino' },
      body: { state: 'dropped' },
    })
    expect(await post(score())).toEqual({ status: 400, error: 'score.not_a_learner' })
    expect((await trail()).items[0]).toMatchObject({ outcome: 'refused', code: 'score.not_a_learner' })
    await academy.admin.client.call('changeEnrolment', {
      params: { course: 'HYD-210', person: 'aino' },
      body: { state: 'active' },
    })
    const { items } = await academy.admin.client.call('listWire', { query: { kind: 'score', outcome: 'refused' } })
    expect(items.length).toBeGreaterThan(10)
  })
})

describe('columns', () => {
  it('are read by the tool that owns them, filtered and in pages', async () => {
    const bearer = await token(READ)
    const get = async (url: string) => {
      const response = await fetch(url, { headers: { authorization: `Bearer ${bearer}` } })
      return {
        type: response.headers.get('content-type'),
        link: response.headers.get('link'),
        body: (await response.json()) as { id: string; label: string }[],
      }
    }
    const all = await get(endpoint.lineitems)
    expect(all.type).toContain('application/vnd.ims.lis.v2.lineitemcontainer+json')
    expect(all.body.map((one) => one.label).sort()).toEqual(['Bearings', 'Bearings again'])
    const first = await get(`${endpoint.lineitems}?limit=1`)
    expect(first.body).toHaveLength(1)
    const next = /<([^>]+)>; rel="next"/.exec(first.link!)![1]!
    const second = await get(next)
    expect([...first.body, ...second.body].map((one) => one.id).sort()).toEqual(all.body.map((one) => one.id).sort())
    expect(second.link).toBeNull()
    const [one] = await academy.query<{ link: string }>(
      `select resource_link_id as link from assignment where id = $1`,
      [assignment],
    )
    expect((await get(`${endpoint.lineitems}?resource_link_id=${one!.link}`)).body).toHaveLength(1)
    const single = await fetch(endpoint.lineitem, { headers: { authorization: `Bearer ${bearer}` } })
    expect(await single.json()).toMatchObject({
      id: endpoint.lineitem,
      label: 'Bearings',
      scoreMaximum: 40,
      resourceLinkId: one!.link,
    })
  })
})
