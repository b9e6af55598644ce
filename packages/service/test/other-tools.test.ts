import { createHash, randomBytes } from 'node:crypto'
import { accessTokenClaims, checkAccessToken } from '@bathyscribe/core/lti13'
import { decodeJwt } from 'jose'
import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { expire } from '../src/records/expiry.js'
import { codeOf, openRecords } from './harness.js'
import { launch13, register13, startClient13, verified, type Client13 } from './harness-13.js'
import { SCOPES_13, startScoring, type Scoring } from './scoring-13.js'

const ALL = Object.values(SCOPES_13)
let at: Scoring
let ours: string
let elsewhere: string
/** A second tool, registered for the same courses, whose keys are its own. */
let other: { clientId: string; slug: string; client: Client13; column: string }

beforeAll(async () => {
  at = await startScoring({ scopes: ALL })
  const { admin } = at.academy
  ours = await at.make('Ours')
  expect(await at.score(ours, 'aino', 20)).toBe(204)
  await admin.client.call('createCourse', {
    body: { code: 'NAV 120', title: 'Coastal Navigation', categories: ['Drills'] },
  })
  const publish = async (course: string, tool: string, title: string) =>
    (
      await admin.client.call('createAssignment', {
        params: { course },
        body: { title, tool, points: '40', category: 'Drills', publish: true },
      })
    ).id
  elsewhere = await publish('NAV-120', 'bearing-book', 'In the other course')
  const client = await startClient13(at.academy)
  const { clientId, slug } = await register13(at.academy, client, { name: 'Tide Table', scopes: ALL })
  other = { clientId: clientId!, slug, client, column: await publish('HYD-210', slug, 'Of the other tool') }
})
const otherToken = async (...scopes: string[]) =>
  (
    await other.client.token({
      client_assertion: await other.client.assertion(other.clientId),
      scope: (scopes.length > 0 ? scopes : ALL).join(' '),
    })
  ).body['access_token']!

const VERBS: [string, string, (column: string) => unknown][] = [
  ['POST', '/scores', () => ({ userId: at.subjects['aino'], timestamp: new Date().toISOString(), activityProgress: 'Completed', gradingProgress: 'FullyGraded', scoreGiven: 1, scoreMaximum: 40 })],
  ['GET', '', () => undefined],
  ['GET', '/results', () => undefined],
  ['PUT', '', () => ({ label: 'Taken over', scoreMaximum: 1 })],
  ['DELETE', '', () => undefined],
] // oxfmt-ignore
const everything = () =>
  Promise.all(
    ['assignment', 'score', 'result'].map((table) => at.academy.query(`select md5(string_agg(t::text, ' ' order by t::text)) from ${table} t`)),
  ) // oxfmt-ignore

describe('a column is nobody’s but its own tool’s, in its own course:', () => {
  it.each(VERBS)('%s …%s of another tool', async (method, rest, body) => {
    const before = await everything()
    const bearer = await otherToken()
    expect((await at.call(method, `lineitems/${ours}${rest}`, body(ours), { bearer })).status).toBe(404)
    expect((await at.call(method, `lineitems/${other.column}${rest}`, body(ours))).status).toBe(404)
    expect(await everything()).toEqual(before)
  })

  it.each(VERBS)('%s …%s of another course, by the tool itself', async (method, rest, body) => {
    const before = await everything()
    expect((await at.call(method, `lineitems/${elsewhere}${rest}`, body(elsewhere))).status).toBe(404)
    expect(await everything()).toEqual(before)
  })

  it.each(VERBS)('%s …%s of one that was deleted', async (method, rest, body) => {
    const gone = await at.make(`Gone for ${method}${rest}`)
    expect(await at.score(gone, 'aino', 10)).toBe(204)
    await at.academy.admin.client.call('deleteAssignment', { params: { assignment: gone } })
    const before = await everything()
    expect((await at.call(method, `lineitems/${gone}${rest}`, body(gone))).status).toBe(404)
    expect(await everything()).toEqual(before)
  })

  it('nor is one tied to a link of another tool', async () => {
    const link = (await at.academy.query<{ resource_link_id: string }>(`select resource_link_id from assignment where id = $1`, [ours]))[0]!.resource_link_id // oxfmt-ignore
    const bearer = await otherToken()
    const tied = { label: 'Tied', scoreMaximum: 5, resourceLinkId: link }
    expect(await at.call('POST', 'lineitems', tied, { bearer })).toMatchObject({
      status: 400,
      body: { error: 'line_item.foreign_link' },
    })
    const { body } = await at.call<{ id: string }>('POST', 'lineitems', { label: 'Loose', scoreMaximum: 5 })
    expect(await at.call('PUT', body.id, { ...tied, label: 'Moved' })).toMatchObject({
      status: 400,
      body: { error: 'line_item.link_fixed' },
    })
  })
})

describe('a connection', () => {
  const verifier = randomBytes(32).toString('base64url')
  let course: string
  beforeAll(async () => {
    course = (await at.tomas.client.call('showCourse', { params: { course: 'HYD-210' } })).id
  })
  const consent = async (scopes: string[] = [SCOPES_13.roster, SCOPES_13.results]) => {
    const { redirectTo } = await at.tomas.client.call('connectTool', {
      body: {
        clientId: at.clientId,
        redirectUri: `${at.client.origin}/launch`,
        scope: scopes.join(' '),
        state: 's',
        codeChallenge: createHash('sha256').update(verifier).digest('base64url'),
        scopes,
        courses: [course],
      },
    })
    return new URL(redirectTo).searchParams.get('code')!
  }
  const asTool = async (who: { client: Client13; clientId: string }, form: Record<string, string>) =>
    who.client.token({ client_assertion: await assertionOf(who), ...form })
  const byCode = (code: string, who: { client: Client13; clientId: string } = at) =>
    asTool(who, {
      grant_type: 'authorization_code',
      code,
      redirect_uri: `${at.client.origin}/launch`,
      code_verifier: verifier,
    })
  const byRefresh = (token: string, who: { client: Client13; clientId: string } = at) =>
    asTool(who, { grant_type: 'refresh_token', refresh_token: token })
  const assertionOf = (who: { client: Client13; clientId: string }) => who.client.assertion(who.clientId)
  /** Ends the open connection by its token. */
  const revoke = async (client_assertion: string) => {
    const client_assertion_type = 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer'
    const body = new URLSearchParams({ client_assertion_type, client_assertion, token: open.refresh })
    return (await fetch(`${at.academy.url}/oauth/revoke`, { method: 'POST', body })).status
  }
  const roster = async (bearer: string) => (await at.call('GET', 'memberships', undefined, { bearer })).status
  const list = async (bearer: string) =>
    (await fetch(`${at.academy.url}/lti/courses`, { headers: { authorization: `Bearer ${bearer}` } })).status
  let open: { access: string; refresh: string; id: string }
  beforeEach(async () => {
    const { body } = await byCode(await consent())
    const id = String(decodeJwt(body['access_token']!)['connection'])
    open = { access: body['access_token']!, refresh: body['refresh_token']!, id }
    expect([await roster(open.access), await list(open.access)]).toEqual([200, 200])
  })
  const enrol = (body: Record<string, string>) =>
    at.academy.admin.client.call('changeEnrolment', { params: { course: 'HYD-210', person: 'tomas' }, body })

  it('gives nothing to another tool that brings its code or its token, and goes on for its own', async () => {
    const code = await consent()
    expect(await byCode(code, other)).toMatchObject({ status: 400, body: { error: 'invalid_grant' } })
    expect(await byRefresh(open.refresh, other)).toMatchObject({ status: 400, body: { error: 'invalid_grant' } })
    expect((await byCode(code)).status).toBe(200)
    expect((await byRefresh(open.refresh)).status).toBe(200)
    expect(await roster(open.access)).toBe(200)
  })

  it('is not ended by another tool', async () => {
    // Whether it was found is told to nobody (RFC 7009 section 2.2).
    expect(await revoke(await assertionOf(other))).toBe(200)
    expect(await roster(open.access)).toBe(200)
    expect(await revoke(await assertionOf(at))).toBe(200)
    expect([await roster(open.access), await list(open.access)]).toEqual([404, 401])
  })

  it('an assertion that ended one is used up, too', async () => {
    const client_assertion = await assertionOf(at)
    expect(await revoke(client_assertion)).toBe(200)
    expect(await revoke(client_assertion)).toBe(401)
    expect((await at.client.token({ client_assertion, scope: SCOPES_13.roster })).status).toBe(401)
  })

  it('keeps no scope that was taken from its tool, neither in its tokens nor for new ones', async () => {
    const before = (await at.academy.query<{ scopes: string[] }>(`select scopes from registration where client_id = $1`, [at.clientId]))[0]!.scopes // oxfmt-ignore
    const scopes = (kept: string[]) =>
      at.academy.query(`update registration set scopes = $2 where client_id = $1`, [at.clientId, kept])
    await scopes(before.filter((one) => one !== SCOPES_13.roster))
    expect(await roster(open.access)).toBe(403)
    const again = await byRefresh(open.refresh)
    expect(again).toMatchObject({ status: 200, body: { scope: SCOPES_13.results } })
    await scopes(before)
    // Nor one that its person has taken from it.
    expect(await roster(open.access)).toBe(200)
    await at.academy.query(`update connection set scopes = $2 where id = $1`, [open.id, [SCOPES_13.results]])
    expect(await roster(open.access)).toBe(403)
  })

  it('opens nothing to a token that another tool holds, though it names it', async () => {
    const { keyring, settings } = at.academy.service.context
    const claims = (clientId: string) =>
      accessTokenClaims({ issuer: settings.publicUrl, clientId, scopes: ALL, nowSeconds: Math.floor(Date.now() / 1000), lifetimeSeconds: 60, id: 'x', connection: open.id }) // oxfmt-ignore
    expect(checkAccessToken(claims(other.clientId), { issuer: settings.publicUrl, nowSeconds: 0 })).toBeDefined()
    const [mine, theirs] = [
      await keyring.sign(claims(at.clientId), 'at+jwt'),
      await keyring.sign(claims(other.clientId), 'at+jwt'),
    ]
    expect([await roster(mine), await list(mine)]).toEqual([200, 200])
    expect([await roster(theirs), await list(theirs)]).toEqual([404, 401])
  })

  it('ends with its person’s account, and rests while the person does not instruct', async () => {
    await enrol({ role: 'teaching_assistant' })
    expect(await roster(open.access)).toBe(404)
    await enrol({ role: 'instructor', state: 'dropped' })
    expect(await roster(open.access)).toBe(404)
    await enrol({ state: 'active' })
    expect(await roster(open.access)).toBe(200)
    await at.academy.query(`update person set closed_at = now() where username = 'tomas'`)
    expect(await roster(open.access)).toBe(404)
    await at.academy.query(`update person set closed_at = null where username = 'tomas'`)
    expect(await roster(open.access)).toBe(200)
  })

  it('lists no courses to a tool that is retired, suspended or deleted', async () => {
    const state = (now: string) =>
      at.academy.query(`update registration set state = $2 where client_id = $1`, [at.clientId, now])
    for (const [now, status] of [
      ['retired', 401],
      ['deleted', 401],
      ['suspended', 403],
    ] as const) {
      // oxfmt-ignore
      await state(now)
      expect([now, await list(open.access)]).toEqual([now, status])
    }
    await state('enabled')
    expect(await list(open.access)).toBe(200)
  })
})

describe('a key that has ended', () => {
  it('takes the tokens with it that it signed, and is published no more', async () => {
    const { context } = at.academy.service
    const token = await at.token(...ALL)
    const read = async () => (await at.call('GET', 'lineitems', undefined, { bearer: token })).status
    const kids = async () =>
      ((await (await fetch(`${at.academy.url}/lti/keyset`)).json()) as { keys: { kid: string }[] }).keys.map(
        (one) => one.kid,
      )
    const [signer] = (await context.keyring.list()).filter((one) => one.state === 'current')
    await at.academy.admin.client.call('rotatePlatformKeys', { body: { reason: 'test' } })
    expect(await read()).toBe(200)
    expect(await kids()).toContain(signer!.kid)
    await at.academy.query(`update platform_key set ends_at = now() - interval '1 second' where kid = $1`, [
      signer!.kid,
    ])
    await context.keyring.list()
    expect(await read()).toBe(401)
    expect(await kids()).not.toContain(signer!.kid)
  })
})

describe('keys that were stolen', () => {
  it('are ended at once with every token, the next one, too; launches go on by new ones', async () => {
    const { context } = at.academy.service
    const token = await at.token(...ALL)
    const read = async (bearer: string) => (await at.call('GET', 'lineitems', undefined, { bearer })).status
    expect(await read(token)).toBe(200)
    const before = (await context.keyring.list()).map((one) => one.kid)
    expect(await codeOf(at.tomas.client.call('endPlatformKeys', { body: {} }))).toBe('access.denied')
    // Two at once: each ends what the other made, and two keys are left.
    const [answer] = await Promise.all([
      at.academy.admin.client.call('endPlatformKeys', { body: { reason: 'a backup was lost' } }),
      at.academy.admin.client.call('endPlatformKeys', { body: {} }),
    ])
    expect(answer.keys.map((one) => one.state).sort()).toEqual(['current', 'next'])
    const after = await context.keyring.list()
    expect(after).toHaveLength(2)
    expect(after.filter((one) => before.includes(one.kid))).toEqual([])
    expect(await read(token)).toBe(401)
    expect(await read(await at.token(...ALL))).toBe(200)
    const { fields } = await launch13(at.aino, ours, at.client)
    expect((await verified(at.academy, fields['id_token']!, at.clientId)).iss).toBe(at.academy.url)
    const [entry] = await at.academy.query(`select action, after from audit_entry where action = 'end platform keys' and after->>'reason' <> ''`) // oxfmt-ignore
    expect(entry).toEqual({ action: 'end platform keys', after: { reason: 'a backup was lost' } })
  })
})

describe('what may be used once stays used as long as it is good, whatever is cleared away:', () => {
  it('an assertion', async () => {
    const database = await openRecords(at.academy)
    const now = Math.floor(Date.now() / 1000)
    const client_assertion = await at.client.assertion(at.clientId, { iat: now, exp: now + 600 })
    const use = () => at.client.token({ client_assertion, scope: SCOPES_13.score })
    expect((await use()).status).toBe(200)
    const offset = at.academy.clock.offsetMs
    // The last moment at which it is still good: its end, and the leeway of clocks.
    at.academy.clock.offsetMs = offset + 655_000
    await expire(database, 'nonce', at.academy.clock.now())
    const again = await use()
    expect([again.status, again.body['error_description']]).toEqual([401, expect.stringContaining('token.assertion_used')]) // oxfmt-ignore
    at.academy.clock.offsetMs = offset
  })

  it('an id_token gives an instructor no result identifier', async () => {
    const { fields } = await launch13(at.tomas, ours, at.client)
    const service = decodeJwt(fields['id_token']!)['https://purl.imsglobal.org/spec/lti-bo/claim/basicoutcome']
    expect(service).toEqual({ lis_outcome_service_url: `${at.academy.url}/lti/outcomes` })
  })

  it('and an id_token names no service whose scope the tool does not have', async () => {
    const { fields } = await launch13(at.aino, ours, at.client)
    const names = (token: string) => Object.keys(decodeJwt(token)).filter((one) => /claim\/(endpoint|namesroleservice|basicoutcome)$/.test(one)) // oxfmt-ignore
    expect(names(fields['id_token']!)).toHaveLength(3)
    await at.academy.query(`update registration set scopes = '{}' where client_id = $1`, [at.clientId])
    const bare = await launch13(at.aino, ours, at.client)
    expect(names(bare.fields['id_token']!)).toEqual([])
    await at.academy.query(`update registration set scopes = $2 where client_id = $1`, [at.clientId, ALL])
  })
})
