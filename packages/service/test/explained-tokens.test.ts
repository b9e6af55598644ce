import { newKey, pickingToken } from '@bathyscribe/practice-tools'
import { exportJWK } from 'jose'
import { execFile } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { promisify } from 'node:util'
import { beforeAll, describe, expect, it } from 'vitest'
import { KEY, registerKnotwork, SECRET, startAcademy, type TestAcademy, type Visitor } from './harness.js'
import { register13, startClient13, type Client13 } from './harness-13.js'
import { answerTo, LINK, type AnswerChange } from './picking-11.js'

let academy: TestAcademy
let tomas: Visitor
let client: Client13
let other: Client13
let clientId: string
let otherId: string

beforeAll(async () => {
  academy = await startAcademy()
  client = await startClient13(academy)
  other = await startClient13(academy)
  const picks = { features: ['picker'], pickerUrl: `${client.origin}/shelf` }
  clientId = (await register13(academy, client, picks)).clientId!
  otherId = (await register13(academy, other, { name: 'Tide Table' })).clientId!
  await registerKnotwork(academy, { features: ['picker'], pickerUrl: `${academy.knotwork}/picker` })
  const plot = { name: 'Plotting Table', consumerKey: 'plot-table-2', sharedSecret: 'parallel-rules' }
  await registerKnotwork(academy, { ...plot, launchUrl: 'http://127.0.0.1:9/plot' })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  tomas = await academy.signIn('tomas')
})

const modulus = () => Buffer.concat([Buffer.from([0xc1]), randomBytes(255)]).toString('base64url')
const asks = async (assertion: string) => client.token({ client_assertion: assertion, scope: 'x' })
/** The newest entry of a kind, as an administrator sees it. */
async function newest(kind: 'token' | 'picker') {
  const { items } = await academy.admin.client.call('listWire', { query: { kind, limit: 1 } })
  return academy.admin.client.call('showWireEntry', { params: { entry: items[0]!.id } })
}
async function whyOf(assertion: string) {
  const { status, body } = await asks(assertion)
  expect([status, body['error']]).toEqual([401, 'invalid_client'])
  const { explained } = await newest('token')
  return { codes: explained?.causes.map((one) => one.code), explained }
}

describe('a refused request for a token', () => {
  it('by a key that was published before says until when', async () => {
    expect((await asks(await client.assertion(clientId))).status).toBe(400)
    const before = await client.assertion(clientId)
    await client.rotate()
    academy.clock.offsetMs = 20_000
    // The tool publishes its new key only: it is read with the first message by it.
    await asks(await client.assertion(clientId))
    const { codes, explained } = await whyOf(before)
    academy.clock.offsetMs = 0
    expect(codes).toEqual(['key_withdrawn'])
    expect(explained).toMatchObject({ certainty: 'proven' })
    expect(JSON.stringify(explained!.causes[0]!.evidence)).toMatch(/last seen published/)
  })

  it('by the key of another registration names that one', async () => {
    await other.token({ client_assertion: await other.assertion(otherId), scope: 'x' })
    const { explained, codes } = await whyOf(await other.assertion(clientId))
    expect(codes).toEqual(['key_of_another'])
    expect(explained!.sentence).toBe('The token is signed by a key of Tide Table, and not of Bearing Book.')
  })

  it.each<[string, Parameters<Client13['assertion']>[1], string]>([
    ['an address with a slash at the end', { aud: 'slash' }, 'audience'],
    ['times in milliseconds', { iat: Date.now(), exp: Date.now() + 60_000 }, 'milliseconds'],
    ['a day to live', { exp: Math.floor(Date.now() / 1000) + 86_000 }, 'good_for_too_long'],
    ['the issuer of another registration', { iss: 'tide' }, 'subject'],
    ['nobody’s identifier', { iss: 'nobody-at-all', sub: 'nobody-at-all' }, 'client_unknown'],
  ])('with %s says so', async (_, change, code) => {
    const aud = change!.aud === 'slash' ? { aud: `${academy.url}/lti/token/` } : {}
    const iss = change!.iss === 'tide' ? { iss: otherId } : {}
    expect((await whyOf(await client.assertion(clientId, { ...change, ...aud, ...iss }))).codes).toEqual([code])
  })

  it('has a letter whose commands, run as they stand there, show what it says', async () => {
    const assertion = await client.assertion(clientId, { aud: `${academy.url}/lti/token/`, exp: 1_700_000_000 })
    const { explained } = await whyOf(assertion)
    const { en, de } = explained!.letters
    const commands = (letter: string) => letter.split('\n').filter((line) => /^ {2}(curl|printf) /.test(line))
    expect(commands(de)).toEqual(commands(en))
    const run = promisify(execFile)
    const said = await Promise.all(commands(en).map(async (command) => (await run('sh', ['-c', command], { env: { PATH: process.env['PATH'], TOKEN: assertion } })).stdout)) // oxfmt-ignore
    const [claims, addresses, clock] = said as [string, string, string]
    expect(JSON.parse(claims)).toMatchObject({ aud: `${academy.url}/lti/token/` })
    expect(JSON.parse(addresses)).toMatchObject({ issuer: academy.url, token_endpoint: `${academy.url}/lti/token` })
    expect(clock).toMatch(/^date: .* GMT\r?\n.*UTC/i)
    expect(de).toContain('eine Anfrage nach einem Zugriffstoken wurde abgewiesen')
  })

  it('that is no token at all is refused all the same, and explained by nothing', async () => {
    for (const assertion of ['x', 'eyJ.eyJ.', `${'a'.repeat(9000)}.${'b'.repeat(9000)}.c`]) {
      const { status } = await asks(assertion)
      expect(status).toBe(401)
      expect((await newest('token')).explained).toBeNull()
    }
  })

  it('that was refused for what it asks, or was taken, is not explained', async () => {
    expect((await asks(await client.assertion(clientId))).status).toBe(400)
    expect((await newest('token')).explained).toBeNull()
  })
})

describe('keys that a tool publishes', () => {
  it('are remembered by the newest twenty, whatever it publishes', async () => {
    const registration = (await academy.admin.client.call('showTool', { params: { tool: 'bearing-book' } })).id
    for (let round = 0; round < 3; round++) {
      const publics = Array.from({ length: 9 }, (_, n) => ({ kty: 'RSA', n: modulus(), e: 'AQAB', kid: `k${round}-${n}` }))
      client.answerKeyset(() => ({ body: JSON.stringify({ keys: publics }) }))
      academy.clock.offsetMs += 60_000
      await asks(await client.assertion(clientId, {}, { kid: `unknown-${round}` }))
    }
    client.answerKeyset(undefined)
    academy.clock.offsetMs = 0
    const rows = await academy.query<{ kid: string }>(
      `select key->>'kid' as kid from published_key where registration_id = $1 order by last_at desc`,
      [registration],
    )
    expect(rows).toHaveLength(20)
    expect(rows.slice(0, 9).every(({ kid }) => kid.startsWith('k2-'))).toBe(true)
  }) // oxfmt-ignore

  it('of this platform are remembered when they are ended', async () => {
    const count = async () =>
      (await academy.query<{ n: number }>(`select count(*)::int as n from published_key where registration_id is null`))[0]!.n // oxfmt-ignore
    const before = await count()
    await academy.admin.client.call('endPlatformKeys', { body: { reason: 'a test' } })
    expect(await count()).toBeGreaterThan(before)
  })
})

describe('a refused answer of a picker', () => {
  const course = { course: 'HYD-210' }
  const begin = (tool: string) => tomas.client.call('openPicker', { params: course, body: { tool } })

  it('by LTI 1.3 that another tool signed says which, and whom was asked', async () => {
    const { id } = await begin('bearing-book')
    const key = await newKey()
    const { kty, n, e } = await exportJWK(key.key)
    other.answerKeyset(() => ({ body: JSON.stringify({ keys: [{ kty, n, e, kid: key.kid }] }) }))
    academy.clock.offsetMs = 60_000
    await other.token({ client_assertion: await other.assertion(otherId, {}, { kid: 'again' }), scope: 'x' })
    const at = { issuer: academy.url, clientId: otherId, deploymentId: 'x', authorizationUrl: '', tokenUrl: '', keysetUrl: '' } // oxfmt-ignore
    const token = await pickingToken(at, key, { data: 'd' }, [], { does: () => false })
    const form = new URLSearchParams({ JWT: token })
    expect((await fetch(`${academy.url}/lti/picked/${id}`, { method: 'POST', body: form })).status).toBe(400)
    academy.clock.offsetMs = 0
    const { explained } = await newest('picker')
    expect(explained!.causes.map((one) => one.code)).toEqual(expect.arrayContaining(['other_registration', 'key_of_another'])) // oxfmt-ignore
    expect(JSON.stringify(explained)).toContain('The token is one of Tide Table, and Bearing Book was asked.')
  })

  it.each<[string, AnswerChange, string]>([
    ['another’s key', { key: 'plot-table-2' }, 'key_of_another'],
    ['a key in capitals', { key: KEY.toUpperCase() }, 'key_nearly'],
    ['a blank behind the secret', { secret: `${SECRET} ` }, 'secret_has_blanks'],
    ['something that was changed on the way', { drop: 'data' }, 'changed'],
  ])('by LTI 1.1 with %s says so', async (_, change, code) => {
    const { id } = await begin('knotwork-drills')
    const at = { to: undefined, otherwise: `${academy.url}/lti/picked/${id}` }
    const { status } = await answerTo(tomas, id, [LINK], change, at)
    expect(status).toBeGreaterThanOrEqual(400)
    const { explained } = await newest('picker')
    if (code === 'changed') expect(explained).toMatchObject({ certainty: 'none' })
    else expect(explained).toMatchObject({ certainty: 'proven', causes: [{ code }] })
  })
})
