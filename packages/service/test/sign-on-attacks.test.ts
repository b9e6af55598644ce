import { startService } from '@bathyscribe/service'
import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { FALSE_CLIENT, startFalseProvider, type FalseProvider, type Lies } from './false-provider.js'
import { codeOf, cookieOf, startAcademy, type TestAcademy, type Visitor } from './harness.js'
import { comeOut, type CameOut } from './signing-on.js'

let academy: TestAcademy
let provider: FalseProvider
beforeAll(async () => {
  academy = await startAcademy()
  provider = await startFalseProvider()
  const { clientId, clientSecret } = FALSE_CLIENT
  const body = { handle: 'shifty', name: 'Shifty', issuer: provider.issuer, clientId, clientSecret, match: 'username' as const, admits: 'everybody' as const } // oxfmt-ignore
  await academy.admin.client.call('addIdentityProvider', { body })
})
beforeEach(() => {
  Object.assign(provider, { lies: {}, subject: 'somebody', authTime: undefined })
  academy.clock.offsetMs = 0
})

const begin = async (visitor: Visitor) => {
  const begun = await visitor.send('/sign-on/shifty')
  expect(begun.status).toBe(303)
  return begun.headers.get('location')!
}
const arrive = async (visitor: Visitor, back: URL, path = back.pathname): Promise<CameOut> =>
  comeOut(await visitor.send(path + back.search))
const signOn = async (lies: Lies, visitor = academy.visitor()) => {
  provider.lies = { userInfo: { preferred_username: 'somebody' }, ...lies }
  return arrive(visitor, provider.answer(await begin(visitor)))
}
const isSignedIn = async (visitor: Visitor) => (await visitor.send('/api/session')).status === 200

describe('an answer', () => {
  it('that is honest signs in', async () => {
    const visitor = academy.visitor()
    expect(await signOn({}, visitor)).toMatchObject({ status: 303, location: '/' })
    expect(await isSignedIn(visitor)).toBe(true)
  })

  const now = Math.floor(Date.now() / 1000)
  it.each<[string, Lies]>([
    ['of another sign-in', { claims: { nonce: 'another' } }],
    ['without the nonce', { claims: { nonce: undefined } }],
    ['for another client', { claims: { aud: 'somebody-else' } }],
    ['for several, given to another', { claims: { aud: [FALSE_CLIENT.clientId, 'other'], azp: 'other' } }],
    ['of another issuer', { claims: { iss: 'http://127.0.0.1:1' } }],
    ['that has expired', { claims: { exp: now - 3600, iat: now - 7200 } }],
    ['without an end', { claims: { exp: undefined } }],
    ['without a subject', { claims: { sub: undefined } }],
    ['with an empty subject', { claims: { sub: '' } }],
    ['that nobody signed', { signedBy: 'none' }],
    ['signed by the secret that both have', { signedBy: 'secret' }],
    ['signed by a key that is not the provider’s', { signedBy: 'other' }],
    ['without an ID token', { tokens: { status: 200, body: { access_token: 'a', token_type: 'Bearer' } } }],
    [
      'with an ID token that is none',
      { tokens: { status: 200, body: { access_token: 'a', token_type: 'Bearer', id_token: 'x.y.z' } } },
    ],
    ['that is no JSON', { tokens: { status: 200, body: 'yes' } }],
    ['that is a fault of the server', { tokens: { status: 500, body: {} } }],
    ['whose claims are somebody else’s', { userInfo: { sub: 'another', preferred_username: 'somebody' } }],
  ])('%s signs nobody in', async (_, lies) => {
    const visitor = academy.visitor()
    const out = await signOn(lies, visitor)
    expect(out.status).toBe(502)
    expect(out.location).toBeNull()
    expect(await isSignedIn(visitor)).toBe(false)
  })

  it('in which the provider says no is told in its words, as words', async () => {
    const visitor = academy.visitor()
    const { searchParams } = new URL(await begin(visitor))
    const back = new URL(`${academy.url}/sign-on/shifty/return`)
    back.search = new URLSearchParams({ error: 'access_denied', error_description: '<b>no</b>', state: searchParams.get('state')!, iss: provider.issuer }).toString() // oxfmt-ignore
    const response = await visitor.send(back.pathname + back.search)
    expect(response.status).toBe(403)
    const page = await response.text()
    expect(page).toContain('access_denied: &lt;b&gt;no&lt;/b&gt;')
    expect(page).not.toContain('<b>no')
  })

  it('from another provider than the one that was asked is not taken (RFC 9207)', async () => {
    const visitor = academy.visitor()
    const back = provider.answer(await begin(visitor))
    back.searchParams.set('iss', 'https://honest.example')
    expect((await arrive(visitor, back)).status).toBe(502)
    expect(await isSignedIn(visitor)).toBe(false)
  })
})

describe('what was begun', () => {
  it('is finished by the browser that began it, and by no other', async () => {
    const [mine, theirs] = [academy.visitor(), academy.visitor()]
    const back = provider.answer(await begin(mine))
    await begin(theirs)
    expect((await arrive(theirs, back)).says).toContain('was not begun in this browser')
    expect(await isSignedIn(theirs)).toBe(false)
  })

  it('is finished once', async () => {
    provider.lies = { userInfo: { preferred_username: 'somebody' } }
    const visitor = academy.visitor()
    const back = provider.answer(await begin(visitor))
    const kept = cookieOf(visitor)
    expect((await arrive(visitor, back)).status).toBe(303)
    expect((await arrive(visitor, back)).status, 'without what was kept').toBe(400)
    const again = await fetch(`${academy.url}${back.pathname}${back.search}`, {
      headers: { cookie: kept },
      redirect: 'manual',
    })
    expect(again.status, 'with it, the provider knows the code no more').toBe(400)
  })

  it('may be begun in several windows, and each is finished', async () => {
    provider.lies = { userInfo: { preferred_username: 'somebody' } }
    const visitor = academy.visitor()
    const [first, second] = [await begin(visitor), await begin(visitor)]
    expect((await arrive(visitor, provider.answer(first))).status).toBe(303)
    expect((await arrive(visitor, provider.answer(second))).status).toBe(303)
  })

  it('is not kept without end in a browser that goes on beginning', async () => {
    const visitor = academy.visitor()
    for (let i = 0; i < 12; i++) await begin(visitor)
    expect([...visitor.cookies().keys()].filter((name) => name.includes('sign_on')).length).toBeLessThanOrEqual(5)
  })

  it('is over after ten minutes', async () => {
    const visitor = academy.visitor()
    const back = provider.answer(await begin(visitor))
    academy.clock.offsetMs = 11 * 60_000
    expect((await arrive(visitor, back)).says).toContain('took longer than ten minutes')
  })

  it('at one provider is not finished at the address of another', async () => {
    const body = { handle: 'second', name: 'Second', issuer: (await startFalseProvider()).issuer, ...FALSE_CLIENT }
    await academy.admin.client.call('addIdentityProvider', { body })
    const visitor = academy.visitor()
    const back = provider.answer(await begin(visitor))
    expect((await arrive(visitor, back, '/sign-on/second/return')).status).toBe(400)
    await academy.admin.client.call('removeIdentityProvider', { params: { provider: 'second' } })
  })

  it('is none where the browser brings made-up things', async () => {
    for (const kept of ['', 'x', 'A'.repeat(200), 'A'.repeat(7000)]) {
      const response = await fetch(`${academy.url}/sign-on/shifty/return?code=c&state=abcdefghijklmnop`, {
        headers: { cookie: `bathyscribe_sign_on_abcdefghijkl=${kept}` },
      })
      expect(response.status).toBe(400)
    }
    expect((await fetch(`${academy.url}/sign-on/shifty/return`)).status).toBe(400)
    expect((await fetch(`${academy.url}/sign-on/nobody/return?state=x`)).status).toBe(404)
  })

  it('is finished by a service that was started anew meanwhile', async () => {
    provider.lies = { userInfo: { preferred_username: 'somebody' } }
    const visitor = academy.visitor()
    const back = provider.answer(await begin(visitor))
    const other = await startService({ ...academy.service.context.settings, port: 0 })
    try {
      const cookie = cookieOf(visitor)
      const response = await fetch(`${other.address}${back.pathname}${back.search}`, {
        headers: { cookie },
        redirect: 'manual',
      })
      expect(response.status).toBe(303)
    } finally {
      await other.stop()
    }
  })
})

describe('confirming', () => {
  const somebody = async () => {
    const visitor = academy.visitor()
    await signOn({}, visitor)
    await visitor.client.call('whoAmI', {})
    return visitor
  }
  const confirm = async (visitor: Visitor) => {
    const { location } = await visitor.client.call('startConfirming', {
      body: { provider: 'shifty', next: '/confirmed' },
    })
    expect(new URL(location).searchParams.get('prompt')).toBe('login')
    expect(new URL(location).searchParams.get('max_age')).toBe('0')
    return arrive(visitor, provider.answer(location))
  }
  const tokens = async (visitor: Visitor) =>
    (await codeOf(visitor.client.call('createToken', { body: { name: 'x', scopes: ['read'], expiresInDays: 1 } }))) ??
    'done'

  it('is wanted of a session whose provider does not say when somebody signed in there', async () => {
    const visitor = await somebody()
    expect(await tokens(visitor)).toBe('session.confirm_needed')
    provider.authTime = Math.floor(Date.now() / 1000)
    expect(await confirm(visitor)).toMatchObject({ status: 303, location: '/confirmed' })
    expect(await tokens(visitor)).toBe('done')
  })

  it('needs a sign-in that the provider says was just now, of the same person', async () => {
    const visitor = await somebody()
    expect((await confirm(visitor)).says).toContain('does not say that you have just signed in')
    provider.authTime = Math.floor(Date.now() / 1000) - 3600
    expect((await confirm(visitor)).status).toBe(403)
    provider.authTime = Math.floor(Date.now() / 1000)
    provider.subject = 'another'
    await signOn({ userInfo: { sub: 'another', preferred_username: 'another' } })
    expect((await confirm(visitor)).says).toContain('somebody else’s account')
    expect(await tokens(visitor)).toBe('session.confirm_needed')
  })

  it('counts from when the person signed in there, not from when they came here', async () => {
    provider.authTime = Math.floor(Date.now() / 1000) - 2 * 86_400
    expect(await tokens(await somebody())).toBe('session.confirm_needed')
    provider.authTime = Math.floor(Date.now() / 1000) - 60
    expect(await tokens(await somebody())).toBe('done')
    provider.authTime = Math.floor(Date.now() / 1000) + 86_400 * 30
    const visitor = await somebody()
    const [newest] = await academy.query(`select confirmed_at <= created_at as "isPast" from session order by created_at desc limit 1`) // oxfmt-ignore
    expect(newest).toEqual({ isPast: true })
    academy.clock.offsetMs = 25 * 3600_000
    expect(await tokens(visitor), 'a time to come is none').not.toBe('done')
  })
})

describe('a logout token', () => {
  const EVENTS = { 'http://schemas.openid.net/event/backchannel-logout': {} }
  const post = async (token: string, handle = 'shifty') =>
    (
      await fetch(`${academy.url}/sign-on/${handle}/sign-out`, {
        method: 'POST',
        body: new URLSearchParams({ logout_token: token }),
      })
    ).status
  const now = () => Math.floor(Date.now() / 1000)
  const good = () => ({
    iss: provider.issuer,
    aud: FALSE_CLIENT.clientId,
    iat: now(),
    exp: now() + 120,
    jti: 'j',
    events: EVENTS,
    sub: 'somebody',
  })
  const sessions = async () =>
    Number(
      (await academy.query<{ n: string }>(`select count(*) as n from session where provider_id is not null`))[0]!.n,
    )

  it.each<[string, Record<string, unknown>]>([
    ['for another client', { aud: 'other' }],
    ['of another issuer', { iss: 'http://127.0.0.1:1' }],
    ['with a nonce, as ID tokens have', { nonce: 'n' }],
    ['that tells of no logout', { events: {} }],
    ['whose events are none', { events: null }],
    ['without a name of its own', { jti: undefined }],
    ['of nobody', { sub: undefined }],
    ['that is old', { iat: 1_700_000_000, exp: 1_700_000_120 }],
  ])('%s ends nothing', async (_, change) => {
    await signOn({})
    const before = await sessions()
    expect(await post(await provider.sign({ ...good(), ...change }))).toBe(400)
    expect(await sessions()).toBe(before)
  })

  it('that is no token, or signed by nobody, ends nothing', async () => {
    for (const token of ['x', 'a.b.c', 'e30.e30.']) expect(await post(token)).toBe(400)
    expect(await post(await provider.sign(good()), 'nobody')).toBe(404)
  })

  it('ends the sessions of its person, or the one it names, and nobody else’s', async () => {
    const [one, two, another] = [academy.visitor(), academy.visitor(), academy.visitor()]
    await signOn({ claims: { sid: 's1' } }, one)
    await signOn({ claims: { sid: 's2' } }, two)
    provider.subject = 'another'
    await signOn({ userInfo: { sub: 'another', preferred_username: 'another' } }, another)
    expect(await post(await provider.sign({ ...good(), sub: undefined, sid: 's1' }))).toBe(200)
    expect([await isSignedIn(one), await isSignedIn(two)]).toEqual([false, true])
    expect(await post(await provider.sign(good()))).toBe(200)
    expect([await isSignedIn(two), await isSignedIn(another)]).toEqual([false, true])
    expect(await post(await provider.sign({ ...good(), sub: 'nobody here' })), 'of somebody who never came').toBe(200)
    expect(await isSignedIn(another)).toBe(true)
  })

  it('sent again ends nothing that was begun after it', async () => {
    const token = await provider.sign({ ...good(), iat: now() - 400, exp: now() + 120 })
    const visitor = academy.visitor()
    await signOn({}, visitor)
    expect(await post(token)).toBe(200)
    expect(await isSignedIn(visitor)).toBe(true)
  })
})
