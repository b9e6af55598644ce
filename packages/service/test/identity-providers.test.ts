import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import type { IdentityProvider, ServiceRefusal } from '@bathyscribe/contract'
import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { closeAfterwards } from './closing.js'
import { FALSE_CLIENT, startFalseProvider, type FalseProvider, type Lies } from './false-provider.js'
import { startAcademy, type TestAcademy } from './harness.js'
import { comeOut } from './signing-on.js'

let academy: TestAcademy
let provider: FalseProvider
beforeAll(async () => {
  academy = await startAcademy()
  provider = await startFalseProvider()
})
beforeEach(() => Object.assign(provider, { lies: {}, asked: [] }))

const settings = (change: Record<string, unknown> = {}) => ({
  handle: 'shifty',
  name: 'Shifty',
  issuer: provider.issuer,
  ...FALSE_CLIENT,
  ...change,
})
const admin = () => academy.admin.client
const add = (change: Record<string, unknown> = {}) => admin().call('addIdentityProvider', { body: settings(change) })
const change = (one: IdentityProvider, body: Record<string, unknown>) =>
  admin().call('changeIdentityProvider', { params: { provider: one.id }, body: { revision: one.revision, ...body } })
const remove = (one: IdentityProvider) => admin().call('removeIdentityProvider', { params: { provider: one.id } })
const refusal = (asked: Promise<unknown>) =>
  asked.then(
    () => 'done',
    (reason: unknown) => {
      const { code, detail } = (reason as ServiceRefusal).problem
      return detail === undefined ? code : `${code}: ${detail}`
    },
  )

describe('an identity provider', () => {
  it('is added, shown with what it has to be told, changed and removed; its secret is seen nowhere', async () => {
    const made = await add()
    expect(made).toMatchObject({
      hasSecret: true,
      match: 'email',
      admits: 'known',
      scopes: 'openid profile email',
      people: 0,
      lastAt: null,
      revision: 1,
      redirectUri: `${academy.url}/sign-on/shifty/return`,
      signOutUri: `${academy.url}/sign-on/shifty/sign-out`,
      afterSignOutUri: `${academy.url}/sign-in`,
    })
    const changed = await change(made, { name: 'Less shifty', admits: 'everybody' })
    expect(changed).toMatchObject({ name: 'Less shifty', admits: 'everybody', revision: 2, hasSecret: true })
    const [kept] = await academy.query<{ row: string }>(`select to_json(v)::text as row from identity_provider v`)
    const audit = await academy.query(`select * from audit_entry where subject = 'identity provider shifty'`)
    expect(audit).toHaveLength(2)
    for (const told of [kept, audit, made, changed])
      expect(JSON.stringify(told)).not.toContain(FALSE_CLIENT.clientSecret)
    await remove(changed)
    expect((await admin().call('listIdentityProviders', {})).items).toEqual([])
    expect(await refusal(remove(changed))).toBe(`sign_on.provider_not_found: ${made.id}`)
  })

  it('may have no secret', async () => {
    const made = await add({ clientSecret: null })
    expect(made.hasSecret).toBe(false)
    expect((await change(made, { clientSecret: 'given later' })).hasSecret).toBe(true)
    await remove(made)
  })

  it('is not written over by two who change it at once', async () => {
    const made = await add()
    const outs = await Promise.all(['a', 'b', 'c'].map((name) => refusal(change(made, { name }))))
    expect(outs.filter((one) => one === 'done')).toHaveLength(1)
    expect(outs.filter((one) => one === 'record.changed_meanwhile')).toHaveLength(2)
    expect((await admin().call('showIdentityProvider', { params: { provider: 'shifty' } })).revision).toBe(2)
    await remove(made)
  })

  it('is there once by name and by issuer, of two who add it at once', async () => {
    const outs = await Promise.all([refusal(add()), refusal(add())])
    expect(outs).toContain('done')
    expect(outs.find((one) => one !== 'done')).toMatch(/^sign_on\.(handle|issuer)_taken/)
    expect(await refusal(add({ handle: 'other' }))).toBe(`sign_on.issuer_taken: ${provider.issuer}`)
    expect(await refusal(add({ issuer: `${provider.issuer}/x`, enabled: false }))).toBe('sign_on.handle_taken: shifty')
    await remove(await admin().call('showIdentityProvider', { params: { provider: 'shifty' } }))
  })

  it.each([
    [{ handle: 'Shifty' }, 'handle'],
    [{ handle: 'a/b' }, 'handle'],
    [{ issuer: 'ftp://x.example' }, 'issuer'],
    [{ issuer: 'https://x.example?tenant=1' }, 'issuer'],
    [{ scopes: 'profile email' }, 'scopes'],
    [{ administratorClaim: 'groups' }, 'administratorValue'],
    [{ administratorValue: 'technologists' }, 'administratorValue'],
    [{ match: 'sub' }, 'match'],
  ])('is refused with %j', async (wrong, path) => {
    const reason = await add(wrong).catch((error: unknown) => (error as ServiceRefusal).problem)
    expect(reason).toMatchObject({ code: 'request.invalid', faults: [{ path }] })
  })

  it('of another issuer knows nobody any more, because others may be called the same there', async () => {
    const second = await startFalseProvider()
    provider.lies = { userInfo: { preferred_username: 'somebody' } }
    const made = await add({ match: 'username', admits: 'everybody' })
    const visitor = academy.visitor()
    const begun = await visitor.send('/sign-on/shifty')
    const back = provider.answer(begun.headers.get('location')!)
    expect((await comeOut(await visitor.send(back.pathname + back.search))).status).toBe(303)
    expect(await admin().call('showIdentityProvider', { params: { provider: 'shifty' } })).toMatchObject({ people: 1 })
    const moved = await change(made, { issuer: second.issuer })
    expect(moved.people).toBe(0)
    expect((await visitor.send('/api/session')).status).toBe(401)
    await remove(moved)
    expect(await admin().call('showPerson', { params: { person: 'somebody' } })).toMatchObject({ closed: false })
  })
})

describe('what is at an issuer', () => {
  const html = { status: 200, body: '<html>', headers: { 'content-type': 'text/html' } }
  const huge = {
    status: 200,
    body: JSON.stringify({ x: 'x'.repeat(600_000) }),
    headers: { 'content-type': 'application/json' },
  }
  it.each<[string, Lies, RegExp]>([
    ['another one', { description: { issuer: 'https://another.example' } }, /not_a_provider.*another issuer/],
    ['a page', { describes: html }, /not_a_provider.*not JSON/],
    ['nothing', { describes: { status: 404, body: '' } }, /not_a_provider.*another status/],
    [
      'a redirect',
      { describes: { status: 302, body: '', headers: { location: 'http://127.0.0.1:1/' } } },
      /not_a_provider/,
    ],
    ['more than is read', { describes: huge }, /provider_away.*larger/],
    ['one without keys', { description: { jwks_uri: undefined } }, /not_a_provider.*jwks_uri/],
  ])('that is %s is no provider', async (_, lies, wanted) => {
    provider.lies = lies
    expect(await refusal(add())).toMatch(wanted)
    expect((await admin().call('listIdentityProviders', {})).items).toEqual([])
  })

  it('is not called where it may not be called, or without TLS outside of this machine', async () => {
    expect(await refusal(add({ issuer: 'https://10.1.2.3' }))).toMatch(/^sign_on\.provider_away.*may not call/)
    expect(await refusal(add({ issuer: 'http://accounts.skerrow.example' }))).toMatch(/^sign_on\.plain_http/)
    expect(await refusal(add({ issuer: academy.url }))).toMatch(/^sign_on\.not_a_provider.*this service itself/)
  })

  it('that never answers is given up', async () => {
    const server = createServer(() => undefined)
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
    closeAfterwards(async () => void server.close())
    const slow = await startAcademy({ outgoingTimeoutMs: 500 })
    const issuer = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
    const asked = slow.admin.client.call('addIdentityProvider', { body: settings({ issuer }) })
    expect(await refusal(asked)).toMatch(/^sign_on\.provider_away.*took too long/)
    server.closeAllConnections()
  })

  it('is read once for many who come, and anew after a change', async () => {
    const made = await add()
    provider.asked.length = 0
    const visitor = academy.visitor()
    await Promise.all(Array.from({ length: 8 }, () => visitor.send('/sign-on/shifty')))
    expect(provider.asked, 'its description is known since it was added').toEqual([])
    await change(made, { name: 'New' })
    expect(provider.asked).toEqual(['/.well-known/openid-configuration'])
    await remove(made)
  })
})

describe('a check', () => {
  const check = async () => {
    const { findings } = await admin().call('checkIdentityProvider', { params: { provider: 'shifty' } })
    return Object.fromEntries(findings.map(({ what, state }) => [what, state]))
  }

  it('says of each thing whether it is good', async () => {
    const made = await add()
    expect(await check()).toEqual({
      description: 'good',
      'code flow': 'good',
      PKCE: 'look',
      signatures: 'good',
      scopes: 'good',
      'signing out': 'look',
      keys: 'good',
      client: 'good',
    })
    provider.lies = {
      description: {
        response_types_supported: ['id_token'],
        id_token_signing_alg_values_supported: ['HS256'],
        scopes_supported: ['openid'],
        claims_supported: ['sub'],
        code_challenge_methods_supported: ['S256'],
        end_session_endpoint: `${provider.issuer}/end`,
      },
    }
    expect(await check()).toMatchObject({ 'code flow': 'bad', PKCE: 'good', signatures: 'bad', scopes: 'look', claims: 'look', 'signing out': 'good' }) // oxfmt-ignore
    provider.lies = {}
    const wrong = await change(made, { clientSecret: 'another' })
    expect(await check()).toMatchObject({ client: 'bad' })
    provider.lies = { tokens: { status: 200, body: { access_token: 'a', token_type: 'Bearer' } } }
    expect(await check(), 'takes any code').toMatchObject({ client: 'bad' })
    provider.lies = { tokens: { status: 500, body: {} } }
    expect(await check()).toMatchObject({ client: 'look' })
    provider.lies = { description: { jwks_uri: `${provider.issuer}/nowhere` } }
    expect(await check()).toMatchObject({ keys: 'bad' })
    await remove(wrong)
  })
})
