import { beforeAll, describe, expect, it } from 'vitest'
import { fingerprint } from '../src/keys/key-file.js'
import {
  codeOf,
  csrfOf,
  openForm,
  PASSWORD,
  publishDrill,
  registerKnotwork,
  startAcademy,
  startUnset,
  type TestAcademy,
  type Visitor,
} from './harness.js'

let academy: TestAcademy
beforeAll(async () => {
  academy = await startAcademy({ sessionIdleMinutes: 120 })
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
    const foreign = await csrfOf(maren)
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
      headers: { 'content-type': 'application/json', 'x-csrf-token': await csrfOf(tomas) },
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

describe('what the service is', () => {
  const asks = async (path: string, who = academy.visitor()) => (await who.send(path, { redirect: 'manual' })).status
  it('in detail is told to people who are signed in and to their programs, not to strangers', async () => {
    const learner = await academy.signIn('aino')
    const program = byToken(await tokenOf(await academy.signIn('tomas')))
    const blind = byToken(await tokenOf(await academy.signIn('tomas'), ['teach']))
    for (const path of ['/api/openapi.json', '/api/docs/json', '/api/docs/yaml']) {
      expect(await asks(path), path).toBe(401)
      expect(await asks(path, byToken('made-up')), path).toBe(401)
      expect(await asks(path, blind), path).toBe(403)
      expect(await asks(path, learner), path).toBe(200)
      expect(await asks(path, program), path).toBe(200)
    }
    expect(await asks('/api/docs')).toBe(401)
  })

  it('is told to tools by the first two numbers of its version', async () => {
    const { version } = (await academy.admin.client.call('whoAmI', {})).platform
    expect(version).toMatch(/^\d+\.\d+\.\d+/)
    const document = await (await academy.visitor().send('/.well-known/openid-configuration')).text()
    expect(document).toContain(`"version":"${version.split('.').slice(0, 2).join('.')}"`)
    expect(document).not.toContain(version)
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
  const allowOf = async (path: string, who = 'aino') => {
    const page = await (await (await academy.signIn(who)).send(path)).text()
    return /<iframe[^>]* allow="([^"]*)"/.exec(page)![1]!.replaceAll('&#39;', "'").replaceAll('&quot;', '"').split('; ')
  }
  const permit = async (
    ...framePermissions: ('camera' | 'microphone' | 'screen_sharing' | 'clipboard' | 'full_screen')[]
  ) => {
    const params = { tool: 'knotwork-drills' }
    const { revision } = await academy.admin.client.call('showTool', { params })
    return academy.admin.client.call('changeTool', { params, body: { revision, framePermissions } })
  }

  it('may use no device of a person unless its registration says so; then at the tool’s own origin, and nowhere else', async () => {
    const { id } = await publishDrill(academy, 'knotwork-drills', { title: 'Recorded', documentTarget: 'frame' })
    const { origin } = new URL(academy.knotwork)
    const always = [`autoplay 'self' ${origin}`, `picture-in-picture 'self' ${origin}`]
    expect(await allowOf(`/lti/stage/${id}`)).toEqual(always)
    expect((await permit('camera', 'microphone', 'camera')).framePermissions).toEqual(['camera', 'microphone'])
    expect(await allowOf(`/lti/stage/${id}`)).toEqual([
      ...always,
      `camera 'self' ${origin}`,
      `microphone 'self' ${origin}`,
    ])
    await permit('camera', 'microphone', 'screen_sharing', 'clipboard', 'full_screen')
    const all = await allowOf(`/lti/stage/${id}`)
    expect(all.map((one) => one.split(' ')[0])).toEqual(['autoplay', 'picture-in-picture', 'camera', 'microphone', 'display-capture', 'clipboard-write', 'fullscreen']) // oxfmt-ignore
    expect(all.join()).not.toMatch(/\*|geolocation|payment|usb|clipboard-read/)
    const catalogue = await academy.admin.client.call('searchCatalogue', { params: { course: 'HYD-210' }, query: { search: 'Knotwork' } }) // oxfmt-ignore
    expect(catalogue.items[0]).toMatchObject({ framed: true, framePermissions: ['camera', 'microphone', 'screen_sharing', 'clipboard', 'full_screen'] }) // oxfmt-ignore
    await permit()
    expect(await allowOf(`/lti/stage/${id}`)).toEqual(always)
  })

  it('of a picker is the same', async () => {
    const params = { tool: 'knotwork-drills' }
    const { revision } = await academy.admin.client.call('showTool', { params })
    await academy.admin.client.call('changeTool', { params, body: { revision, pickerUrl: `${academy.knotwork}/shelf`, framePermissions: ['microphone'] } }) // oxfmt-ignore
    const body = { tool: 'knotwork-drills', purpose: 'assignment', multiple: false } as const
    const { openAt } = await academy.admin.client.call('openPicker', { params: { course: 'HYD-210' }, body })
    const page = await (await academy.admin.send(openAt)).text()
    expect(page).toContain('microphone &#39;self&#39;')
    expect(page).not.toContain('camera')
    await permit()
  })

  it('is given only what there is a name for, by those who may change the tool', async () => {
    const wrong = permit('geolocation' as never)
    await expect(wrong).rejects.toMatchObject({ problem: { code: 'request.invalid' } })
    const { revision } = await academy.admin.client.call('showTool', { params: { tool: 'knotwork-drills' } })
    const tomas = await academy.signIn('tomas')
    const asked = tomas.client.call('changeTool', { params: { tool: 'knotwork-drills' }, body: { revision, framePermissions: ['camera'] } }) // oxfmt-ignore
    expect(await codeOf(asked)).toBe('access.denied')
  })
})

describe('what somebody does not teach', () => {
  it('is not told apart from what is not there, in filters either', async () => {
    await academy.admin.client.call('createCourse', { body: { code: 'MET 130', title: 'Marine Weather' } })
    await academy.person('priyanka', { 'MET-130': 'instructor' })
    const { id } = await publishDrill(academy, 'knotwork-drills', { title: 'Not hers' })
    const priyanka = await academy.signIn('priyanka')
    const answerTo = async (path: string) => {
      const response = await priyanka.send(path)
      const { requestId: _, detail: __, ...rest } = (await response.json()) as Record<string, unknown>
      return { status: response.status, ...rest }
    }
    for (const list of ['wire', 'soundings']) {
      const foreign = await answerTo(`/api/${list}?course=HYD-210`)
      expect(foreign).toMatchObject({ status: 404, code: 'course.not_found' })
      expect(foreign).toEqual(await answerTo(`/api/${list}?course=NO-999`))
      const link = await answerTo(`/api/${list}?assignment=${id}`)
      expect(link).toMatchObject({ status: 404, code: 'assignment.not_found' })
      expect(link).toEqual(await answerTo(`/api/${list}?assignment=nothing-there`))
      expect((await answerTo(`/api/${list}?course=MET-130`)).status).toBe(200)
    }
  })
})

describe('the cookie of a session', () => {
  it('has, by https, a name that browsers take from this very host only', async () => {
    const { services } = await startUnset(academy, { publicUrl: 'https://lti.skerrow.example' })
    const service = services[0]!
    const post = (path: string, body: object, headers: Record<string, string> = {}) =>
      fetch(service.address + path, {
        method: 'POST',
        headers: { 'content-type': 'application/json', ...headers },
        body: JSON.stringify(body),
      })
    const person = { username: 'ingrid', fullName: 'Ingrid', password: PASSWORD }
    expect((await post('/api/setup', { code: service.setupCode, ...person })).status).toBe(201)
    const signedIn = await post('/api/session', { username: 'ingrid', password: PASSWORD })
    const line = signedIn.headers.getSetCookie().find((one) => one.includes('session='))!
    expect(line).toMatch(/^__Host-bathyscribe_session=[^;]+;.*Path=\/;/)
    expect(line).toMatch(/; Secure/)
    expect(line).not.toMatch(/Domain/i)
    const [pair] = line.split(';') as [string]
    expect((await fetch(`${service.address}/api/session`, { headers: { cookie: pair } })).status).toBe(200)
    // Under its plain name, which a sister host could set, it is nothing.
    const plain = pair.replace('__Host-', '')
    expect((await fetch(`${service.address}/api/session`, { headers: { cookie: plain } })).status).toBe(401)
  })
})

describe('a session in which nothing is done', () => {
  const HOUR = 3_600_000
  const asks = (who: Visitor) => codeOf(who.client.call('whoAmI', {}))

  it('ends after two hours, and is listed no more; one in use goes on', async () => {
    const [used, left] = [await academy.signIn('tomas'), await academy.signIn('tomas')]
    const open = async (who: Visitor) => (await who.client.call('listSessions', {})).items.length
    const before = await open(used)
    for (let i = 0; i < 3; i++) {
      academy.clock.offsetMs += HOUR - 60_000
      expect(await asks(used)).toBeUndefined()
    }
    expect(await asks(left)).toBe('session.required')
    expect(await open(used)).toBeLessThan(before)
    academy.clock.offsetMs += 2 * HOUR + 60_000
    expect(await asks(used)).toBe('session.required')
  })

  it('is not kept awake by a window that only listens', async () => {
    const maren = await academy.signIn('maren')
    const { findSession } = academy.service.context.statements
    const hash = fingerprint(maren.cookies().get('bathyscribe_session')!)
    academy.clock.offsetMs += 1.5 * HOUR
    expect(await findSession(hash, false)).toMatchObject({ username: 'maren' })
    academy.clock.offsetMs += HOUR
    expect(await findSession(hash, false)).toBeUndefined()
    expect(await asks(maren)).toBe('session.required')
  })
})
