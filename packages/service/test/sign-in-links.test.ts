import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { eventually } from '../../../test/eventually.js'
import { mailSignInLinks } from '../src/desk/identity/sign-in-links.js'
import { codeOf, startAcademy, type TestAcademy } from './harness.js'
import { startCatcher } from './mail-catcher.js'

let academy: TestAcademy
let post: Awaited<ReturnType<typeof startCatcher>>
const NEW = 'sounding-pole-and-tallow'
beforeAll(async () => {
  post = await startCatcher()
  academy = await startAcademy({ smtpUrl: post.url, mailFrom: 'desk@skerrow.example' })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  const table =
    'username;name;email\nbran;Bran Hegg;bran@skerrow.example\nliv;Liv Askerud;\nodd;=Odd Ness;odd@skerrow.example'
  await academy.admin.client.call('importRoster', {
    body: { fileName: 'r.csv', table, course: 'HYD-210', apply: true },
  })
})
beforeEach(() => {
  post.caught.length = 0
})

const make = (body: object) => academy.admin.client.call('makeSignInLinks', { body: body as never })
const codeIn = (link: string) => new URL(link).hash.slice(1)
const nobody = () => academy.visitor().client
const use = (code: string, password = NEW) => nobody().call('useSignInLink', { body: { code, password } })
const signIn = (username: string, password: string) =>
  academy.visitor().client.call('signIn', { body: { username, password } })
const mailNow = () => mailSignInLinks(academy.service.context as never)

describe('links by which people set a password', () => {
  it('are made for those of a course who have none, at once, and open the door to exactly one of them, once', async () => {
    const made = await make({ course: 'HYD-210' })
    expect(made.items.map((one) => one.person.username)).toEqual(['odd', 'bran', 'liv'])
    expect(made.passedOver.map((one) => one.username)).toEqual(['tomas'])
    const code = codeIn(made.items[1]!.link!)
    expect(await nobody().call('readSignInLink', { body: { code } })).toMatchObject({
      username: 'bran',
      fullName: 'Bran Hegg',
    })
    expect(await codeOf(use(code, 'aaaaaaaaaaaa'))).toBe('person.password_weak')
    expect(await codeOf(use(code, 'short'))).toBe('request.invalid')
    await use(code)
    expect((await signIn('bran', NEW)).person.username).toBe('bran')
    expect(await codeOf(use(code))).toBe('person.link_over')
    expect(await codeOf(nobody().call('readSignInLink', { body: { code } }))).toBe('person.link_over')
    expect(await codeOf(signIn('liv', NEW))).toBe('session.wrong_password')
    const left = await make({})
    expect(left.items.map((one) => one.person.username)).toEqual(['odd', 'liv'])
  })

  it('are kept as a hash only, end each other, and end with their days', async () => {
    const first = codeIn((await make({ people: ['liv'] })).items[0]!.link!)
    const second = codeIn((await make({ people: ['LIV'], days: 2 })).items[0]!.link!)
    const kept = JSON.stringify(await academy.query(`select *, encode(code_hash, 'escape') from sign_in_link`))
    expect(kept).not.toContain(second)
    expect(await codeOf(use(first))).toBe('person.link_over')
    academy.clock.offsetMs = 2 * 24 * 3600_000 + 1000
    expect(await codeOf(use(second))).toBe('person.link_over')
    academy.clock.offsetMs = 0
    const answers = await Promise.all(Array.from({ length: 4 }, () => codeOf(use(second))))
    expect(answers.filter((one) => one === undefined)).toHaveLength(1)
    expect(new Set(answers)).toEqual(new Set([undefined, 'person.link_over']))
  })

  it('for who has a password leave it until another is set; then sessions and tokens of before end', async () => {
    expect((await make({ people: ['tomas'] })).passedOver).toHaveLength(1)
    const tomas = await academy.signIn('tomas')
    const { token } = await tomas.client.call('createToken', { body: { name: 'sheet' } })
    const { items } = await make({ people: ['tomas'], again: true })
    await academy.signIn('tomas')
    await use(codeIn(items[0]!.link!))
    expect(await codeOf(tomas.client.call('whoAmI', {}))).toBe('session.required')
    expect(
      (await academy.visitor().send('/api/session', { headers: { authorization: `Bearer ${token}` } })).status,
    ).toBe(401)
    expect((await signIn('tomas', NEW)).person.username).toBe('tomas')
    const spare = codeIn((await make({ people: ['tomas'], again: true })).items[0]!.link!)
    await academy.admin.client.call('changePerson', {
      params: { person: 'tomas' },
      body: { password: 'bollard-and-fairlead' },
    })
    expect(await codeOf(use(spare))).toBe('person.link_over')
  })

  it('are for nobody who is closed, unknown, a test learner, or asked for by somebody else', async () => {
    const { items } = await make({ people: ['odd'] })
    await academy.admin.client.call('changePerson', { params: { person: 'odd' }, body: { closed: true } })
    expect(await codeOf(use(codeIn(items[0]!.link!)))).toBe('person.link_over')
    expect(await codeOf(make({ people: ['odd'] }))).toBe('person.not_found')
    await academy.admin.client.call('changePerson', { params: { person: 'odd' }, body: { closed: false } })
    const all = [...(await make({})).items, ...(await make({ course: 'HYD-210', again: true })).items]
    expect(
      all.filter((one) => one.person.username.startsWith('test-learner') || one.person.username === 'ingrid'),
    ).toEqual([])
    expect(await codeOf(make({ people: ['nobody-here'] }))).toBe('person.not_found')
    expect(await codeOf(make({ people: ['odd'], course: 'HYD-210' }))).toBe('request.invalid')
    const bran = academy.visitor()
    await bran.client.call('signIn', { body: { username: 'bran', password: NEW } })
    expect(await codeOf(bran.client.call('makeSignInLinks', { body: { course: 'HYD-210' } }))).toBe('access.denied')
    expect(await codeOf(use('none'))).toBe('person.link_over')
  })

  it('go out by mail to those who have an address, sealed until then, and are handed over for the others', async () => {
    await academy.query(`update person set password_hash = null where username in ('liv', 'odd')`)
    const { items } = await make({ course: 'HYD-210', mail: true })
    expect(items.map((one) => [one.person.username, one.link === null])).toEqual([
      ['odd', true],
      ['liv', false],
    ])
    await Promise.all([mailNow(), mailNow()])
    // The service’s own job may have been quicker than the test.
    await eventually(() => expect(post.caught.map((one) => one.to)).toEqual([['odd@skerrow.example']]))
    const text = post.caught[0]!.text.replace(/=\r\n/g, '').replace(/=3D/g, '=')
    const code = /welcome#([\w-]+)/.exec(text)![1]!
    const [row] = await academy.query<{ code_sealed: Buffer | null }>(
      `select code_sealed from sign_in_link l join person p on p.id = l.person_id where p.username = 'odd'`,
    )
    expect(row!.code_sealed).toBeNull()
    await use(code)
    await mailNow()
    expect(post.caught).toHaveLength(1)
  })

  it('that the mail server does not take are tried again, then given up with the reason', async () => {
    await academy.query(`update person set password_hash = null where username = 'odd'`)
    post.state.refuses = true
    await make({ people: ['odd'], mail: true })
    for (let tries = 0; tries < 7; tries++) {
      await mailNow()
      academy.clock.offsetMs += 6 * 60_000
    }
    const [row] = await academy.query<{ code_sealed: Buffer | null; tries: number; failure: string }>(
      `select l.* from sign_in_link l join person p on p.id = l.person_id where p.username = 'odd'`,
    )
    expect([row!.code_sealed, row!.tries]).toEqual([null, 6])
    expect(row!.failure).not.toBe('')
    post.state.refuses = false
    academy.clock.offsetMs = 0
  })
})
