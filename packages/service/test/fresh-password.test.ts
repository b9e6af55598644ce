import { operations } from '@bathyscribe/contract'
import { beforeAll, describe, expect, it } from 'vitest'
import { codeOf, PASSWORD, registerKnotwork, startAcademy, type TestAcademy, type Visitor } from './harness.js'

const MINUTES = 10
let academy: TestAcademy
let tool: string
let left: Visitor

beforeAll(async () => {
  academy = await startAcademy({ confirmMinutes: MINUTES })
  tool = (await registerKnotwork(academy)).id
  await academy.person('niamh', { 'HYD-210': 'learner' })
  left = await academy.signIn('ingrid')
  await academy.admin.client.call('addIdentityProvider', { body: PROVIDER })
  await academy.query(
    `insert into identity (provider_id, subject, person_id, tied_by, tied_at, last_at) select v.id, p.id, p.id, 'match', now(), now() from person p, identity_provider v`,
  )
})

/** Whoever finds a browser open, a while after its person went for coffee. */
async function later<T>(run: () => Promise<T>): Promise<T> {
  academy.clock.offsetMs += (MINUTES + 1) * 60_000
  try {
    return await run()
  } finally {
    academy.clock.offsetMs -= (MINUTES + 1) * 60_000
  }
}
const confirm = (who: Visitor, password: string) => codeOf(who.client.call('confirmSession', { body: { password } }))
const reveal = (who: Visitor) => codeOf(who.client.call('revealSecret', { params: { tool } }))

const PROVIDER = {
  handle: 'skerrow',
  name: 'Skerrow',
  issuer: 'https://accounts.skerrow.example',
  clientId: 'c',
  enabled: false,
}

/** What hands out secrets, ways in or rights. */
const WEIGHTY: [string, (who: Visitor) => Promise<unknown>][] = [
  ['createToken', ({ client }) => client.call('createToken', { body: { name: 'left open' } })],
  ['makeSignInLinks', ({ client }) => client.call('makeSignInLinks', { body: { people: ['niamh'] } })],
  [
    'partPerson',
    ({ client }) =>
      client.call('partPerson', { params: { person: 'niamh' }, body: { name: 'Niamh', username: 'niamh.2' } }),
  ],
  [
    'createPerson',
    ({ client }) =>
      client.call('createPerson', {
        body: { username: 'second', fullName: 'Second One', password: PASSWORD, siteRole: 'administrator' },
      }),
  ],
  [
    'changePerson',
    ({ client }) =>
      client.call('changePerson', { params: { person: 'niamh' }, body: { password: 'kelp anchor violin seven' } }),
  ],
  ['showPersonData', ({ client }) => client.call('showPersonData', { params: { person: 'niamh' } })],
  [
    'removePerson',
    ({ client }) => client.call('removePerson', { params: { person: 'niamh' }, body: { username: 'niamh' } }),
  ],
  ['startTying', ({ client }) => client.call('startTying', { body: { provider: 'skerrow' } })],
  ['untieOwnIdentity', ({ client }) => client.call('untieOwnIdentity', { params: { provider: 'skerrow' } })],
  ['untieIdentity', ({ client }) => client.call('untieIdentity', { params: { person: 'niamh', provider: 'skerrow' } })],
  ['addIdentityProvider', ({ client }) => client.call('addIdentityProvider', { body: PROVIDER })],
  [
    'changeIdentityProvider',
    ({ client }) =>
      client.call('changeIdentityProvider', { params: { provider: 'skerrow' }, body: { revision: 1, name: 'Taken' } }),
  ],
  [
    'removeIdentityProvider',
    ({ client }) => client.call('removeIdentityProvider', { params: { provider: 'skerrow' } }),
  ],
  ['revealSecret', ({ client }) => client.call('revealSecret', { params: { tool } })],
  ['rotateSecret', ({ client }) => client.call('rotateSecret', { params: { tool }, body: {} })],
  ['rotatePlatformKeys', ({ client }) => client.call('rotatePlatformKeys', { body: {} })],
  ['endPlatformKeys', ({ client }) => client.call('endPlatformKeys', { body: {} })],
]

describe('a session whose password was given a while ago', () => {
  it.each(WEIGHTY)('is asked for it before %s, and nothing is done', async (_, run) => {
    const kept = async () => {
      const rows = await Promise.all([
        academy.query(`select id, password_hash, site_role from person order by id`),
        academy.query(`select id from api_token`),
        academy.query(`select person_id from sign_in_link`),
        academy.query(`select id, secret_sealed from registration`),
        academy.query(`select handle, name from identity_provider`),
        academy.query(`select person_id from identity`),
        academy.query(`select count(*) from audit_entry`),
      ])
      return JSON.stringify(rows)
    }
    const before = await kept()
    expect(await later(() => codeOf(run(left)))).toBe('session.confirm_needed')
    expect(await kept()).toBe(before)
  })

  it('is asked by every call that the contract marks, and the table above is all of them', () => {
    const marked = Object.entries(operations).filter(([, { access }]) => access.freshOnly)
    expect(marked.map(([name]) => name).sort()).toEqual(WEIGHTY.map(([name]) => name).sort())
  })

  it('goes on with everything else', async () => {
    await later(async () => {
      expect(await codeOf(left.client.call('listPeople', {}))).toBeUndefined()
      expect(
        await codeOf(left.client.call('createCourse', { body: { code: 'OPN 100', title: 'Open', categories: ['A'] } })),
      ).toBeUndefined()
    })
  })

  it('is told so before the body is read, and others are told of their role first', async () => {
    await later(async () => {
      expect(await codeOf(left.client.call('createToken', { body: { name: '' } }))).toBe('session.confirm_needed')
      const learner = await academy.signIn('niamh')
      expect(await codeOf(learner.client.call('rotatePlatformKeys', { body: {} }))).toBe('access.denied')
    })
  })

  it('is fresh again once it was given, this session alone, and only for its time', async () => {
    await later(async () => {
      const other = academy.visitor()
      expect(await confirm(other, PASSWORD)).toBe('session.required')
      expect(await confirm(left, PASSWORD)).toBeUndefined()
      expect(await reveal(left)).toBeUndefined()
      // The administrator's first session is as old as before.
      expect(await reveal(academy.admin)).toBe('session.confirm_needed')
      expect(await later(() => reveal(left))).toBe('session.confirm_needed')
    })
  })

  it('is not made fresh by a wrong password, nor by guessing on; each try is counted and in the audit', async () => {
    await academy.person('guesser')
    const guesser = await academy.signIn('guesser')
    const token = (who: Visitor) => codeOf(who.client.call('createToken', { body: { name: 'mine' } }))
    await later(async () => {
      const codes: (string | undefined)[] = []
      for (let i = 0; i < 6; i++) codes.push(await confirm(guesser, `wrong ${i}`))
      expect(codes[0]).toBe('person.wrong_password')
      expect(codes.at(-1)).toBe('session.too_many_tries')
      expect(await token(guesser)).toBe('session.confirm_needed')
      const { items } = await academy.admin.client.call('listAudit', { query: { limit: 50 } })
      const refused = items.filter((one) => one.action === 'confirming refused' && one.subject === 'person guesser')
      expect(refused).toHaveLength(codes.filter((code) => code === 'person.wrong_password').length)
      expect(JSON.stringify(refused)).not.toContain('wrong 0')
    })
  })
})

describe('an API token', () => {
  it('goes by its scopes, and is no way to make a session fresh', async () => {
    const { token } = await academy.admin.client.call('createToken', {
      body: { name: 'program', scopes: ['read', 'teach', 'administer'] },
    })
    const program = academy.visitor({ authorization: `Bearer ${token}` })
    expect(await later(() => reveal(program))).toBeUndefined()
    expect(await confirm(program, PASSWORD)).toBe('token.scope')
  })
})
