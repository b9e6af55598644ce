import { outcomeXml } from '@bathyscribe/practice-tools'
import { generateKeyPair, SignJWT, decodeJwt, decodeProtectedHeader } from 'jose'
import { beforeAll, describe, expect, it } from 'vitest'
import { csrfOf } from './harness.js'
import { launch13, register13 } from './harness-13.js'
import { SCOPES_13, startScoring, type Scoring } from './scoring-13.js'

const GROUPS = 'https://purl.imsglobal.org/spec/lti-gs/scope/contextgroup.readonly'
const FILES = 'urn:bathyscribe:scope:coursefiles.readonly'
const ALL = [...Object.values(SCOPES_13), GROUPS, FILES]

let at: Scoring
let column: string
let resultId: string
beforeAll(async () => {
  at = await startScoring({ scopes: ALL })
  column = await at.make('Guarded')
  expect(await at.score(column, 'aino', 20)).toBe(204)
  const { fields } = await launch13(at.aino, column, at.client)
  const claims = decodeJwt(fields['id_token']!)
  const service = claims['https://purl.imsglobal.org/spec/lti-bo/claim/basicoutcome'] as {
    lis_result_sourcedid: string
  }
  resultId = service.lis_result_sourcedid
})

const moment = () => new Date(Date.now() + 3_600_000).toISOString()
const scoreBody = () => ({
  userId: at.subjects['aino'],
  timestamp: moment(),
  activityProgress: 'Completed',
  gradingProgress: 'FullyGraded',
  scoreGiven: 3,
  scoreMaximum: 40,
})
/** Every service, asked as a tool would. */
const SERVICES: Record<string, (bearer: string) => Promise<number>> = {
  score: async (bearer) => (await at.call('POST', `lineitems/${column}/scores`, scoreBody(), { bearer })).status,
  'line items': async (bearer) => (await at.call('GET', 'lineitems', undefined, { bearer })).status,
  'one line item': async (bearer) => (await at.call('GET', `lineitems/${column}`, undefined, { bearer })).status,
  'a new line item': async (bearer) =>
    (await at.call('POST', 'lineitems', { label: 'Not to be', scoreMaximum: 5 }, { bearer })).status,
  results: async (bearer) => (await at.call('GET', `lineitems/${column}/results`, undefined, { bearer })).status,
  roster: async (bearer) => (await at.call('GET', 'memberships', undefined, { bearer })).status,
  groups: async (bearer) => (await at.call('GET', 'groups', undefined, { bearer })).status,
  files: async (bearer) => (await at.call('GET', 'files', undefined, { bearer })).status,
  outcome: async (bearer) =>
    (
      await fetch(`${at.academy.url}/lti/outcomes`, {
        method: 'POST',
        headers: { 'content-type': 'application/xml', authorization: `Bearer ${bearer}` },
        body: outcomeXml('replaceResult', resultId, '0.075'),
      })
    ).status,
}
const standing = async () => [
  await at.cell(column, 'aino'),
  Number((await at.academy.query<{ n: string }>(`select count(*) as n from score`))[0]!.n),
  Number((await at.academy.query<{ n: string }>(`select count(*) as n from assignment`))[0]!.n),
]
async function expectShut(bearer: string, status: number, but: readonly string[] = []): Promise<void> {
  const before = await standing()
  for (const [name, ask] of Object.entries(SERVICES))
    if (!but.includes(name)) expect([name, await ask(bearer)]).toEqual([name, status])
  expect(await standing()).toEqual(before)
}
const whole = () => at.token(...ALL)
const state = (body: { state: 'enabled' | 'suspended'; scoresWhileSuspended?: boolean }) =>
  at.academy.admin.client.call('setToolState', { params: { tool: 'bearing-book' }, body })

describe('no service opens to', () => {
  it('a token that somebody else signed under our key’s name', async () => {
    const token = await whole()
    const { privateKey } = await generateKeyPair('RS256')
    const header = decodeProtectedHeader(token)
    await expectShut(await new SignJWT(decodeJwt(token)).setProtectedHeader(header as never).sign(privateKey), 401)
  })

  it('a token whose claims were changed under its signature, or that is not signed at all', async () => {
    const [header, payload, signature] = (await whole()).split('.') as [string, string, string]
    const claims = JSON.parse(Buffer.from(payload, 'base64url').toString()) as Record<string, unknown>
    const other = Buffer.from(JSON.stringify({ ...claims, exp: Number(claims['exp']) + 60 })).toString('base64url')
    await expectShut(`${header}.${other}.${signature}`, 401)
    const none = Buffer.from(JSON.stringify({ alg: 'none', typ: 'JWT' })).toString('base64url')
    await expectShut(`${none}.${payload}.`, 401)
    await expectShut(`${none}.${payload}.${signature}`, 401)
    await expectShut(`${header}.${payload}.${signature.slice(0, -4)}`, 401)
  })

  it('an id_token of ours, though the same key signed it', async () => {
    const { fields } = await launch13(at.aino, column, at.client)
    await expectShut(fields['id_token']!, 401)
  })

  it('a token of ours that does not say that it is an access token', async () => {
    const token = await whole()
    expect(decodeProtectedHeader(token).typ).toBe('at+jwt')
    const { keyring } = at.academy.service.context
    expect(await SERVICES['line items']!(await keyring.sign(decodeJwt(token), 'at+jwt'))).toBe(200)
    await expectShut(await keyring.sign(decodeJwt(token)), 401)
  })

  it('a token that is over, though it was good a moment before', async () => {
    const token = await whole()
    expect(await SERVICES['line items']!(token)).toBe(200)
    at.academy.clock.offsetMs += 3_601_000
    await expectShut(token, 401)
    at.academy.clock.offsetMs -= 3_601_000
    expect(await SERVICES['line items']!(token)).toBe(200)
  })

  it('a suspended tool, with the token that it had before; its scores only where they are allowed', async () => {
    const token = await whole()
    await state({ state: 'suspended', scoresWhileSuspended: false })
    await expectShut(token, 403, ['outcome'])
    expect(await SERVICES['outcome']!(token)).toBeGreaterThanOrEqual(200)
    expect(await at.cell(column, 'aino')).toMatchObject({ points: '20' })
    await state({ state: 'suspended', scoresWhileSuspended: true })
    const open = ['score', 'line items', 'one line item', 'results', 'outcome']
    expect(await SERVICES['results']!(token)).toBe(200)
    await expectShut(token, 403, open)
    await state({ state: 'enabled' })
    expect(await SERVICES['roster']!(token)).toBe(200)
  })

  it('a tool from which the scope was taken back since', async () => {
    const token = await whole()
    const { revision } = await at.academy.admin.client.call('showTool', { params: { tool: 'bearing-book' } })
    const scopes = (kept: readonly string[], now: number) =>
      at.academy.admin.client.call('changeTool', {
        params: { tool: 'bearing-book' },
        body: { scopes: [...kept] as never, revision: now },
      })
    const changed = await scopes([SCOPES_13.results], revision)
    await expectShut(token, 403, ['results', 'outcome'])
    expect(await SERVICES['results']!(token)).toBe(200)
    expect(await SERVICES['outcome']!(token)).toBe(401)
    await scopes(ALL, changed.revision)
  })

  it('another tool that may use the same service, for a result identifier that is not its own', async () => {
    const other = await register13(at.academy, at.client, { name: 'Third Book', scopes: ALL, secondReason: 'another' })
    await at.academy.admin.client.call('createAssignment', {
      params: { course: 'HYD-210' },
      body: { title: 'Of the third', tool: other.slug, points: '10', category: 'Drills', publish: true },
    })
    const client_assertion = await at.client.assertion(other.clientId!)
    const token = (await at.client.token({ client_assertion, scope: ALL.join(' ') })).body['access_token']!
    const before = await standing()
    expect(await SERVICES['outcome']!(token)).toBe(401)
    expect(await SERVICES['score']!(token)).toBe(404)
    expect(await SERVICES['one line item']!(token)).toBe(404)
    expect(await standing()).toEqual(before)
  })

  it('a retired tool, and one that was deleted', async () => {
    const other = await register13(at.academy, at.client, {
      name: 'Second Book',
      scopes: ALL,
      secondReason: 'to be ended',
    })
    const token = async () => {
      const client_assertion = await at.client.assertion(other.clientId!)
      return (await at.client.token({ client_assertion, scope: ALL.join(' ') })).body['access_token']!
    }
    const had = await token()
    await at.academy.query(`update registration set state = 'retired' where id = $1`, [other.id])
    await expectShut(had, 401)
    await at.academy.query(`update registration set state = 'deleted' where id = $1`, [other.id])
    await expectShut(had, 401)
  })
})

describe('a service answers as the standards say', () => {
  const raw = (path: string, init: RequestInit) => fetch(`${at.service}/${path}`, init)

  it('whatever the scheme is called, in capitals or not', async () => {
    const token = await whole()
    for (const scheme of ['bearer', 'BEARER', 'Bearer'])
      expect((await raw('lineitems', { headers: { authorization: `${scheme} ${token}` } })).status).toBe(200)
  })

  it('with the challenge for a scope that is missing, and in ASCII', async () => {
    const response = await raw('memberships', {
      headers: { authorization: `Bearer ${await at.token(SCOPES_13.score)}` },
    })
    expect(response.status).toBe(403)
    expect(response.headers.get('www-authenticate')).toBe('Bearer error="insufficient_scope"')
    const { error_description } = (await response.json()) as { error_description: string }
    expect(error_description).toMatch(/^[\x20-\x21\x23-\x5b\x5d-\x7e]+$/)
    const refused = await at.client.token({ client_assertion: await at.client.assertion('“nobody”'), scope: 'x' })
    expect(refused.body['error_description']).toMatch(/^[\x20-\x21\x23-\x5b\x5d-\x7e]+$/)
  })

  it('tokens are kept by nobody on their way', async () => {
    const response = await fetch(`${at.academy.url}/lti/token`, {
      method: 'POST',
      body: new URLSearchParams({ grant_type: 'x' }),
    })
    expect([response.headers.get('cache-control'), response.headers.get('pragma')]).toEqual(['no-store', 'no-cache'])
  })

  it('in JSON also where the body is too large to be read, and the wire log knows of it', async () => {
    // The forged tokens above were strangers; of those a minute has only so many in the log.
    at.academy.clock.offsetMs += 120_000
    const response = await raw(`lineitems/${column}/scores`, {
      method: 'POST',
      headers: { authorization: `Bearer ${await whole()}`, 'content-type': 'application/vnd.ims.lis.v1.score+json' },
      body: JSON.stringify({ ...scoreBody(), comment: 'x'.repeat(200_000) }),
    })
    expect(response.status).toBe(413)
    expect(response.headers.get('content-type')).toContain('application/json')
    expect(await response.json()).toMatchObject({ error: 'request.too_large' })
    const [entry] = (await at.academy.admin.client.call('listWire', { query: { outcome: 'refused', limit: 1 } })).items
    expect(entry).toMatchObject({ code: 'request.too_large' })
  })

  it('takes two scores of one millisecond in their order, and none that a wrong clock put a century ahead', async () => {
    const fine = await at.make('Microseconds')
    const post = (timestamp: string, given: number) =>
      at.call('POST', `lineitems/${fine}/scores`, { ...scoreBody(), timestamp, scoreGiven: given })
    expect((await post('2026-11-02T10:00:00.000100Z', 1)).status).toBe(204)
    expect((await post('2026-11-02T10:00:00.000200Z', 2)).status).toBe(204)
    expect((await post('2026-11-02T10:00:00.000200Z', 3)).status).toBe(409)
    expect((await post('2026-11-02T10:00:00.000150Z', 4)).status).toBe(409)
    expect(await at.cell(fine, 'aino')).toMatchObject({ sent: '2' })
    expect((await post('2126-11-02T10:00:00Z', 5)).body).toMatchObject({ error: 'score_service.timestamp' })
    expect((await post('2026-11-02T10:00:00.000201Z', 6)).status).toBe(204)
  })

  it('cuts no character in half', async () => {
    const label = `${'x'.repeat(199)}😀 and more`
    const made = await at.call<{ label: string }>('POST', 'lineitems', { label, scoreMaximum: 5 })
    expect([made.status, made.body.label]).toEqual([201, 'x'.repeat(199)])
    const half = await at.academy.admin.send('/api/courses', {
      method: 'POST',
      headers: {
        'content-type': 'application/json',
        'x-csrf-token': await csrfOf(at.academy.admin),
      },
      body: '{"code":"HALF 1","title":"a\\ud800b"}',
    })
    expect(half.status).toBe(400)
  })

  it('refuses an assertion that is not good yet', async () => {
    const ahead = Math.floor(Date.now() / 1000) + 86_400
    const client_assertion = await at.client.assertion(at.clientId, { nbf: ahead })
    const refused = await at.client.token({ client_assertion, scope: SCOPES_13.score })
    expect(refused.status).toBe(401)
    expect(refused.body['error_description']).toContain('assertion.not_yet')
    const now = await at.client.assertion(at.clientId, { nbf: ahead - 86_400 })
    expect((await at.client.token({ client_assertion: now, scope: SCOPES_13.score })).status).toBe(200)
  })
})
