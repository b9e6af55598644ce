import { createServer, type IncomingMessage, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { gzipSync } from 'node:zlib'
import type { ServiceRefusal } from '@bathyscribe/contract'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { codeOf, KEY, registerKnotwork, SECRET, startAcademy, type TestAcademy } from './harness.js'

let academy: TestAcademy
let vendor: string
let answer: (request: IncomingMessage, response: ServerResponse) => void
let asked: string[] = []
const server = createServer((request, response) => {
  asked.push(request.url ?? '')
  answer(request, response)
})

beforeAll(async () => {
  academy = await startAcademy({ courseTools: 'allowed', outgoingTimeoutMs: 4000 })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  vendor = `http://127.0.0.1:${(server.address() as AddressInfo).port}`
})
afterAll(() => server.close())
beforeEach(() => (asked = []))

const read = (text: string) => academy.admin.client.call('readIntake', { body: { text } })
const serve = (body: string | Buffer, headers: Record<string, string> = {}, status = 200) => {
  answer = (_, response) => response.writeHead(status, headers).end(body)
}
const XML = `<?xml version="1.0"?><cartridge_basiclti_link xmlns="http://www.imsglobal.org/xsd/imslticc_v1p0" xmlns:b="http://www.imsglobal.org/xsd/imsbasiclti_v1p0"><b:title>Knotwork Drills</b:title><b:launch_url>https://knotwork.example/launch</b:launch_url></cartridge_basiclti_link>`

describe('intake over the API', () => {
  it('reads a configuration behind an address, beside the pair that stands in the text', async () => {
    serve(`\ufeff${XML}`, { 'content-type': 'text/plain' })
    const found = await read(`Key: ${KEY}\nSecret: ${SECRET} \nConfiguration URL: ${vendor}/config.xml`)
    expect(found).toMatchObject({ fetched: `${vendor}/config.xml`, version: '1.1', missing: [] })
    expect(Object.fromEntries(found.recognised.map((one) => [one.field, one.value]))).toMatchObject({ consumerKey: KEY, sharedSecret: SECRET, launchUrl: expect.stringContaining('/launch') }) // oxfmt-ignore
    const alone = await read(`${vendor}/config.xml`)
    expect(alone).toMatchObject({ kind: 'xml', version: '1.1', fetched: `${vendor}/config.xml` })
    expect(alone.missing.map((one) => one.field)).toEqual(['consumerKey', 'sharedSecret'])
    const made = await academy.admin.client.call('registerTool', {
      body: { name: 'Published', consumerKey: 'p', sharedSecret: 'secret-of-it', configurationUrl: alone.fetched },
    })
    const sheet = await academy.admin.client.call('showExchangeSheet', { params: { tool: made.id } })
    expect(sheet.weHold).toContainEqual({
      label: 'Configuration address',
      value: `${vendor}/config.xml`,
      secret: false,
    })
    expect(alone.recognised.find((one) => one.field === 'name')!.source).toContain('127.0.0.1')
  })

  it('goes by the rest where a configuration cannot be read, and says so; alone, it is refused', async () => {
    answer = (_, response) => response.writeHead(500).end()
    const found = await read(`Key: ${KEY}\nSecret: ${SECRET}\nConfiguration URL: ${vendor}/config.xml`)
    expect(found).toMatchObject({ fetched: null, version: '1.1' })
    expect(found.remarks.map((one) => one.code)).toContain('configuration_unread')
    await expect(read(`Configuration URL: ${vendor}/config.xml`)).rejects.toMatchObject({ problem: { status: 502 } })
  })

  it('leaves an address alone where key, secret and launch address are there', async () => {
    let asked = 0
    answer = (_, response) => response.end(String(++asked))
    const found = await read(`Key: ${KEY}\nSecret: ${SECRET}\nLaunch URL: ${vendor}/launch\nConfiguration URL: ${vendor}/config.xml`) // oxfmt-ignore
    expect([found.fetched, asked]).toEqual([null, 0])
  })

  it('follows a redirect of the vendor’s', async () => {
    answer = (request, response) =>
      request.url === '/config.xml' ? response.writeHead(302, { location: '/v2/config.xml' }).end() : response.end(XML)
    expect((await read(`${vendor}/config.xml`)).fetched).toBe(`${vendor}/v2/config.xml`)
  })

  it('takes an address that answers with a page for the launch address that it may be', async () => {
    serve('<!doctype html><title>Hello</title>', { 'content-type': 'text/html' })
    expect(await read(`${vendor}/launch`)).toMatchObject({
      kind: 'address',
      version: null,
      recognised: [{ field: 'launchUrl' }],
    })
  })

  it('says where a tool registers itself, without asking the address anything', async () => {
    expect((await read(`${vendor}/register`)).registrationAddress).toBe(`${vendor}/register`)
    expect(asked).toEqual([])
  })

  it('does not call an allowed private address a slip', async () => {
    serve('x')
    expect((await read(`Key: a-key\nSecret: ${SECRET}\nURL: ${vendor}/launch`)).remarks).toEqual([])
    expect(
      (await read(`Key: a-key\nSecret: ${SECRET}\nURL: https://192.168.0.9/l`)).remarks.map((one) => one.code),
    ).toEqual(['private_address'])
  })

  it('says which registrations look like it, and what is the same', async () => {
    await registerKnotwork(academy)
    const { same } = await read(`Tool: Knotwork drills (new)\nKey: ${KEY}\nSecret: ${SECRET}`)
    expect(same).toMatchObject([{ tool: { slug: 'knotwork-drills' }, what: ['key', 'name'] }])
  })

  const FAR = { location: 'http://10.1.2.3/config.xml' }
  it.each<[string, () => void, string]>([
    ['redirects to a private host', () => serve('', FAR, 302), 'outgoing.forbidden_address'],
    ['redirects to itself', () => serve('', { location: '/config.xml' }, 302), 'outgoing.too_many_redirects'],
    ['redirects to a file', () => serve('', { location: 'file:///etc/passwd' }, 302), 'outgoing.bad_redirect'],
    ['is a page', () => serve('<html></html>', { 'content-type': 'text/html' }), 'intake.no_configuration'],
    ['is gone', () => serve('', {}, 404), 'outgoing.status'],
    ['is 50 MB', () => (answer = (_, response) => pour(response, 50)), 'outgoing.too_large'],
    [
      'unfolds to a gigabyte',
      () => serve(gzipSync(Buffer.alloc(8_000_000)), { 'content-encoding': 'gzip' }),
      'outgoing.unfolds',
    ],
    ['is packed wrongly', () => serve('no gzip at all', { 'content-encoding': 'gzip' }), 'outgoing.unfolds'],
    ['never ends', () => (answer = (_, response) => void trickle(response)), 'outgoing.timeout'],
    ['hangs up', () => (answer = (request) => request.socket.destroy()), 'outgoing.cut_off'],
  ])('a configuration address that %s is refused by name', async (_, arrange, code) => {
    arrange()
    const before = await count()
    expect(await codeOf(read(`${vendor}/config.xml`))).toBe(code)
    expect(await count()).toBe(before)
  })

  it('of one that is gone says where exactly, and none of its parameters', async () => {
    serve('', {}, 404)
    const refused = await read(`${vendor}/conf/our.xml?token=s3cret`).catch((error: ServiceRefusal) => error.problem)
    expect(refused).toMatchObject({ detail: `${vendor}/conf/our.xml answered 404` })
    expect(JSON.stringify(refused)).not.toContain('s3cret')
  })

  it('an address whose name leads to a forbidden host is never called', async () => {
    const strict = await startAcademy({ outgoingAllow: [] })
    for (const address of [
      `http://localhost:${new URL(vendor).port}/config.xml`,
      `${vendor}/config.xml`,
      `http://[::1]:${new URL(vendor).port}/config.xml`,
      `http://2130706433:${new URL(vendor).port}/config.xml`,
    ])
      expect(
        await codeOf(strict.admin.client.call('readIntake', { body: { text: `Configuration URL: ${address}` } })),
      ).toBe('outgoing.forbidden_address')
    expect(asked).toEqual([])
  })

  it('is for those who may register something', async () => {
    await academy.person('niamh', { 'HYD-210': 'learner' })
    await academy.person('tomas', { 'HYD-210': 'instructor' })
    const body = { text: `Key: ${KEY}` }
    expect(await codeOf((await academy.signIn('niamh')).client.call('readIntake', { body }))).toBe('access.denied')
    expect((await (await academy.signIn('tomas')).client.call('readIntake', { body })).recognised.length).toBe(1)
    const closed = await startAcademy({ courseTools: 'off' })
    await closed.person('tomas', { 'HYD-210': 'instructor' })
    const tomas = await closed.signIn('tomas')
    expect(await codeOf(tomas.client.call('readIntake', { body }))).toBe('tool.policy')
    const own = { name: 'Mine', consumerKey: 'k', sharedSecret: 'secret-of-mine', course: 'HYD-210' }
    expect(await codeOf(tomas.client.call('registerTool', { body: own }))).toBe('tool.policy')
  })

  it('under the policy of approval an instructor’s tool waits for the administrator', async () => {
    const careful = await startAcademy({ courseTools: 'approval' })
    await careful.person('tomas', { 'HYD-210': 'instructor' })
    const tomas = await careful.signIn('tomas')
    const own = {
      name: 'Mine',
      consumerKey: 'k',
      sharedSecret: 'secret-of-mine',
      course: 'HYD-210',
      launchUrl: 'https://x.example/',
    }
    const made = await tomas.client.call('registerTool', { body: own })
    expect(made.state).toBe('waiting')
    expect(
      await codeOf(tomas.client.call('setToolState', { params: { tool: made.id }, body: { state: 'enabled' } })),
    ).toBe('tool.waiting')
    expect(await codeOf(tomas.client.call('approveTool', { params: { tool: made.id }, body: { revision: 1 } }))).toBe(
      'access.denied',
    )
    const params = { tool: made.id }
    const approved = await careful.admin.client.call('approveTool', { params, body: { revision: 1 } })
    expect(approved.state).toBe('enabled')
    const change = (revision: number, body: Record<string, unknown>) =>
      tomas.client.call('changeTool', { params, body: { revision, ...body } })
    expect((await change(approved.revision, { note: 'harmless' })).state).toBe('enabled')
    expect((await change(approved.revision + 1, { disclosure: 'name_and_email' })).state).toBe('waiting')
  })
})

async function count(): Promise<number> {
  return (await academy.query<{ n: number }>('select count(*)::int as n from registration'))[0]!.n
}

function pour(response: ServerResponse, megabytes: number): ServerResponse {
  response.writeHead(200)
  const more = (left: number): void => {
    if (left === 0 || response.destroyed) return void response.end()
    response.write(Buffer.alloc(1_000_000, 'x'), () => more(left - 1))
  }
  more(megabytes)
  return response
}

async function trickle(response: ServerResponse): Promise<void> {
  response.writeHead(200)
  while (!response.destroyed) {
    response.write('<')
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
}
