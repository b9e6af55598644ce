import { spawnSync } from 'node:child_process'
import { Settings, startService } from '@bathyscribe/service'
import pg from 'pg'
import { beforeAll, describe, expect, it } from 'vitest'
import { freePort } from '@bathyscribe/yard/machine/ports'
import { TEST_SCHEMA } from '../../../test/template.js'
import { closeAfterwards } from './closing.js'
import { codeOf, PASSWORD, startAcademy, startUnset, type TestAcademy } from './harness.js'

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

  it('waits longer after each wrong password of one account, says how long, and takes the right one after it', async () => {
    await academy.person('guessed')
    const before = academy.clock.offsetMs
    const tryOnce = (password: string) =>
      academy.visitor().send('/api/session', {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ username: 'guessed', password }),
      })
    for (let i = 0; i < 4; i++) expect((await tryOnce(`${i}`)).status).toBe(401)
    for (const waits of [10, 20, 40]) {
      const refused = await tryOnce(PASSWORD)
      expect(refused.status).toBe(429)
      const seconds = Number(refused.headers.get('retry-after'))
      expect(seconds).toBeGreaterThan(waits / 2)
      expect(seconds).toBeLessThanOrEqual(waits)
      expect(await refused.json()).toMatchObject({ code: 'session.too_many_tries', detail: `${seconds} seconds` })
      academy.clock.offsetMs += seconds * 1000
      expect((await tryOnce('wrong')).status).toBe(401)
    }
    expect(await codeOf(academy.signIn('tomas'))).toBeUndefined()
    academy.clock.offsetMs += 90_000
    expect((await tryOnce(PASSWORD)).status).toBe(200)
    academy.clock.offsetMs = before
  })

  it('one’s own wrong present password keeps nobody else from signing in or changing theirs', async () => {
    for (const name of ['mistaken', 'beside']) await academy.person(name)
    const [mistaken, beside] = [await academy.signIn('mistaken'), await academy.signIn('beside')]
    const wrong = { body: { present: 'wrong', wanted: 'another-long-one' } }
    const codes: (string | undefined)[] = []
    for (let i = 0; i < 6; i++) codes.push(await codeOf(mistaken.client.call('changePassword', wrong)))
    expect(codes.at(0)).toBe('person.wrong_password')
    expect(codes.at(-1)).toBe('session.too_many_tries')
    expect(
      await codeOf(beside.client.call('changePassword', { body: { present: PASSWORD, wanted: PASSWORD } })),
    ).toBeUndefined()
  })

  it('is in the audit, good and refused, with the address', async () => {
    await codeOf(academy.visitor().client.call('signIn', { body: { username: 'nobody-here', password: 'x' } }))
    await academy.signIn('tomas')
    const { items } = await academy.admin.client.call('listAudit', { query: { limit: 2 } })
    expect(items).toMatchObject([
      { action: 'sign in', subject: 'person tomas', person: { username: 'tomas' }, after: { address: '127.0.0.1' } },
      { action: 'sign-in refused', subject: 'an unknown account', person: null, after: { reason: 'wrong password' } },
    ])
    expect(JSON.stringify(items)).not.toContain('nobody-here')
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

describe('a password', () => {
  it.each([
    ['too short', 'k7Qz!m2Vp9', 'request.invalid'],
    ['one letter over and over', 'aaaaaaaaaaaaaaaa', 'person.password_weak'],
    ['a usual one with figures behind it', 'password1234', 'person.password_weak'],
    ['a row of keys', 'qwertyuiop12', 'person.password_weak'],
    ['one’s own name', 'weakling1234', 'person.password_weak'],
    ['several words', 'kelp anchor violin seven', undefined],
    ['in another script', 'море якорь скрипка семь', undefined],
  ])('that is %s is answered %3$s, whoever sets it', async (_, password, code) => {
    const create = (username: string, own?: string) =>
      codeOf(academy.admin.client.call('createPerson', { body: { username, fullName: 'Weakling', password: own } }))
    expect(await create(`w-${Math.random().toString(36).slice(2)}`, password)).toBe(code)
    await create('weakling')
    expect(
      await codeOf(academy.admin.client.call('changePerson', { params: { person: 'weakling' }, body: { password } })),
    ).toBe(code)
    const tomas = await academy.signIn('tomas')
    if (code !== undefined && !password.startsWith('weak'))
      expect(await codeOf(tomas.client.call('changePassword', { body: { present: PASSWORD, wanted: password } }))).toBe(
        code,
      )
  })
})

describe('administrators', () => {
  it('are made by the set-up code once, and by no code afterwards', async () => {
    const body = { code: academy.service.setupCode!, username: 'second', fullName: 'Second', password: PASSWORD }
    expect(await codeOf(academy.visitor().client.call('setUp', { body }))).toBe('setup.done')
    expect(await academy.visitor().client.call('setupState', {})).toEqual({ needed: false })
  })

  it('are made by any code that a process has printed, and by one of them only', async () => {
    const { services: processes, databaseUrl } = await startUnset(academy, {}, 3)
    const ask = async (at: number, code: string, username: string) => {
      const response = await fetch(`${processes[at]!.address}/api/setup`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ code, username, fullName: 'Ingrid', password: PASSWORD }),
      })
      return response.status === 201 ? 'made' : ((await response.json()) as { code: string }).code
    }
    const [first, second, third] = processes.map((one) => one.setupCode!)
    expect(new Set([first, second, third]).size).toBe(3)
    expect(await ask(0, 'nothing-like-it', 'ingrid')).toBe('setup.code_wrong')
    // The first one’s code, although others started since; two at once through whichever process.
    const answers = await Promise.all([ask(2, first!, 'ingrid'), ask(1, second!, 'ivar')])
    expect(answers.filter((one) => one === 'made')).toHaveLength(1)
    expect(await ask(0, third!, 'third')).toBe('setup.done')
    const records = new pg.Client({ connectionString: databaseUrl })
    await records.connect()
    expect((await records.query(`select 1 from ${TEST_SCHEMA}.setup_code`)).rowCount).toBe(0)
    await records.end()
  })

  it('find their code said before the service first answers: who waits until it is ready has it', async () => {
    const { services } = await startUnset(academy)
    const port = await freePort()
    let said: { code: string; answered: boolean } | undefined
    const late = await startService(Settings.parse({ ...services[0]!.context.settings, port }), {
      offer(code) {
        const ask = `fetch('http://127.0.0.1:${port}/healthz').then(() => process.exit(0), () => process.exit(7))`
        said = { code, answered: spawnSync(process.execPath, ['-e', ask]).status !== 7 }
      },
    })
    closeAfterwards(() => late.stop())
    expect(said).toEqual({ code: late.setupCode, answered: false })
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
