import { beforeAll, describe, expect, it } from 'vitest'
import {
  codeOf,
  openForm,
  PASSWORD,
  publishDrill,
  registerKnotwork,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'

let academy: TestAcademy
beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  for (const name of ['aino', 'niamh']) await academy.person(name, { 'HYD-210': 'learner' })
  for (const name of ['tomas', 'maren']) await academy.person(name, { 'HYD-210': 'instructor' })
  await academy.person('oren', { 'HYD-210': 'teaching_assistant' })
})
const audit = async () => (await academy.admin.client.call('listAudit', { query: { limit: 5 } })).items
const tokenOf = async (who: Visitor, scopes: string[] = ['read', 'teach']) =>
  (await who.client.call('createToken', { body: { name: 'at home', scopes: scopes as never, expiresInDays: 30 } }))
    .token
const byToken = (token: string) => academy.visitor({ authorization: `Bearer ${token}` })

describe('a password that is set anew', () => {
  it('by oneself ends tokens and other sessions, unless the tokens are to be kept', async () => {
    await academy.person('careful')
    const [here, there] = [await academy.signIn('careful'), await academy.signIn('careful')]
    const kept = byToken(await tokenOf(here, ['read']))
    await here.client.call('changePassword', {
      body: { present: PASSWORD, wanted: 'second-long-password', keepTokens: true },
    })
    expect(await codeOf(kept.client.call('whoAmI', {}))).toBeUndefined()
    expect(await codeOf(there.client.call('whoAmI', {}))).toBe('session.required')
    await here.client.call('changePassword', {
      body: { present: 'second-long-password', wanted: 'third-long-password' },
    })
    expect(await codeOf(kept.client.call('whoAmI', {}))).toBe('token.unknown')
    expect(await codeOf(here.client.call('whoAmI', {}))).toBeUndefined()
    expect((await audit())[0]).toMatchObject({ action: 'change password', after: { tokens: 'ended' } })
  })

  it('by an administrator ends everything that was opened with the old one', async () => {
    await academy.person('robbed')
    const session = await academy.signIn('robbed')
    const token = byToken(await tokenOf(session, ['read']))
    await academy.admin.client.call('changePerson', {
      params: { person: 'robbed' },
      body: { password: 'given-by-an-administrator' },
    })
    expect(await codeOf(session.client.call('whoAmI', {}))).toBe('session.required')
    expect(await codeOf(token.client.call('whoAmI', {}))).toBe('token.unknown')
  })
})

describe('a token', () => {
  it('that is somebody else’s cannot be revoked, and the audit does not say that it was', async () => {
    const token = await tokenOf(academy.admin)
    const { items } = await academy.admin.client.call('listTokens', {})
    const aino = await academy.signIn('aino')
    const before = (await audit())[0]!.id
    await aino.client.call('revokeToken', { params: { id: items[0]!.id } })
    expect((await audit())[0]!.id).toBe(before)
    expect(await codeOf(byToken(token).client.call('whoAmI', {}))).toBeUndefined()
  })

  it('without the scope for secrets neither shows one nor makes one', async () => {
    const token = byToken(await tokenOf(academy.admin, ['read', 'teach']))
    const params = { tool: 'knotwork-drills' }
    expect(await codeOf(token.client.call('revealSecret', { params }))).toBe('token.scope')
    expect(await codeOf(token.client.call('rotateSecret', { params, body: {} }))).toBe('token.scope')
  })

  it('without the scope to read hears no changes', async () => {
    const token = await tokenOf(await academy.signIn('tomas'), ['teach'])
    expect((await byToken(token).send('/api/events')).status).toBe(403)
  })
})

describe('a session', () => {
  it('takes no CSRF token that was made for another one', async () => {
    const [tomas, maren] = [await academy.signIn('tomas'), await academy.signIn('maren')]
    const csrf = async (who: Visitor) => (await who.client.call('whoAmI', {})).csrfToken!
    const foreign = await csrf(maren)
    const planted = await academy.visitor().send('/api/courses/HYD-210/units', {
      method: 'POST',
      headers: {
        'content-type': 'application/json',
        cookie: `bathyscribe_session=${tomas.cookies().get('bathyscribe_session')}; bathyscribe_csrf=${maren.cookies().get('bathyscribe_csrf')}`,
        'x-csrf-token': foreign,
      },
      body: JSON.stringify({ title: 'Planted' }),
    })
    expect(planted.status).toBe(403)
    expect(await planted.json()).toMatchObject({ code: 'session.csrf' })
    const own = await tomas.send('/api/courses/HYD-210/units', {
      method: 'POST',
      headers: { 'content-type': 'application/json', 'x-csrf-token': await csrf(tomas) },
      body: JSON.stringify({ title: 'Own' }),
    })
    expect(own.status).toBe(201)
  })

  it('gets answers that nobody on the way keeps', async () => {
    const tomas = await academy.signIn('tomas')
    for (const path of ['/api/courses/HYD-210/gradebook', '/api/session', '/api/courses'])
      expect((await tomas.send(path)).headers.get('cache-control')).toBe('no-store')
    expect((await academy.visitor().send('/api/courses')).headers.get('cache-control')).toBe('no-store')
  })
})

describe('the audit', () => {
  it('knows who left, ended a session, exported results, and entered a tool as somebody else', async () => {
    const { id } = await publishDrill(academy, 'knotwork-drills', { title: 'Entered by another' })
    const oren = await academy.signIn('oren')
    await oren.client.call('tryLaunch', { params: { assignment: id }, body: { as: 'learner', person: 'niamh' } })
    expect((await audit())[0]).toMatchObject({
      action: 'launch as somebody',
      person: { username: 'oren' },
      course: { code: 'HYD 210' },
      after: { person: 'niamh' },
    })
    await oren.client.call('tryLaunch', { params: { assignment: id }, body: { as: 'test_learner' } })
    expect((await audit())[0]!.action).toBe('launch as somebody')

    const tomas = await academy.signIn('tomas')
    await tomas.client.call('exportResults', { params: { course: 'HYD-210' } })
    expect((await audit())[0]).toMatchObject({ action: 'export results', person: { username: 'tomas' } })
    const other = await academy.signIn('tomas')
    const { items } = await tomas.client.call('listSessions', {})
    await tomas.client.call('revokeSession', { params: { id: items.find((one) => !one.current)!.id } })
    expect((await audit())[0]).toMatchObject({ action: 'end session', person: { username: 'tomas' } })
    void other
    await tomas.client.call('signOut', {})
    expect((await audit())[0]).toMatchObject({ action: 'sign out', person: { username: 'tomas' } })
  })
})

describe('an assignment in a hidden unit', () => {
  it('is shut to learners by its own address, too, and opens with the unit', async () => {
    const params = { course: 'HYD-210' }
    const unit = await academy.admin.client.call('addUnit', { params, body: { title: 'Not yet' } })
    const { id } = await publishDrill(academy, 'knotwork-drills', { title: 'Behind the door', unit: unit.id })
    const [aino, tomas] = [await academy.signIn('aino'), await academy.signIn('tomas')]
    const work = () => codeOf(aino.client.call('showWork', { params: { assignment: id } }))
    expect(await work()).toBe('assignment.not_found')
    expect((await openForm(aino, id)).status).toBe(404)
    expect((await openForm(tomas, id)).status).toBe(200)
    await academy.admin.client.call('changeUnit', {
      params: { ...params, unit: unit.id },
      body: { published: true, revision: unit.revision } as never,
    })
    expect(await work()).toBeUndefined()
    expect((await openForm(aino, id)).status).toBe(200)
  })
})

describe('a tool’s frame', () => {
  it('may ask for camera, microphone and screen at the tool’s own origin, and nowhere else', async () => {
    const { id } = await publishDrill(academy, 'knotwork-drills', { title: 'Recorded', documentTarget: 'frame' })
    const page = await (await (await academy.signIn('aino')).send(`/lti/stage/${id}`)).text()
    const allow = /<iframe[^>]* allow="([^"]*)"/.exec(page)![1]!.replaceAll('&#39;', "'").replaceAll('&quot;', '"')
    const { origin } = new URL(academy.knotwork)
    for (const feature of ['camera', 'microphone', 'display-capture', 'fullscreen'])
      expect(allow.split('; ')).toContain(`${feature} 'self' ${origin}`)
    expect(allow).not.toContain('*')
    expect(allow).not.toMatch(/geolocation|payment|usb/)
  })
})
