import { generateKeyPairSync } from 'node:crypto'
import { Refusal } from '@bathyscribe/contract'
import { SignJWT } from 'jose'
import { beforeAll, describe, expect, it } from 'vitest'
import { connectedCourses, standingConnection } from '../src/inbound/messages/connected-courses.js'
import { served } from '../src/inbound/messages/service-call.js'
import { accessToken, callerOf, mayCall } from '../src/inbound/steps/service-token.js'
import { NOW, of, pretend, said, settings } from './pretend.js'

const nowSeconds = NOW.getTime() / 1000
const ours = generateKeyPairSync('rsa', { modulusLength: 2048 })
const theirs = generateKeyPairSync('rsa', { modulusLength: 2048 })
const jwk = (pair: typeof ours, kid: string) => ({ ...pair.publicKey.export({ format: 'jwk' }), kid, alg: 'RS256', use: 'sig' }) // oxfmt-ignore
let published: object[]

/** A token as the platform signs it, by a general library; each part can be another. */
function token(change: Record<string, unknown> = {}, { kid = 'p1', by = ours, typ = 'at+jwt' } = {}): Promise<string> {
  const claims = {
    ...{ iss: settings.publicUrl, aud: settings.publicUrl, sub: 'k1', client_id: 'k1', scope: 'a b', jti: 'j1' },
    ...{ iat: nowSeconds, exp: nowSeconds + 3600 },
    ...change,
  }
  return new SignJWT(claims).setProtectedHeader({ alg: 'RS256', kid, typ }).sign(by.privateKey)
}
function platform() {
  const all = pretend()
  const context = all.context as unknown as { keyring: object; memory: { verifiedTokens: Map<string, { claims: object }> } } // oxfmt-ignore
  context.keyring = { published: () => Promise.resolve(published) }
  return { ...all, memory: context.memory }
}
beforeAll(() => {
  published = [jwk(ours, 'p1')]
})

describe('the token of a service', () => {
  it('is one of ours, and says whose it is and for what', async () => {
    const { context } = platform()
    expect(await accessToken(context, await token())).toMatchObject({ clientId: 'k1', scopes: ['a', 'b'] })
  })
  it.each([undefined, ''])('is there: %j', async (bearer) => {
    expect(said(await accessToken(platform().context, bearer))).toBe('service_token.missing')
  })
  it.each<[string, () => Promise<string>]>([
    ['no token', () => Promise.resolve('a.b.c')],
    ['one that somebody else signed under our key', () => token({}, { by: theirs })],
    ['one under a key that is not ours', () => token({}, { kid: 'p2' })],
    ['an id_token of ours', () => token({}, { typ: 'JWT' })],
    ['one of another platform', () => token({ iss: 'https://other.example' })],
    ['one for somebody else', () => token({ aud: 'https://other.example' })],
    ['one that is over', () => token({ iat: nowSeconds - 3601, exp: nowSeconds - 1 })],
    ['one whose content was changed', async () => {
      const [head, , signature] = (await token()).split('.')
      return `${head}.${Buffer.from(JSON.stringify({ sub: 'k2' })).toString('base64url')}.${signature}`
    }],
  ])('is not %s', async (_, made) => {
    expect(said(await accessToken(platform().context, await made()))).toBe('service_token.unknown')
  }) // oxfmt-ignore

  it('is verified once, however often it is used, and no longer than it lasts', async () => {
    const { context, memory } = platform()
    const one = await token({ exp: nowSeconds + 5 })
    await accessToken(context, one)
    expect([...memory.verifiedTokens.keys()]).toEqual([one])
    // What is remembered is taken as it stands: here, that it is over.
    memory.verifiedTokens.get(one)!.claims = { ...memory.verifiedTokens.get(one)!.claims, exp: nowSeconds - 1 }
    expect(said(await accessToken(context, one))).toBe('service_token.unknown')
  })
  it('goes with the key that signed it, though it was verified before', async () => {
    const { context } = platform()
    const one = await token()
    expect(await accessToken(context, one)).toHaveProperty('clientId')
    published = [jwk(theirs, 'p2')]
    try {
      expect(said(await accessToken(context, one))).toBe('service_token.unknown')
    } finally {
      published = [jwk(ours, 'p1')]
    }
  })
  it('that was refused is not remembered as good', async () => {
    const { context, memory } = platform()
    await accessToken(context, await token({}, { by: theirs }))
    expect(memory.verifiedTokens.size).toBe(0)
  })
})

describe('who calls with it', () => {
  it('is found by what the token says, and what the call names', async () => {
    const { context, asked } = pretend({ findCaller: { tool: { id: 'r1' } } })
    const bearer = { clientId: 'k1', scopes: [], connection: 'n1' }
    const call = { bearer: 'b', scope: 's', courseId: 'c1', column: 'l1' }
    expect(await callerOf(context, bearer, of(call))).toEqual({ tool: { id: 'r1' } })
    expect(asked).toEqual([['findCaller', { ...call, clientId: 'k1', connection: 'n1' }]])
    expect(said(await callerOf(pretend().context, bearer, of(call)))).toBe('service_token.other_course')
  })

  const caller = (change: object = {}) => ({
    ...{ tool: { id: 'r1', state: 'enabled', scoresWhileSuspended: true, scopes: ['s'] }, course: { id: 'c1' } },
    ...{ isThere: true, connectionScopes: null },
    ...change,
  })
  const may = async (scope: string, scopes: string[], change: object = {}) => {
    const { context } = pretend()
    const found = await mayCall(context, of({ token: { clientId: 'k1', scopes }, caller: caller(change), scope }))
    return found && `${found.code}`
  }
  it('may do what its token was granted for and its tool may still do', async () => {
    expect(await may('s', ['s'])).toBeUndefined()
    expect(await may('s', [])).toMatch(/^service_token\./)
    expect(await may('t', ['t'])).toMatch(/^service_token\./)
  })
  it('may send scores, and see where they go, while its tool is suspended with them; nothing else', async () => {
    const AGS = 'https://purl.imsglobal.org/spec/lti-ags/scope/'
    const suspended = (scoresWhileSuspended: boolean, scope: string) =>
      may(scope, [scope], { tool: { id: 'r1', state: 'suspended', scoresWhileSuspended, scopes: [scope] } })
    for (const scope of ['score', 'lineitem.readonly', 'result.readonly']) {
      expect(await suspended(true, `${AGS}${scope}`)).toBeUndefined()
      expect(await suspended(false, `${AGS}${scope}`)).toBe('service_token.suspended')
    }
    expect(await suspended(true, `${AGS}lineitem`)).toBe('service_token.suspended')
  })
  it('may do nothing where what it names is not there', async () => {
    expect(await may('s', ['s'], { isThere: false })).toBe('service_token.other_course')
  })
  it('may do by a connection what that was consented to, whose use is noted once a minute', async () => {
    const { context, names } = pretend()
    const use = async (connectionScopes: string[] | null) => {
      const of_ = { token: { clientId: 'k1', scopes: ['s'], connection: 'n1' }, caller: caller({ connectionScopes }), scope: 's' } // oxfmt-ignore
      return (await mayCall(context, of(of_)))?.code
    }
    expect([await use(['t']), await use(null)]).toEqual(['service_token.scope', 'service_token.scope'])
    expect(names()).toEqual([])
    expect([await use(['s']), await use(['s'])]).toEqual([undefined, undefined])
    expect(names()).toEqual(['noteUse'])
  })
  it.each(['retired', 'deleted', 'draft', 'waiting'])('may do nothing for a tool that is %s', async (state) => {
    const of_ = { tool: { id: 'r1', state, scoresWhileSuspended: true, scopes: ['s'] } }
    expect(await may('s', ['s'], of_)).toMatch(/^service_token\./)
  })
})

describe('the courses of a connection', () => {
  const person = { fullName: 'Aino Testmann' }
  it('are listed with the services of each', async () => {
    const courses = [
      { id: 'c1', code: 'HYD 210', title: 'Surveying' },
      { id: 'c2', code: 'NAV 120', title: 'Navigation' },
    ]
    const { context, asked } = pretend({ courses })
    const taken = await connectedCourses(context, of({ connection: { id: 'n1', person }, tool: { id: 'r1' } }))
    expect(asked).toEqual([['courses', 'n1']])
    expect(taken.statement).toBe('Listed 2 courses that Aino Testmann connected.')
    const { body, mediaType } = (await taken.answer('1')) as { body: { courses: Record<string, string>[] }; mediaType: string } // oxfmt-ignore
    expect(mediaType).toBe('application/vnd.bathyscribe.courses.v1+json')
    expect(body.courses.map((one) => [one['id'], one['label'], one['title']])).toEqual([
      ['c1', 'HYD 210', 'Surveying'],
      ['c2', 'NAV 120', 'Navigation'],
    ])
    for (const one of body.courses) {
      expect(one['memberships']).toMatch(new RegExp(`^https://us\\.example/.*/${one['id']}/memberships$`))
      expect(one['lineitems']).toMatch(new RegExp(`^https://us\\.example/.*/${one['id']}/lineitems$`))
    }
  })
  it('are those of a connection that still stands', async () => {
    const found = await standingConnection(pretend().context, of({ token: { clientId: 'k1', scopes: [], connection: undefined } })) // oxfmt-ignore
    expect(found).toBeInstanceOf(Refusal)
  })
})

describe('a service is served', () => {
  const call = async (change: object) => {
    const given: unknown[] = []
    const serve = (_: unknown, caller: unknown, asked: unknown) => {
      given.push(caller, asked)
      return Promise.resolve({ mediaType: 'x', body: {} })
    }
    const caller = { course: { code: 'HYD 210' } }
    const taken = await served(pretend().context, of({ caller, serve, says: 'Read results', query: { limit: '2' }, ...change })) // oxfmt-ignore
    return { taken: taken as Exclude<typeof taken, Refusal>, given, caller }
  }
  it('with what was asked, and its body where there is one that can be read', async () => {
    const { taken, given, caller } = await call({ column: 'l1', text: '{"label":"Bends"}' })
    expect(given).toEqual([caller, { query: { limit: '2' }, item: 'l1', body: { label: 'Bends' } }])
    expect(taken.statement).toBe('Read results of HYD 210.')
    expect(taken.answer('1')).toEqual({ mediaType: 'x', body: {} })
  })
  it.each([[{}], [{ text: '{"label":' }]])('without one otherwise: %j', async (change) => {
    expect((await call(change)).given[1]).toEqual({ query: { limit: '2' }, item: '', body: undefined })
  })
})
