import { operations, type OperationName } from '@bathyscribe/contract'
import { beforeAll, describe, expect, it } from 'vitest'
import { publishDrill, registerKnotwork, startAcademy, type TestAcademy, type Visitor } from './harness.js'
import { runSounding } from './soundings.js'

let academy: TestAcademy
let params: Record<string, string>
const people: Record<string, Visitor> = {}

beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  await academy.admin.client.call('registerTool', {
    body: { name: 'Own tool', consumerKey: 'own', sharedSecret: 'own-secret', course: 'HYD-210' },
  })
  const assignment = await publishDrill(academy, 'knotwork-drills')
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
  for (const name of ['learner', 'assistant', 'instructor', 'neighbour', 'dropped'])
    people[name] = await academy.signIn(name)
  people['nobody'] = academy.visitor()
  // To its end: what may be learned from it, and so what is expected, must not depend on who asks first.
  const { id, verdict } = await runSounding(academy, assignment.id)
  expect(verdict).toBe('pass')
  const entry = (await academy.admin.client.call('listWire', {})).items[0]?.id ?? '1'
  const spare = await academy.admin.client.call('rotateSecret', { params: { tool: 'own-tool' }, body: {} })
  const secret = spare.keys.secrets.find((one) => one.role === 'previous')!.id
  const { id: menuEntry } = await academy.admin.client.call('addMenuEntry', {
    params: { course: 'HYD-210' },
    body: { tool: 'knotwork-drills' },
  })
  const { items: categories } = await academy.admin.client.call('listCategories', { params: { course: 'HYD-210' } })
  params = {
    category: categories[0]!.id, course: 'HYD-210', assignment: assignment.id, tool: 'own-tool', courseTool: 'own-tool', person: 'learner', id, entry, secret, menuEntry,
  } // oxfmt-ignore
})

/** A call's path as it is; with the query without which it is only half a question, and the identifier of the right kind. */
const pathFor = (name: OperationName) => {
  const query = name === 'showToolPlaces' || name === 'previewIdentity' ? '?course=HYD-210' : ''
  return `${name === 'endSecret' ? operations[name].path.replace(':id', ':secret') : operations[name].path}${query}`
}
const pathOf = (name: OperationName) =>
  pathFor(name).replace(/:(\w+)/g, (_, key: string) => encodeURIComponent(params[key]!))

const NOT_THERE = [
  'expectation.not_found',
  'connection.not_found',
  'sweep.not_found',
  'sweep.no_schedule',
  'unit.not_found',
  'item.not_found',
  'picker.not_found',
  'group.not_found',
  'group.set_not_found',
  'file.not_found',
]

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
  'showSweep',
  'listSweepLinks',
  'showSweepReport',
  'listSweepSchedules',
  'removeSweepSchedule',
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
  if (rule === 'registrar') return ['instructor', 'neighbour'].includes(who) && name !== 'showInvitation' // the body names the course; see below
  if (
    [
      'compareSoundings',
      'showWireDifference',
      'showTool',
      'showSounding',
      'showWireEntry',
      'showWireStory',
      'showToolPlaces',
      'previewIdentity',
    ].includes(name)
  )
    return who === 'assistant' || who === 'instructor'
  if (TEACHING_LISTS.includes(name)) return ['assistant', 'instructor', 'neighbour'].includes(who)
  return true
}

/** Calls for those who may register something, that name no tool. */
const COURSELESS: OperationName[] = ['registerTool', 'readIntake', 'inviteTool', 'showInvitation']

/** Calls that change who is signed in are left to their own tests. */
const ELSEWHERE: OperationName[] = ['signIn', 'signOut', 'setUp', 'changePassword', 'revokeSession', 'revokeToken']

describe.each(['nobody', 'learner', 'assistant', 'instructor', 'neighbour', 'dropped'])('%s', (who) => {
  it.each((Object.keys(operations) as OperationName[]).filter((name) => !ELSEWHERE.includes(name)))(
    '%s',
    async (name) => {
      const { method } = operations[name]
      const csrf = await tokenOf(people[who]!)
      const response = await people[who]!.send(pathOf(name), {
        method,
        headers: { 'x-csrf-token': csrf, ...(operations[name].body && { 'content-type': 'application/json' }) },
        ...(operations[name].body && { body: '{"nonsense":1}' }),
      })
      const { code } = (await response.json().catch(() => ({}))) as { code?: string }
      // What is not there is told to those who may ask, and to nobody else.
      if (NOT_THERE.includes(code ?? '')) expect(mayCall(name, who)).toBe(true)
      else if (mayCall(name, who)) expect([200, 201, 202, 204, 400, 409]).toContain(response.status)
      else expect([401, 403, 404]).toContain(response.status)
    },
  )
})

async function tokenOf(visitor: Visitor): Promise<string> {
  const response = await visitor.send('/api/session')
  return response.ok ? ((await response.json()) as { csrfToken: string }).csrfToken : ''
}

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
    await academy.admin.client.call('revokeToken', { params: { id: reader.id } })
    expect(await (await visitor.send('/api/courses')).json()).toMatchObject({ code: 'token.unknown' })
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
    await academy.admin.client.call('tryLaunch', {
      params: { assignment: params['assignment']! },
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
    const response = await people['learner']!.send(`/lti/launch/${params['assignment']!}`, { method: 'HEAD' })
    expect(response.status).toBe(404)
  })

  it('an error tells a stranger nothing of what is inside', async () => {
    const response = await academy.visitor().send('/api/nowhere?x=%00')
    expect(await response.json()).toMatchObject({
      code: 'request.not_found',
      title: 'There is nothing at this address.',
    })
  })
})
