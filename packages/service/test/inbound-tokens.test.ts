import { createHash } from 'node:crypto'
import { Refusal } from '@bathyscribe/contract'
import { describe, expect, it } from 'vitest'
import { pickingData } from '../src/desk/pickers/picker-facts.js'
import * as picked from '../src/inbound/messages/picked.js'
import { saidIn } from '../src/inbound/messages/picked-answer.js'
import * as change from '../src/inbound/messages/registration-change.js'
import * as registration from '../src/inbound/messages/registration.js'
import { revoked } from '../src/inbound/messages/revocation.js'
import * as service from '../src/inbound/messages/service.js'
import * as token from '../src/inbound/messages/token.js'
import { connected, mayCall } from '../src/inbound/steps/service-token.js'
import { NOW, of, pretend, said } from './pretend.js'

const AGS = 'https://purl.imsglobal.org/spec/lti-ags/scope/'
const { context } = pretend()

describe('a grant', () => {
  it.each([
    ['client_credentials', {}],
    ['authorization_code', {}],
    ['refresh_token', {}],
    [undefined, 'token.request'],
    ['password', 'token.grant_type'],
  ])('of the type %s is answered by %j', (grant_type, answer) =>
    expect(said(token.grantType(context, of({ form: { grant_type } })))).toEqual(answer),
  )

  const verifier = 'v'.repeat(43)
  const challenge = createHash('sha256').update(verifier).digest('base64url')
  const good = { connectionId: 'k1', scopes: ['a'], usedAt: null, revokedAt: null, expiresAt: new Date(NOW.getTime() + 1), redirectUri: 'https://t.example/', challenge } // oxfmt-ignore
  const code = { grant_type: 'authorization_code', code: 'c', redirect_uri: 'https://t.example/', code_verifier: verifier } // oxfmt-ignore
  const use = async (form: object, grant: unknown) => {
    const { context, asked, names } = pretend({ useGrant: grant })
    const answer = await token.connectionGranted(context, of({ form, client: { id: 'r1' } }))
    return { answer: answer instanceof Refusal ? `${answer.code}: ${answer.detail}` : answer, asked, names: names() }
  }
  it('by the tool alone is of no connection', async () => {
    expect(await use({ grant_type: 'client_credentials' }, good)).toMatchObject({ answer: { connection: undefined }, names: [] }) // oxfmt-ignore
  })
  it('by a code or a refresh token opens a connection', async () => {
    const granted = { connection: { id: 'k1', scopes: ['a'] } }
    const byCode = await use(code, good)
    expect(byCode.answer).toEqual(granted)
    expect(byCode.asked[0]!.slice(2)).toEqual(['code', 'r1', NOW])
    const byRefresh = await use({ grant_type: 'refresh_token', refresh_token: 'x' }, { ...good, challenge: null })
    expect(byRefresh.answer).toEqual(granted)
    expect(byRefresh.asked[0]![2]).toBe('refresh')
  })
  it.each([
    ['none is brought', { ...code, code: undefined }, good, 'token.request: code', ['none']],
    ['none is brought', { grant_type: 'refresh_token' }, good, 'token.request: refresh_token', ['none']],
    ['it is not known', code, undefined, 'token.grant: unknown', []],
    ['it was used', code, { ...good, usedAt: NOW }, 'token.grant: used before', ['revoke']],
    ['its connection ended', code, { ...good, revokedAt: NOW }, 'token.grant: the connection has ended', []],
    ['it is over', code, { ...good, expiresAt: NOW }, 'token.grant: over', []],
    ['it goes elsewhere', { ...code, redirect_uri: 'https://t.example' }, good, 'token.grant: redirect_uri', []],
    ['it is not its own', { ...code, code_verifier: 'w'.repeat(43) }, good, 'token.grant: code_verifier', []],
    ['it proves nothing', { ...code, code_verifier: undefined }, good, 'token.grant: code_verifier', []],
  ])('is refused where %s: %#', async (_, form, grant, answer, more) => {
    const done = await use(form, grant)
    expect(done.answer).toBe(answer)
    // One that comes twice was stolen, by the one or by the other: then the connection ends, and only then.
    expect(done.names).toEqual(more[0] === 'none' ? [] : ['useGrant', ...more])
  })

  const scopes = (scope: string | undefined, connection?: { scopes: string[] }) => {
    const client = { scopes: [`${AGS}score`, `${AGS}lineitem`] }
    return said(token.scopesGranted(context, of({ form: { scope }, client, connection })))
  }
  it('is of the scopes that were asked for, as far as tool and connection have them', () => {
    expect(scopes(`${AGS}score x`)).toEqual({ scopes: [`${AGS}score`] })
    expect(scopes(undefined)).toBe('token.scope_not_granted')
    expect(scopes('x')).toBe('token.scope_not_granted')
    const some = { scopes: [`${AGS}score`, `${AGS}result.readonly`] }
    expect(scopes(undefined, some)).toEqual({ scopes: [`${AGS}score`] })
    expect(scopes(`${AGS}lineitem`, some)).toBe('token.scope_not_granted')
    expect(scopes(undefined, { scopes: [] })).toBe('token.scope_not_granted')
  })

  it('is a token for an hour, and one to come again by where there is a connection', async () => {
    const call = { client: { id: 'r1', clientId: 'c1', name: 'Bench' }, scopes: ['a', 'b'], jws: { keyId: 'k' } }
    const alone = pretend()
    const taken = token.serviceTokenGranted(alone.context, of(call))
    expect(taken.statement).toBe('Granted 2 of the scopes asked for to “Bench”.')
    const { status, body } = await taken.answer(null)
    expect(status).toBe(200)
    expect(body).toMatchObject({ token_type: 'Bearer', expires_in: 3600, scope: 'a b' })
    expect(body).not.toHaveProperty('refresh_token')
    const [type, ...rest] = String(body['access_token']).split(' ')
    expect(type).toBe('at+jwt')
    const seconds = NOW.getTime() / 1000
    expect(JSON.parse(rest.join(' '))).toEqual({ iss: 'https://us.example', aud: 'https://us.example', sub: 'c1', scope: 'a b', iat: seconds, exp: seconds + 3600, jti: 'secret-1' }) // oxfmt-ignore
    expect(alone.names()).toEqual(['noteKey'])
    const together = pretend()
    const again = await token.serviceTokenGranted(together.context, of({ ...call, connection: { id: 'k1' } })).answer(null) // oxfmt-ignore
    expect(again.body).toMatchObject({ refresh_token: 'secret-1' })
    expect(together.asked.at(-1)![1]).toMatchObject({ connectionId: 'k1', kind: 'refresh', expiresAt: new Date(NOW.getTime() + 180 * 86_400_000) }) // oxfmt-ignore
  })

  it('is noted without what opens anything', () => {
    const form = { grant_type: 'g'.repeat(300), scope: 's'.repeat(3000), client_assertion: 'head.body.signature' }
    const about = token.aboutClient(context, of({ form, named: { id: 'r1', courseId: 'c1' } }))
    expect(about.entry).toMatchObject({ registrationId: 'r1', courseId: 'c1' })
    const { parameters } = about.entry.request as { parameters: [string, string][] }
    expect(parameters.map(([, value]) => value.length)).toEqual([200, 2000, 'head.body.…'.length])
    expect(parameters[2]![1]).toBe('head.body.…')
    expect(token.aboutClient(context, of({ form: {} })).entry).toMatchObject({ registrationId: null, courseId: null })
  })

  it.each([
    ['token.request', 400, 'invalid_request'],
    ['token.grant', 400, 'invalid_grant'],
    ['token.grant_type', 400, 'unsupported_grant_type'],
    ['token.scope_not_granted', 400, 'invalid_scope'],
    ['jwt.malformed', 401, 'invalid_client'],
  ] as const)('that is refused by %s is answered %i %s', (code, status, error) => {
    const answer = token.refuseRequest(context, of({}), new Refusal(code)).answer()
    expect(answer).toMatchObject({ status, body: { error } })
  })
  it('that meets a fault of ours is not answered as if it were the tool’s', () => {
    const ours = new Refusal('service.database_unavailable')
    expect(() => token.refuseRequest(context, of({}), ours).answer()).toThrow(ours)
  })

  it('is ended by its tool, and by no other', async () => {
    const end = async (registrationId: string) => {
      const { context, names } = pretend({ connectionOfGrant: { registrationId, connectionId: 'k1' } })
      const answer = await revoked(context, of({ client: { id: 'r1' }, jws: { keyId: 'k' }, form: {} })).answer(null)
      expect(answer).toEqual({ status: 200, body: {} })
      return names()
    }
    expect(await end('r1')).toEqual(['noteKey', 'connectionOfGrant', 'revoke'])
    expect(await end('r2')).toEqual(['noteKey', 'connectionOfGrant'])
  })
})

describe('a call of a service', () => {
  const may = async (change: { tool?: object; token?: object; caller?: object; scope?: string } = {}) => {
    const { context, names } = pretend()
    const scopes = [`${AGS}score`, `${AGS}lineitem`]
    const tool = { state: 'enabled', scoresWhileSuspended: true, scopes, ...change.tool }
    const answer = await mayCall(context, {
      token: of({ scopes, connection: undefined, ...change.token }),
      caller: of({ tool, isThere: true, connectionScopes: null, ...change.caller }),
      scope: change.scope ?? `${AGS}score`,
    })
    return [said(answer), ...names()]
  }
  const ROSTER = 'https://purl.imsglobal.org/spec/lti-nrps/scope/contextmembership.readonly'
  it.each<[string, Parameters<typeof may>[0], unknown[]]>([
    ['as granted', {}, [undefined]],
    ['to read columns, by who may change them', { scope: `${AGS}lineitem.readonly` }, [undefined]],
    ['of a suspended tool that sends scores', { tool: { state: 'suspended' } }, [undefined]],
    ['of a suspended tool whose scores are shut', { tool: { state: 'suspended', scoresWhileSuspended: false } }, ['service_token.suspended']],
    ['of a suspended tool that reads the roster', { tool: { state: 'suspended', scopes: [ROSTER] }, token: { scopes: [ROSTER] }, scope: ROSTER }, ['service_token.suspended']],
    ['of a suspended tool that changes columns', { tool: { state: 'suspended' }, scope: `${AGS}lineitem` }, ['service_token.suspended']],
    ['of a retired tool', { tool: { state: 'retired' } }, ['service_token.unknown']],
    ['of a tool that waits', { tool: { state: 'waiting' } }, ['service_token.unknown']],
    ['with a token for less', { token: { scopes: [`${AGS}lineitem`] } }, ['service_token.scope']],
    ['with a scope that was taken back', { tool: { scopes: [`${AGS}lineitem`] } }, ['service_token.scope']],
    ['in a course where it has no place', { caller: { isThere: false } }, ['service_token.other_course']],
    ['by a connection', { token: { connection: 'k1' }, caller: { connectionScopes: [`${AGS}score`] } }, [undefined, 'noteUse']],
    ['by a connection for less', { token: { connection: 'k1' }, caller: { connectionScopes: [] } }, ['service_token.scope']],
    ['by a connection that opens nothing here', { token: { connection: 'k1' }, caller: { connectionScopes: null } }, ['service_token.scope']],
  ])('%s', async (_, change, answer) => expect(await may(change)).toEqual(answer)) // oxfmt-ignore

  it('of a connection, for what belongs to no course', async () => {
    const tool = { id: 'r1', state: 'enabled' }
    const connection = { revokedAt: null, tool: { id: 'r1' } }
    const ask = async (found: Record<string, unknown>, by: string | undefined = 'k1') =>
      said(await connected(pretend(found).context, of({ clientId: 'c1', connection: by })))
    expect(await ask({ findClient: tool, one: connection })).toEqual({ tool, connection })
    expect(await ask({ findClient: { ...tool, state: 'suspended' }, one: connection })).toBe('service_token.suspended')
    for (const found of [
      { one: connection },
      { findClient: { ...tool, state: 'retired' }, one: connection },
      { findClient: tool },
      { findClient: tool, one: { ...connection, revokedAt: NOW } },
      { findClient: tool, one: { ...connection, tool: { id: 'r2' } } },
    ])
      expect(await ask(found)).toBe('service_token.unknown')
    expect(said(await connected(context, of({ clientId: 'c1', connection: undefined })))).toBe('service_token.unknown')
  })

  it('is noted as far as it is known whose it is', () => {
    const call = { method: 'POST', url: `https://us.example/${'x'.repeat(3000)}`, text: 't'.repeat(30_000) }
    const { entry } = service.aboutCall(context, of(call))
    expect(entry.registrationId).toBeNull()
    expect((entry.request as { url: string }).url).toHaveLength(2000)
    expect((entry.request as { body: string }).body).toMatch(/^t{20000}… \(30000 characters\)$/)
    expect(service.aboutCall(context, of({ ...call, text: undefined })).entry.request).toHaveProperty('body', undefined)
    const by = (state: string) => service.aboutTool(context, of({ ...call, caller: { tool: { id: 'r1', state } } })).entry.registrationId // oxfmt-ignore
    expect([by('enabled'), by('suspended'), by('retired'), by('deleted')]).toEqual(['r1', 'r1', null, null])
    const caller = { tool: { id: 'r1' }, course: { id: 'c1' }, column: null, person: null }
    expect(service.aboutCaller(context, of({ ...call, caller })).entry).toMatchObject({ registrationId: 'r1', courseId: 'c1', assignmentId: null, personId: null }) // oxfmt-ignore
    const whole = { ...caller, column: { id: 'l1' }, person: { id: 'p1' } }
    expect(service.aboutCaller(context, of({ ...call, caller: whole })).entry).toMatchObject({ assignmentId: 'l1', personId: 'p1' }) // oxfmt-ignore
  })
})

describe('an answer of a picker', () => {
  const picking = { id: 'q1', personId: 'p1', courseId: 'c1', assignmentId: null, state: 'open', expiresAt: new Date(NOW.getTime() + 1) } // oxfmt-ignore
  const data = pickingData(context, 'q1', 'p1')
  const to = (change: object, given = data) => {
    const found = picked.toThisQuestion(context, of({ picking: { ...picking, ...change }, answer: { data: given } }))
    return found instanceof Refusal ? `${found.code}: ${found.detail}` : found
  }
  it('is to this question, while it is open', () => {
    expect(to({})).toEqual({})
    expect(to({}, '')).toBe('picker.data_unknown: data is missing')
    expect(to({}, 'x'.repeat(50))).toBe(`picker.data_unknown: “${'x'.repeat(40)}”`)
    expect(to({}, pickingData(context, 'q1', 'p2'))).toMatch(/^picker\.data_unknown/)
    expect(to({ state: 'left' })).toBe('picker.closed: left')
    expect(to({ state: 'answered' })).toBe('picker.data_used: answered')
    expect(to({ expiresAt: NOW })).toBe('picker.expired: the picking')
  })
  it('says to people its error before its message, in one line', () => {
    expect(saidIn('Sorry', null, 'Done')).toEqual({ said: 'Sorry', failed: true })
    expect(saidIn(null, 'trace', 'Done\nhere')).toEqual({ said: 'Done here', failed: true })
    expect(saidIn('', '', null)).toEqual({ said: null, failed: false })
    expect(saidIn(null, null, 'x'.repeat(600)).said!.length).toBeLessThanOrEqual(500)
  })
  it('is noted without the signature of its token', () => {
    const fields = [['JWT', 'head.body.signature'], ['a', 'b'], ...Array.from({ length: 60 }, () => ['n', 'v'])]
    const about = picked.aboutPicking(context, of({ picking, tool: { id: 'r1' }, fields }))
    expect(about.entry).toMatchObject({ registrationId: 'r1', courseId: 'c1', pickingId: 'q1', personId: 'p1' })
    const { parameters } = about.entry.request as { parameters: unknown[] }
    expect(parameters).toHaveLength(50)
    expect(parameters[0]).toEqual(['JWT', 'head.body'])
    expect(about.tells?.refused).toEqual({ kind: 'picking', courseId: 'c1', personId: 'p1' })
    expect(picked.aboutFields(context, { id: 'q1', fields: [] }).entry.registrationId).toBeNull()
  })
  it('is of a picking that there is', async () => {
    const { context } = pretend({ byId: undefined })
    expect(said(await picked.pickingAsked(context, { id: 'q1', fields: [] }))).toBe('picker.not_found')
  })
})

describe('a registration that a tool manages', () => {
  const tool = {
    id: 'r1',
    clientId: 'c1',
    state: 'enabled',
    metadata: { name: 'Bench' },
    name: 'Bench',
    courseId: 'c9',
  }
  const managed = async (found: unknown, clientId = 'c1') =>
    said(await change.toolManaged(pretend({ byManagementHash: found }).context, of({ token: 't', clientId })))
  it('is opened by its own token, at its own address, while it stands', async () => {
    expect(await managed(tool)).toEqual({ tool, known: tool.metadata })
    expect(await managed({ ...tool, state: 'waiting' })).toHaveProperty('tool')
    for (const none of [undefined, { ...tool, metadata: null }, { ...tool, state: 'deleted' }, { ...tool, state: 'retired' }])
      expect(await managed(none)).toBe('registration.token') // oxfmt-ignore
    expect(await managed(tool, 'c2')).toBe('registration.token')
  })
  it('is only read where nothing is sent', async () => {
    expect(change.changeWhole(context, of({ sent: undefined }))).toEqual({ metadata: undefined })
    expect(said(change.changeWhole(context, of({ sent: {} })))).toBe('metadata.invalid')
    const taken = await change.changeProposed(context, of({ tool, known: tool.metadata, metadata: undefined }))
    expect(taken.statement).toBe('“Bench” read its registration.')
    expect(change.aboutRegistration(context, of({ method: 'GET', tool })).entry).toMatchObject({ registrationId: 'r1', courseId: 'c9' }) // oxfmt-ignore
  })
  it('is told in the words of the standard what is wrong with it', () => {
    const answer = (refusal: Refusal) => registration.refuseDescription(context, of({}), refusal).answer()
    expect(answer(new Refusal('registration.token'))).toMatchObject({ status: 401, body: { error: 'invalid_token' } })
    const wrong = registration.metadataWhole(context, of({ sent: {} })) as Refusal
    expect(answer(wrong)).toMatchObject({ status: 400, body: { error: 'invalid_client_metadata' } })
    expect(answer(new Refusal('tool.already_registered', 'why'))).toMatchObject({ status: 400, body: { error_description: 'why' } }) // oxfmt-ignore
    const other = new Refusal('service.busy')
    expect(() => answer(other)).toThrow(other)
    const about = (sent: unknown) => registration.aboutDescription(context, of({ method: 'POST', sent })).entry.request
    expect(about({ a: 1 })).toEqual({ method: 'POST', url: 'https://us.example/lti/register', body: '{"a":1}' })
    expect(about(undefined)).not.toHaveProperty('body')
  })
  it('begins with an invitation that is open', async () => {
    const open = async (is: boolean) => said(await registration.openInvitation(pretend({ isOpenInvitation: is }).context, of({ token: 't' }))) // oxfmt-ignore
    expect([await open(true), await open(false)]).toEqual([{}, 'registration.token'])
  })
})
