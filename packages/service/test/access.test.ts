import { operations, type OperationName } from '@bathyscribe/contract'
import { beforeAll, describe, expect, it } from 'vitest'
import { publishDrill, startAcademy, csrfOf, type TestAcademy, type Visitor } from './harness.js'
import { endsLast, makeOneOfEach, sendCall, type OneOfEach } from './one-of-each.js'

let academy: TestAcademy
let there: OneOfEach
const people: Record<string, Visitor> = {}
const csrf: Record<string, string> = {}
/** Those who may least come first: what they are refused must still be there then. */
const WHO = ['nobody', 'dropped', 'neighbour', 'learner', 'assistant', 'instructor']

beforeAll(async () => {
  academy = await startAcademy()
  await academy.admin.client.call('createCourse', { body: { code: 'NAV 120', title: 'Coastal Navigation' } })
  await academy.person('learner', { 'HYD-210': 'learner' })
  await academy.person('assistant', { 'HYD-210': 'teaching_assistant' })
  await academy.person('instructor', { 'HYD-210': 'instructor' })
  await academy.person('neighbour', { 'NAV-120': 'instructor' })
  await academy.person('dropped', { 'HYD-210': 'instructor' })
  await academy.admin.client.call('changeEnrolment', {
    params: { course: 'HYD-210', person: 'dropped' },
    body: { state: 'dropped' },
  })
  for (const name of WHO) {
    people[name] = name === 'nobody' ? academy.visitor() : await academy.signIn(name)
    csrf[name] = await csrfOf(people[name])
  }
  there = await makeOneOfEach(academy, people['instructor']!)
})

/** Who may make each call at all, as a wrong body would show by 400 and a wrong person by 401, 403 or 404. */
const TEACHING_LISTS: OperationName[] = [
  'listTools',
  'showTool',
  'listSoundings',
  'showSounding',
  'listWire',
  'showWireEntry',
  'showWatch',
  'showMailDigest',
  'sendMailDigest',
  'listSweeps',
  'listSweepSchedules',
  'listCauseCodes',
  'listCases',
  'listWaitingWork',
]
function mayCall(name: OperationName, who: string): boolean {
  const { who: rule } = operations[name].access
  if (rule === 'anyone') return true
  if (who === 'nobody') return false
  const inCourse = ['learner', 'assistant', 'instructor'].includes(who)
  if (rule === 'administrator') return false
  if (rule === 'member') return inCourse
  if (rule === 'teacher') return who === 'assistant' || who === 'instructor'
  if (rule === 'instructor' || (rule === 'registrar' && !COURSELESS.includes(name))) return who === 'instructor'
  if (OWN.includes(name)) return who === 'instructor'
  // The note is the learner’s.
  if (name === 'putNoteAway') return who === 'learner'
  if (rule === 'registrar') return ['instructor', 'neighbour'].includes(who) // the body names the course; see below
  if (
    [
      'compareSoundings',
      'showWireDifference',
      'showTool',
      'showSounding',
      'endWait',
      'showWireEntry',
      'showWireStory',
      'judgeDiagnosis',
      'takeVerdictBack',
      'showToolPlaces',
      'previewIdentity',
      'showInvitation',
      'showSweep',
      'listSweepLinks',
      'showSweepReport',
      'changeSweep',
      'startSweep',
      'createSweepSchedule',
    ].includes(name)
  )
    return who === 'assistant' || who === 'instructor'
  if (TEACHING_LISTS.includes(name)) return ['assistant', 'instructor', 'neighbour'].includes(who)
  return true
}

/** Calls for those who may register something, that name no tool. */
const COURSELESS: OperationName[] = ['registerTool', 'readIntake', 'inviteTool']

/** What only who made it may have an end with. */
const OWN: OperationName[] = ['revokeConnection', 'removeSweepSchedule']

/** Calls that change who is signed in are left to their own tests. */
const ELSEWHERE: OperationName[] = ['signIn', 'signOut', 'setUp', 'changePassword', 'revokeSession', 'revokeToken']

const HOLD_OTHERS: OperationName[] = ['deleteTool', 'deleteAssignment', 'removeUnit', 'removeGroupSet']
const CALLS = endsLast(
  (Object.keys(operations) as OperationName[]).filter((name) => !ELSEWHERE.includes(name)),
  HOLD_OTHERS,
)

/** Bodies that are good, for calls that look at them before they look at who asks, and for what. */
const GOOD: Partial<Record<OperationName, unknown>> = {
  changeSweep: { state: 'paused' },
  startSweep: { course: 'HYD-210' },
  createSweepSchedule: { course: 'HYD-210', every: 'day' },
  turnIntoAssignment: { points: '10' },
  addGroup: { name: 'Blue' },
  changeCategory: { name: 'Taken' },
  changeEnrolment: { state: 'dropped' },
  changeMenuEntry: { revision: 1, label: 'Taken' },
  changeUnit: { revision: 1, title: 'Taken' },
  changeUnitItem: { revision: 1, title: 'Taken' },
  changeGroup: { name: 'Taken' },
  judgeDiagnosis: { verdict: 'wrong' },
}

async function make(name: OperationName, who: string, options: { course?: string; body?: unknown } = {}) {
  const response = await sendCall(people[who]!, csrf[who]!, name, {
    address: there.pathOf(name, options.course),
    body: options.body ?? { nonsense: 1 },
  })
  const { code = '' } = (await response.json().catch(() => ({}))) as { code?: string }
  return { status: response.status, code }
}

describe('a call is for those whom it is for, and nobody else learns whether its thing is there', () => {
  it.each(CALLS)('%s', async (name) => {
    for (const who of WHO.filter((one) => !mayCall(name, one))) {
      const { status, code } = await make(name, who, { body: GOOD[name] })
      const wanted = who === 'nobody' ? /^session\.required$/ : /^access\.denied$|not_found$|^sweep\.no_schedule$/
      expect(code, who).toMatch(wanted)
      expect(status, who).toBe({ 'session.required': 401, 'access.denied': 403 }[code] ?? 404)
    }
    for (const [i, who] of WHO.filter((one) => mayCall(name, one)).entries()) {
      const { status, code } = await make(name, who)
      // A body of nonsense is told to those who may ask; what the first of them took away is not there for the second.
      const isGone = i > 0 && operations[name].method === 'DELETE' && /not_found$/.test(code)
      if (!isGone) expect([200, 201, 202, 204, 400, 409], `${who}: ${status} ${code}`).toContain(status)
    }
  })
})

const IN_A_COURSE = CALLS.filter((name) => /:course\/.*:/.test(operations[name].path))

describe('by way of a course of one’s own, a thing of another course', () => {
  it.each(IN_A_COURSE)('is not there for %s', async (name) => {
    const { status, code } = await make(name, 'neighbour', { course: 'NAV-120', body: GOOD[name] })
    expect(code).toMatch(/not_found$/)
    expect(code).not.toBe('course.not_found')
    expect(status).toBe(404)
  })
})

describe('beside roles', () => {
  const send = (visitor: Visitor, headers: Record<string, string>) =>
    visitor.send('/api/courses', {
      method: 'POST',
      headers: { 'content-type': 'application/json', ...headers },
      body: '{"code":"X 1","title":"X"}',
    })

  it('a session without its CSRF token changes nothing', async () => {
    const response = await send(academy.admin, {})
    expect(response.status).toBe(403)
    expect(await response.json()).toMatchObject({ code: 'session.csrf' })
  })

  it('a token does only what its scopes say, and nothing after it was revoked or has expired', async () => {
    const make = (scopes: ('read' | 'teach' | 'administer')[]) =>
      academy.admin.client.call('createToken', { body: { name: scopes.join(), scopes, expiresInDays: 1 } })
    const reader = await make(['read'])
    const visitor = academy.visitor({ authorization: `Bearer ${reader.token}` })
    expect((await visitor.send('/api/courses')).status).toBe(200)
    expect(await (await send(visitor, {})).json()).toMatchObject({ code: 'token.scope' })
    expect(await (await visitor.send('/api/tokens')).json()).toMatchObject({ code: 'token.scope' })
    const page = async () => (await visitor.send('/lti/launch/00000000000000000000000000')).text()
    expect(await page(), 'opens no pages').toContain('Please sign in')
    await academy.admin.client.call('revokeToken', { params: { id: reader.id } })
    expect(await (await visitor.send('/api/courses')).json()).toMatchObject({ code: 'token.unknown' })
    expect(await page()).toContain('This API token is not known')
    const later = academy.visitor({ authorization: `Bearer ${(await make(['read'])).token}` })
    academy.clock.offsetMs = 25 * 3600_000
    expect((await later.send('/api/courses')).status).toBe(401)
    academy.clock.offsetMs = 0
  })

  it('an instructor registers a tool for the own course, not for another or for all', async () => {
    const { client } = people['instructor']!
    const body = { name: 'Mine', consumerKey: 'mine', sharedSecret: 'secret-of-mine' }
    await expect(client.call('registerTool', { body })).rejects.toMatchObject({ problem: { code: 'access.denied' } })
    await expect(client.call('registerTool', { body: { ...body, course: 'NAV-120' } })).rejects.toMatchObject({
      problem: { code: 'course.not_found' },
    })
    await expect(client.call('registerTool', { body: { ...body, course: 'HYD-210' } })).resolves.toMatchObject({
      course: { code: 'HYD 210' },
    })
    await expect(people['neighbour']!.client.call('showTool', { params: { tool: 'mine' } })).rejects.toMatchObject({
      problem: { code: 'tool.not_found' },
    })
  })

  it('an instructor sees the wire and soundings of the own courses only', async () => {
    const { id: assignment } = await publishDrill(academy, 'knotwork-drills', { title: 'To be seen' })
    await academy.admin.client.call('tryLaunch', {
      params: { assignment },
      body: { as: 'instructor' },
    })
    expect((await people['instructor']!.client.call('listWire', {})).items.length).toBeGreaterThan(0)
    expect((await people['neighbour']!.client.call('listWire', {})).items).toEqual([])
    expect((await people['neighbour']!.client.call('listSoundings', {})).items).toEqual([])
    expect((await people['neighbour']!.client.call('showWatch', {})).unproven).toEqual([])
  })

  it('metrics are for this machine and for administrators, not for what a proxy passes on', async () => {
    const ask = (visitor: Visitor, headers = {}) =>
      visitor.send('/metrics', { headers }).then((response) => response.status)
    expect(await ask(academy.visitor())).toBe(200)
    expect(await ask(academy.visitor(), { 'x-forwarded-for': '203.0.113.7' })).toBe(403)
    expect(await ask(academy.admin, { 'x-forwarded-for': '203.0.113.7' })).toBe(200)
  })

  it('a HEAD request launches nobody', async () => {
    const { id } = await publishDrill(academy, 'knotwork-drills', { title: 'To be launched' })
    const launch = (method: string) => people['learner']!.send(`/lti/launch/${id}`, { method })
    expect((await launch('HEAD')).status).toBe(404)
    expect((await launch('GET')).status).toBe(200)
  })

  it('an error tells a stranger nothing of what is inside', async () => {
    const response = await academy.visitor().send('/api/nowhere?x=%00')
    expect(await response.json()).toMatchObject({
      code: 'request.not_found',
      title: 'There is nothing at this address.',
    })
  })
})
