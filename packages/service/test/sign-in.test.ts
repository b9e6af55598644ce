import { beforeAll, describe, expect, it } from 'vitest'
import { codeOf, PASSWORD, startAcademy, type TestAcademy } from './harness.js'

let academy: TestAcademy
beforeAll(async () => {
  academy = await startAcademy()
  await academy.person('tomas', { 'HYD-210': 'instructor' })
})

describe('signing in', () => {
  it('sets a session cookie that scripts cannot read, and answers nothing of the password', async () => {
    const visitor = academy.visitor()
    const response = await visitor.send('/api/session', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ username: ' Tomas ', password: PASSWORD }),
    })
    const cookie = response.headers.getSetCookie().find((one) => one.startsWith('bathyscribe_session='))
    expect(cookie).toMatch(/HttpOnly/)
    expect(cookie).toMatch(/SameSite=Lax/)
    expect(await response.text()).not.toMatch(/argon2|password_hash|passwordHash/)
  })

  it.each([
    ['a wrong password', { username: 'tomas', password: 'wrong' }, 'session.wrong_password'],
    ['an unknown name', { username: 'nobody', password: PASSWORD }, 'session.wrong_password'],
    ['a name with U+0000', { username: 'to\u0000mas', password: 'wrong' }, 'session.wrong_password'],
    ['a test learner, who has no password', { username: 'test-learner', password: '' }, 'session.wrong_password'],
  ])('with %s is refused', async (_, body, code) => {
    expect(await codeOf(academy.visitor().client.call('signIn', { body }))).toBe(code)
  })

  it('is refused for a while after ten tries at one name, while others still come in', async () => {
    await academy.person('guessed')
    const codes: (string | undefined)[] = []
    for (let i = 0; i < 12; i++)
      codes.push(
        await codeOf(academy.visitor().client.call('signIn', { body: { username: 'guessed', password: `${i}` } })),
      )
    expect(codes.slice(0, 10)).toEqual(Array(10).fill('session.wrong_password'))
    expect(codes.at(-1)).toBe('request.too_many')
    expect(await codeOf(academy.signIn('tomas'))).toBeUndefined()
  })

  it('ends: by signing out, by revoking, by a new password, by closing the account, by time', async () => {
    await academy.person('moves')
    const [a, b] = [await academy.signIn('moves'), await academy.signIn('moves')]
    const sessions = (await a.client.call('listSessions', {})).items
    expect(sessions).toHaveLength(2)
    await a.client.call('revokeSession', { params: { id: sessions.find((one) => !one.current)!.id } })
    expect(await codeOf(b.client.call('whoAmI', {}))).toBe('session.required')

    const c = await academy.signIn('moves')
    await a.client.call('changePassword', { body: { present: PASSWORD, wanted: 'another-long-one' } })
    expect(await codeOf(c.client.call('whoAmI', {}))).toBe('session.required')
    expect(await codeOf(a.client.call('whoAmI', {}))).toBeUndefined()
    await academy.admin.client.call('changePerson', { params: { person: 'moves' }, body: { closed: true } })
    expect(await codeOf(a.client.call('whoAmI', {}))).toBe('session.required')
    expect(
      await codeOf(
        academy.visitor().client.call('signIn', { body: { username: 'moves', password: 'another-long-one' } }),
      ),
    ).toBe('session.disabled')

    const d = await academy.signIn('tomas')
    academy.clock.offsetMs = 13 * 3600_000
    expect(await codeOf(d.client.call('whoAmI', {}))).toBe('session.required')
    academy.clock.offsetMs = 0
  })
})

describe('administrators', () => {
  it('are made by the set-up code once, and by no code afterwards', async () => {
    const body = { code: academy.service.setupCode!, username: 'second', fullName: 'Second', password: PASSWORD }
    expect(await codeOf(academy.visitor().client.call('setUp', { body }))).toBe('setup.done')
    expect(await academy.visitor().client.call('setupState', {})).toEqual({ needed: false })
  })

  it('cannot all be lost, also not by two changes at once', async () => {
    const demote = (person: string) =>
      codeOf(academy.admin.client.call('changePerson', { params: { person }, body: { siteRole: 'none' } }))
    expect(await demote('ingrid')).toBe('person.last_administrator')
    await academy.admin.client.call('createPerson', {
      body: { username: 'ivar', fullName: 'Ivar', siteRole: 'administrator', password: PASSWORD },
    })
    const codes = await Promise.all([demote('ivar'), demote('ingrid')])
    expect(codes.filter((code) => code === undefined)).toHaveLength(1)
    const left = await academy.query<{ username: string }>(
      `select username from person where site_role = 'administrator'`,
    )
    expect(left).toHaveLength(1)
  })
})
