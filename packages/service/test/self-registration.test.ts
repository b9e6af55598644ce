import { createSextant, metadataOf } from '@bathyscribe/practice-tools'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { freePort } from '@bathyscribe/yard/machine/ports'
import { codeOf, startAcademy, type TestAcademy } from './harness.js'

const ROSTER = 'https://purl.imsglobal.org/spec/lti-nrps/scope/contextmembership.readonly'
const SCORE = 'https://purl.imsglobal.org/spec/lti-ags/scope/score'

let academy: TestAcademy
let sextant: string
const stops: (() => Promise<unknown>)[] = []
beforeAll(async () => {
  academy = await startAcademy()
  const port = await freePort()
  sextant = `http://127.0.0.1:${port}`
  const app = await createSextant({ publicUrl: sextant })
  await app.listen({ host: '127.0.0.1', port })
  stops.push(() => app.close())
})
afterAll(async () => {
  for (const stop of stops) await stop()
})

const practise = async (path: string, form: Record<string, string>) =>
  (await fetch(`${sextant}/practice/${path}`, { method: 'POST', body: new URLSearchParams(form) })).json() as Promise<{
    status: number
    body: Record<string, string>
  }>
const invite = (change = {}) =>
  academy.admin.client.call('inviteTool', {
    body: { address: `${sextant}/register`, secondReason: 'a test', ...change },
  })
const tokenIn = (openAt: string) => new URL(openAt).searchParams.get('registration_token')!
const register = (token: string, metadata: unknown = metadataOf(sextant)) =>
  fetch(`${academy.url}/lti/register`, {
    method: 'POST',
    headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
    body: JSON.stringify(metadata),
  })
const tools = async () => (await academy.query<{ n: number }>('select count(*)::int as n from registration'))[0]!.n

describe('a tool that registers itself', () => {
  it('is invited, registers, waits, asks for nothing that is not shown, and works once it is approved in part', async () => {
    const invitation = await invite({ open: true })
    expect(invitation.said).toContain('has to approve it')
    const waiting = await academy.admin.client.call('showTool', { params: { tool: invitation.tool!.id } })
    expect(waiting).toMatchObject({ state: 'waiting', version: '1.3', scopes: [], disclosure: 'opaque' })
    expect(waiting.asked!.scopes.map((one) => one.allows)).toContain('send scores')
    expect(waiting.placements.map((one) => one.place).sort()).toEqual(['assignment', 'unit_item'])
    expect((await practise('token', { scope: SCORE })).body['error_description']).toContain('token.client_disabled')
    expect((await academy.admin.client.call('showWatch', {})).approvals).toMatchObject([
      { tool: { slug: 'sextant-bench' }, what: 'registration' },
    ])

    const approve = (scopes: string[]) =>
      academy.admin.client.call('approveTool', {
        params: { tool: waiting.id },
        body: { revision: waiting.revision, scopes },
      })
    expect(await codeOf(approve([ROSTER]))).toBe('tool.not_asked_for')
    expect(await approve([SCORE])).toMatchObject({ state: 'enabled', scopes: [SCORE], features: ['scores', 'picker'] })
    expect(await codeOf(approve([SCORE]))).toBe('tool.not_waiting')
    expect(await practise('token', { scope: SCORE })).toMatchObject({ status: 200, body: { scope: SCORE } })
    expect((await academy.admin.client.call('showWatch', {})).approvals).toEqual([])
  })

  it('proposes a change later; it is compared, and nothing changes before it is accepted', async () => {
    const before = await academy.admin.client.call('showTool', { params: { tool: 'sextant-bench' } })
    expect((await practise('propose', { scope: ROSTER })).status).toBe(200)
    const proposed = await academy.admin.client.call('showTool', { params: { tool: 'sextant-bench' } })
    expect(proposed.scopes).toEqual(before.scopes)
    expect(proposed.proposal!.differences).toMatchObject([
      { what: 'scopes', proposed: expect.stringContaining('read the roster of a course') },
    ])
    const { revision } = proposed
    const params = { tool: 'sextant-bench' }
    expect(
      await codeOf(academy.admin.client.call('acceptProposal', { params, body: { revision: revision - 1 } })),
    ).toBe('record.changed_meanwhile')
    const accepted = await academy.admin.client.call('acceptProposal', {
      params,
      body: { revision, scopes: [SCORE, ROSTER] },
    })
    expect(accepted).toMatchObject({ proposal: null, features: ['scores', 'roster', 'picker'] })
    await practise('propose', { scope: '' })
    const again = await academy.admin.client.call('showTool', { params })
    const declined = await academy.admin.client.call('declineProposal', { params, body: { revision: again.revision } })
    expect(declined).toMatchObject({ proposal: null, scopes: [SCORE, ROSTER] })
    expect(
      await codeOf(academy.admin.client.call('declineProposal', { params, body: { revision: declined.revision } })),
    ).toBe('tool.no_proposal')
  })

  it('may be refused; it is out of sight then, and can be brought back to wait', async () => {
    const { tool } = await invite({ open: true })
    const waiting = await academy.admin.client.call('showTool', { params: { tool: tool!.id } })
    expect(waiting.lookAlikes.map((one) => one.slug)).toEqual(['sextant-bench'])
    const refused = await academy.admin.client.call('refuseTool', {
      params: { tool: tool!.id },
      body: { revision: waiting.revision, reason: 'twice' },
    })
    expect(refused.state).toBe('deleted')
    expect((await academy.admin.client.call('listTools', {})).items.map((one) => one.slug)).toEqual(['sextant-bench'])
    expect((await academy.admin.client.call('restoreTool', { params: { tool: tool!.id } })).state).toBe('waiting')
  })

  it('uses its token once, also when it sends two at once', async () => {
    const token = tokenIn((await invite()).openAt)
    const before = await tools()
    const answers = await Promise.all([register(token), register(token), register(token)])
    expect(answers.map((one) => one.status).sort()).toEqual([201, 401, 401])
    expect(await tools()).toBe(before + 1)
  })

  it('has an hour for it', async () => {
    const token = tokenIn((await invite()).openAt)
    academy.clock.offsetMs = 61 * 60_000
    const answer = await register(token)
    academy.clock.offsetMs = 0
    expect(answer.status).toBe(401)
    expect(await answer.json()).toMatchObject({ error: 'invalid_token' })
  })

  const good = metadataOf('https://tool.example')
  it.each<[string, unknown, string]>([
    ['no object', [1], 'invalid_client_metadata'],
    ['no redirect addresses', { ...good, redirect_uris: [] }, 'invalid_redirect_uri'],
    [
      'a redirect address with a fragment',
      { ...good, redirect_uris: ['https://tool.example/#x'] },
      'invalid_redirect_uri',
    ],
    ['wrong types', { ...good, client_name: 7, redirect_uris: 'x' }, 'invalid_client_metadata'],
    [
      'another way to authenticate',
      { ...good, token_endpoint_auth_method: 'client_secret_basic' },
      'invalid_client_metadata',
    ],
    ['no initiation address', { ...good, initiate_login_uri: undefined }, 'invalid_client_metadata'],
    ['no keys', { ...good, jwks_uri: undefined }, 'invalid_client_metadata'],
    ['an address of another scheme', { ...good, jwks_uri: 'javascript:alert(1)' }, 'invalid_client_metadata'],
    [
      'no tool configuration',
      { ...good, 'https://purl.imsglobal.org/spec/lti-tool-configuration': undefined },
      'invalid_client_metadata',
    ],
  ])('is told what is wrong with %s, keeps its token, and leaves nothing half made', async (_, metadata, error) => {
    const token = tokenIn((await invite()).openAt)
    const before = await tools()
    const answer = await register(token, metadata)
    expect(answer.status).toBe(400)
    expect(await answer.json()).toMatchObject({ error })
    expect(await tools()).toBe(before)
    expect((await register(token)).status).toBe(201)
  })

  it('that sends a name twice is told so, and a stranger is told nothing', async () => {
    const token = tokenIn((await invite()).openAt)
    const send = (bearer: string, body: string) =>
      fetch(`${academy.url}/lti/register`, {
        method: 'POST',
        headers: { authorization: `Bearer ${bearer}`, 'content-type': 'application/json' },
        body,
      })
    const twice = await send(token, '{"client_name":"a","client_name":"b"}')
    expect(twice.status).toBe(400)
    expect(await twice.text()).toContain('json.duplicate_name')
    const stranger = await send('guessed', '{"client_name":7}')
    expect(stranger.status).toBe(401)
    expect(await stranger.json()).toMatchObject({ error: 'invalid_token' })
    expect((await send(token, 'no json')).status).toBe(400)
  })

  it('and waits is no business of instructors, unless it is their own', async () => {
    const { tool } = await invite({ open: true })
    await academy.person('maren', { 'HYD-210': 'instructor' })
    const maren = await academy.signIn('maren')
    expect((await maren.client.call('listTools', {})).items.map((one) => one.id)).not.toContain(tool!.id)
    expect(await codeOf(maren.client.call('showTool', { params: { tool: tool!.id } }))).toBe('tool.not_found')
  })

  it('reads its registration by its own token, and nobody else’s', async () => {
    const made = (await (await register(tokenIn((await invite()).openAt))).json()) as Record<string, string>
    const read = (address: string, token: string) => fetch(address, { headers: { authorization: `Bearer ${token}` } })
    const own = await read(made['registration_client_uri']!, made['registration_access_token']!)
    expect(own.status).toBe(200)
    // It is told what it asked for, and gets a token for it once it is approved.
    expect(await own.json()).toMatchObject({ client_id: made['client_id'], scope: made['scope'] })
    expect(made['scope']).toContain('scope/score')
    expect((await read(made['registration_client_uri']!, 'guessed')).status).toBe(401)
    expect((await read(`${academy.url}/lti/register/another`, made['registration_access_token']!)).status).toBe(401)
  })

  it('is opened only at addresses that may be called', async () => {
    expect(await codeOf(invite({ address: 'http://10.0.0.7/register', open: true }))).toBe('outgoing.forbidden_address')
    expect(await codeOf(invite({ address: 'ftp://tool.example/register' }))).toBe('address.scheme')
  })

  it('may be let in by an instructor for the own course, to wait for the administrator', async () => {
    await academy.person('tomas', { 'HYD-210': 'instructor' })
    const tomas = await academy.signIn('tomas')
    expect(await codeOf(tomas.client.call('inviteTool', { body: { address: `${sextant}/register` } }))).toBe(
      'access.denied',
    )
    const { tool } = await tomas.client.call('inviteTool', {
      body: { address: `${sextant}/register`, course: 'HYD-210', open: true, secondReason: 'for my course' },
    })
    expect(await academy.admin.client.call('showTool', { params: { tool: tool!.id } })).toMatchObject({
      state: 'waiting',
      course: { code: 'HYD 210' },
    })
  })

  it('a second time only where somebody says why; its token stays good, and it is called as was said', async () => {
    const before = await tools()
    const { id, openAt, registeredAlready } = await invite({ secondReason: undefined, open: true })
    expect(registeredAlready).toBe(true)
    const shown = () => academy.admin.client.call('showInvitation', { params: { id } })
    expect(await shown()).toMatchObject({ tool: null, registeredAlready: true, sameAs: { slug: 'sextant-bench' } })
    const answer = await register(tokenIn(openAt))
    expect([answer.status, await answer.json()]).toMatchObject([400, { error: 'invalid_client_metadata' }])
    expect(await tools()).toBe(before)
    const last = await academy.admin.client.call('listWire', { query: { limit: 1 } })
    expect(last.items[0]).toMatchObject({ outcome: 'refused', code: 'tool.already_registered' })

    const second = await invite({ secondReason: 'a key of its own for summer', name: 'Sextant, summer', open: true })
    expect(second).toMatchObject({
      registeredAlready: false,
      sameAs: null,
      tool: { name: 'Sextant, summer', slug: 'sextant-summer' },
    })
    const [made] = await academy.query<{ after: { secondReason: string } }>(
      `select after from audit_entry where action = 'register tool' order by id desc limit 1`,
    )
    expect(made!.after.secondReason).toBe('a key of its own for summer')
    // An instructor is not told of a tool of another course.
    await academy.admin.client.call('createCourse', { body: { code: 'NAV 120', title: 'Coastal Navigation' } })
    await academy.person('nadia', { 'NAV-120': 'instructor' })
    await academy.query(
      `update registration set course_id = (select id from course where code = 'HYD 210') where version = '1.3'`,
    )
    const nadia = await academy.signIn('nadia')
    const theirs = await nadia.client.call('inviteTool', {
      body: { address: `${sextant}/register`, course: 'NAV-120', open: true },
    })
    expect(theirs).toMatchObject({ registeredAlready: true, sameAs: null })
    await academy.query(`update registration set course_id = null where version = '1.3'`)
  })

  it('finds our configuration complete', async () => {
    const document = (await (await fetch(`${academy.url}/.well-known/openid-configuration`)).json()) as Record<
      string,
      unknown
    >
    expect(document).toMatchObject({
      issuer: academy.url,
      authorization_endpoint: `${academy.url}/lti/authorize`,
      token_endpoint: `${academy.url}/lti/token`,
      jwks_uri: `${academy.url}/lti/keyset`,
      registration_endpoint: `${academy.url}/lti/register`,
      token_endpoint_auth_methods_supported: ['private_key_jwt'],
      token_endpoint_auth_signing_alg_values_supported: ['RS256'],
      id_token_signing_alg_values_supported: ['RS256'],
      response_types_supported: ['id_token'],
      subject_types_supported: ['public'],
    })
    expect(document['scopes_supported']).toContain(SCORE)
    expect(document['https://purl.imsglobal.org/spec/lti-platform-configuration']).toMatchObject({
      product_family_code: 'bathyscribe',
    })
  })
})
