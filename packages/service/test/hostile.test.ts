import { once } from 'node:events'
import { connect } from 'node:net'
import { startService } from '@bathyscribe/service'
import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { freePort } from '@bathyscribe/yard/machine/ports'
import {
  codeOf,
  openForm,
  publishDrill,
  registerKnotwork,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'
import { authorize13, launch13, register13, SCORE, startClient13, verified, type Client13 } from './harness-13.js'

let academy: TestAcademy
let client: Client13
let clientId: string
let link: string
let learner: Visitor
const course = { course: 'HYD-210' }

beforeAll(async () => {
  academy = await startAcademy()
  client = await startClient13(academy)
  const tool = await register13(academy, client)
  clientId = tool.clientId!
  link = (await publishDrill(academy, tool.slug, { title: 'Noon altitude' })).id
  await registerKnotwork(academy)
  await academy.person('niamh', { 'HYD-210': 'learner' })
  learner = await academy.signIn('niamh')
})

const text = fc.oneof(
  fc.string({ unit: 'binary', maxLength: 60 }),
  fc.constantFrom('', 'openid', 'id_token', '\u0000', '%', '../..', '{}', 'a'.repeat(5000)),
)

describe('whatever is sent', () => {
  it('to the authorisation address is answered in words, never by a fault of ours', async () => {
    const { fields } = await openForm(learner, link)
    const names = [
      'scope',
      'response_type',
      'response_mode',
      'prompt',
      'client_id',
      'redirect_uri',
      'login_hint',
      'lti_message_hint',
      'state',
      'nonce',
      'odd',
    ]
    await fc.assert(
      fc.asyncProperty(fc.dictionary(fc.constantFrom(...names), text), fc.boolean(), async (given, known) => {
        const asked = new URLSearchParams({
          ...(known && {
            client_id: clientId,
            redirect_uri: `${client.origin}/launch`,
            lti_message_hint: fields['lti_message_hint']!,
          }),
          ...given,
        })
        const response = await learner.send('/lti/authorize', { method: 'POST', body: asked })
        expect([200, 400]).toContain(response.status)
        expect(await response.text()).not.toContain('name="id_token"')
      }),
      { numRuns: 80 },
    )
  })

  it('to the token address is answered in the words of RFC 6749', async () => {
    const good = await client.assertion(clientId)
    const names = ['grant_type', 'client_assertion_type', 'client_assertion', 'scope', 'odd']
    await fc.assert(
      fc.asyncProperty(fc.dictionary(fc.constantFrom(...names), text), fc.nat(400), async (given, cut) => {
        const { status, body } = await client.token({
          client_assertion: `${good.slice(0, cut)}${good[cut] === 'x' ? 'y' : 'x'}${good.slice(cut + 1)}`,
          scope: SCORE,
          ...given,
        })
        expect([400, 401]).toContain(status)
        expect(body['error']).toMatch(/^(invalid_request|invalid_client|unsupported_grant_type|invalid_scope)$/)
      }),
      { numRuns: 80 },
    )
  })

  it('to the registration address makes no registration and no fault of ours', async () => {
    const { openAt } = await academy.admin.client.call('inviteTool', { body: { address: `${client.origin}/register` } })
    const token = new URL(openAt).searchParams.get('registration_token')!
    const count = async () => (await academy.query<{ n: number }>('select count(*)::int as n from registration'))[0]!.n
    const before = await count()
    await fc.assert(
      fc.asyncProperty(fc.oneof(fc.json(), fc.string()), async (body) => {
        const response = await fetch(`${academy.url}/lti/register`, {
          method: 'POST',
          headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
          body,
        })
        expect([400, 415]).toContain(response.status)
      }),
      { numRuns: 80 },
    )
    expect(await count()).toBe(before)
  })

  it('as a name in an address is not found, or refused', async () => {
    for (const path of [
      '/api/tools/%00',
      '/api/courses/%00',
      '/api/courses/HYD-210/menu/%00',
      '/api/tools/invitations/%00',
      '/lti/stage/%00',
      '/lti/launch/%00',
      '/lti/return/%00',
    ])
      expect([400, 404], path).toContain((await academy.admin.send(path)).status)
  })

  it('into the intake is read or refused, never a fault of ours', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(text, { minLength: 1, maxLength: 6 }), async (pieces) => {
        const code = await codeOf(
          academy.admin.client.call('readIntake', { body: { text: `Key: ${pieces.join('\n')}`, follow: false } }),
        )
        expect([undefined, 'request.invalid']).toContain(code)
      }),
      { numRuns: 60 },
    )
  })
})

describe('two at once', () => {
  it('turning the platform’s keys over, exactly one is current and one is next, and launches go on', async () => {
    await launch13(learner, link, client)
    const rotate = () => codeOf(academy.admin.client.call('rotatePlatformKeys', { body: {} }))
    const launches = Promise.all([1, 2, 3, 4].map(() => launch13(learner, link, client)))
    const codes = await Promise.all([rotate(), rotate(), rotate()])
    expect(codes).toContain(undefined)
    for (const code of codes) expect([undefined, 'record.changed_meanwhile']).toContain(code)
    const rows = await academy.query<{ state: string; n: number }>(
      'select state, count(*)::int as n from platform_key group by 1',
    )
    expect(rows.filter((one) => one.state !== 'previous')).toEqual(
      expect.arrayContaining([
        { state: 'current', n: 1 },
        { state: 'next', n: 1 },
      ]),
    )
    for (const { fields } of await launches) await verified(academy, fields['id_token']!, clientId)
  })

  it('adding the same tool to a course, it is there once; adding entries, each has its own place', async () => {
    const add = () =>
      academy.admin.client.call('addCourseTool', { params: course, body: { tool: 'knotwork-drills', menu: false } })
    await Promise.all([add(), add(), add()])
    const { items } = await academy.admin.client.call('searchCatalogue', {
      params: course,
      query: { search: 'knotwork' },
    })
    expect(items.map((one) => one.added)).toEqual([true])
    const entry = (label: string) =>
      academy.admin.client.call('addMenuEntry', { params: course, body: { tool: 'knotwork-drills', label } })
    await Promise.all(['a', 'b', 'c', 'd', 'e'].map(entry))
    const positions = await academy.query<{ position: number }>('select position from menu_entry order by 1')
    expect(new Set(positions.map((one) => one.position)).size).toBe(5)
  })

  it('ordering the menu while an entry goes away, nothing is lost', async () => {
    const { items } = await academy.admin.client.call('listMenu', { params: course })
    const ids = items.map((one) => one.id)
    const [removed, ordered] = await Promise.all([
      codeOf(academy.admin.client.call('removeMenuEntry', { params: { ...course, menuEntry: ids[0]! } })),
      codeOf(academy.admin.client.call('orderMenu', { params: course, body: { entries: [...ids].reverse() } })),
    ])
    expect(removed).toBeUndefined()
    expect([undefined, 'menu.order']).toContain(ordered)
    expect((await academy.admin.client.call('listMenu', { params: course })).items.length).toBe(ids.length - 1)
  })

  it('registering tools of one name, each gets a short name of its own or is told to choose another', async () => {
    const register = () => codeOf(registerKnotwork(academy, { name: 'Same name', secondReason: 'race' }))
    const codes = await Promise.all([register(), register(), register()])
    for (const code of codes) expect([undefined, 'tool.name_taken']).toContain(code)
    const rows = await academy.query<{ slug: string }>(`select slug from registration where name = 'Same name'`)
    expect(rows.length).toBe(codes.filter((code) => code === undefined).length)
  })

  it('rotating one secret, the later one is told, and the tool is never without one', async () => {
    const rotate = () =>
      codeOf(academy.admin.client.call('rotateSecret', { params: { tool: 'knotwork-drills' }, body: {} }))
    const codes = await Promise.all([rotate(), rotate()])
    expect(codes.some((code) => code === undefined)).toBe(true)
    for (const code of codes) expect([undefined, 'record.changed_meanwhile']).toContain(code)
    const { secrets } = await academy.admin.client.call('listToolKeys', { params: { tool: 'knotwork-drills' } })
    expect(secrets.filter((one) => one.role === 'current').length).toBe(1)
    expect(secrets.filter((one) => one.role === 'previous').length).toBe(
      codes.filter((code) => code === undefined).length,
    )
  })
})

describe('a second process on the same records', () => {
  it('finishes a login that the first one began, signs with the same keys, and hears of what the first one changes', async () => {
    const port = await freePort()
    const second = await startService({ ...academy.service.context.settings, port } as never)
    try {
      const { fields } = await openForm(learner, link)
      const at = `http://localhost:${port}`
      const response = await learner.send(
        `${at}/lti/authorize?${new URLSearchParams({
          scope: 'openid',
          response_type: 'id_token',
          response_mode: 'form_post',
          prompt: 'none',
          client_id: clientId,
          redirect_uri: `${client.origin}/launch`,
          login_hint: fields['login_hint']!,
          lti_message_hint: fields['lti_message_hint']!,
          nonce: 'n',
          state: 's',
        }).toString()}`,
      )
      const token = /name="id_token" value="([^"]+)"/.exec(await response.text())![1]!
      await verified(academy, token, clientId)
      // What one process used up, the other one does not take again.
      expect((await authorize13(learner, fields, client)).fields['error_description']).toContain('login.hint_used')
      const keysOf = async (url: string) =>
        ((await (await fetch(`${url}/lti/keyset`)).json()) as { keys: { kid: string }[] }).keys.map((key) => key.kid)
      expect(new Set(await keysOf(at))).toEqual(new Set(await keysOf(academy.url)))
      const assertion = await client.assertion(clientId)
      const ask = (url: string) =>
        fetch(`${url}/lti/token`, {
          method: 'POST',
          body: new URLSearchParams({
            grant_type: 'client_credentials',
            client_assertion_type: 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer',
            client_assertion: assertion,
            scope: SCORE,
          }),
        })
      expect([(await ask(at)).status, (await ask(academy.url)).status]).toEqual([200, 401])
    } finally {
      await second.stop()
    }
  })
})

describe('what never becomes a request', () => {
  it.each([
    [
      'has a head without measure',
      `GET /?${'a'.repeat(20_000)} HTTP/1.1\r\nhost: localhost\r\n\r\n`,
      431,
      'request.head_too_large',
    ],
    ['begins as TLS does', '\u0016\u0003\u0001\u0002\u0000\u0001\u0000', 400, 'request.malformed'],
    [
      'has two lengths',
      'POST /api/session HTTP/1.1\r\nhost: localhost\r\ncontent-length: 1\r\ncontent-length: 2\r\n\r\n{}',
      400,
      'request.malformed',
    ],
  ])('because it %s is refused by a code, and its connection is closed', async (_, sent, status, code) => {
    const { hostname, port } = new URL(academy.url)
    const socket = connect({ host: hostname, port: Number(port) })
    let said = ''
    socket.setEncoding('utf8').on('data', (text: string) => (said += text))
    socket.on('error', () => undefined)
    socket.write(sent)
    await once(socket, 'close')
    const [head, body] = said.split('\r\n\r\n')
    expect(head).toMatch(new RegExp(`^HTTP/1\\.1 ${status} .*\r\ncontent-type: application/problem\\+json`))
    expect(JSON.parse(body!)).toMatchObject({ status, code, hint: expect.stringMatching(/\.$/) })
  })
})

describe('a request whose head does not come to its end', () => {
  it('is ended within seconds, however steadily it comes; others are answered meanwhile', async () => {
    const { hostname, port } = new URL(academy.url)
    const started = Date.now()
    const sockets = await Promise.all(
      Array.from({ length: 50 }, async () => {
        const socket = connect({ host: hostname, port: Number(port) })
        let said = ''
        socket.setEncoding('utf8').on('data', (text: string) => (said += text))
        socket.on('error', () => undefined)
        await once(socket, 'connect')
        socket.write('GET /healthz HTTP/1.1\r\nhost: localhost\r\nx-slow: ')
        const drip = setInterval(() => socket.write('x'), 500)
        const ended = once(socket, 'close').then(() => {
          clearInterval(drip)
          return said
        })
        return { ended }
      }),
    )
    expect((await fetch(`${academy.url}/healthz`)).status).toBe(200)
    for (const { ended } of sockets) expect(await ended).toMatch(/^HTTP\/1\.1 408 [^]*"code":"request.too_slow"/)
    // Not at once either: a slow line is no attack. Left to itself the server would take from thirty seconds to a minute.
    const took = Date.now() - started
    expect(took).toBeGreaterThan(8000)
    expect(took).toBeLessThan(29_000)
  })
})
