import { spawnSync } from 'node:child_process'
import { mkdirSync, readFileSync } from 'node:fs'
import { createServer, type ServerOptions } from 'node:https'
import type { AddressInfo } from 'node:net'
import { join } from 'node:path'
import { createClient } from '@bathyscribe/contract'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { signIn } from '@bathyscribe/yard/academy/browserless'
import { RUN } from '@bathyscribe/yard/machine/place'
import { setupCodeOf, startStack, stopStack } from '@bathyscribe/yard/machine/stack'
import { PASSWORD } from './academy.js'

/** Tools behind TLS, with certificates made for the occasion: the service is told of the first one's as operators do it. */
const folder = join(RUN, `e2e-tls-${process.pid}`)
const closing: (() => unknown)[] = []
let client: Awaited<ReturnType<typeof signIn>>['client']
let known: ServerOptions
let stranger: ServerOptions

function certificate(name: string, host: string): ServerOptions {
  const [key, cert] = [join(folder, `${name}.key`), join(folder, `${name}.pem`)]
  const made = spawnSync(
    'openssl',
    [
      ...['req', '-x509', '-newkey', 'ec', '-pkeyopt', 'ec_paramgen_curve:P-256', '-nodes', '-days', '2'],
      ...['-subj', `/CN=${host}`, '-addext', `subjectAltName=DNS:${host}`, '-keyout', key, '-out', cert],
    ],
    { encoding: 'utf8' },
  )
  if (made.status !== 0) throw new Error(made.stderr)
  return { key: readFileSync(key), cert: readFileSync(cert) }
}

beforeAll(async () => {
  mkdirSync(folder, { recursive: true })
  known = certificate('known', 'localhost')
  stranger = certificate('stranger', 'localhost')
  const running = await startStack({
    folder,
    servicePort: 0,
    toolsPort: 0,
    serverSettings: { fsync: 'off' },
    extraEnvironment: { NODE_EXTRA_CA_CERTS: join(folder, 'known.pem') },
  })
  await createClient({ baseUrl: running.url, headers: () => ({}) }).call('setUp', {
    body: { code: setupCodeOf(folder)!, username: 'ingrid', fullName: 'Ingrid', password: PASSWORD },
  })
  client = (await signIn(running.url, 'ingrid', PASSWORD)).client
})
afterAll(async () => {
  for (const close of closing) close()
  await stopStack(folder, { remove: true })
})

/** The address of a tool that answers every request, if it is let. */
async function serve(options: ServerOptions): Promise<number> {
  const server = createServer(options, (_, answer) =>
    answer.setHeader('content-type', 'text/html').end('<h1>Tool</h1>'),
  )
  closing.push(() => (server.closeAllConnections(), server.close()))
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  return (server.address() as AddressInfo).port
}
let n = 0
async function check(launchUrl: string) {
  const tool = await client.call('registerTool', {
    body: { name: `Tool ${++n}`, consumerKey: `key-${n}`, sharedSecret: `secret-${n}-of-the-tool`, launchUrl },
  })
  const { findings } = await client.call('checkTool', { params: { tool: tool.slug } })
  return findings.map((one) => `${one.verdict} ${one.statement} ${one.remedy ?? ''}`).join('\n')
}

it('a certificate that the operator made known is taken', async () => {
  const told = await check(`https://localhost:${await serve(known)}/launch`)
  expect(told).toMatch(/^pass The name resolves and the tool’s server answers/m)
})

it('a server that asks for a certificate of ours is refused by that name', async () => {
  const asking = { ...known, requestCert: true, rejectUnauthorized: true }
  const port = await serve({ ...asking, minVersion: 'TLSv1.3' })
  expect(await check(`https://localhost:${port}/launch`)).toMatch(
    /^fail .*asks for a certificate of ours.*have its support take the demand away/m,
  )
  // Before TLS 1.3 a server does not say why it ends the handshake.
  const older = await serve({ ...asking, maxVersion: 'TLSv1.2' })
  expect(await check(`https://localhost:${older}/launch`)).toMatch(
    /^fail The secure connection could not be made.*it may ask for a certificate of ours/m,
  )
})

it('a certificate of nobody known, of another name, or no TLS at all is said as what it is', async () => {
  expect(await check(`https://localhost:${await serve(stranger)}/launch`)).toMatch(
    /^fail The secure connection could not be made.*SELF_SIGNED/m,
  )
  expect(await check(`https://127.0.0.1:${await serve(known)}/launch`)).toMatch(
    /^fail The secure connection could not be made.*ALTNAME/m,
  )
  const plain = await import('node:http')
  const server = plain.createServer((_, answer) => answer.end('plain'))
  closing.push(() => server.close())
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  expect(await check(`https://localhost:${(server.address() as AddressInfo).port}/launch`)).toMatch(
    /^fail The secure connection could not be made.*SSL/m,
  )
})

it('a certificate that only the service knows is found out by a browser', async () => {
  const port = await serve(known)
  await check(`https://localhost:${port}/launch`)
  await client.call('createCourse', { body: { code: 'TLS 1', title: 'Secure connections' } })
  const { id: person } = await client.call('createPerson', { body: { username: 'tomas', fullName: 'Tomas Testmann' } })
  await client.call('enrol', { params: { course: 'TLS-1' }, body: { person, role: 'instructor' } })
  const sound = async (tool: string, follower: 'http' | 'browser') => {
    const { id: assignment } = await client.call('createAssignment', {
      params: { course: 'TLS-1' },
      body: { title: `By ${follower} at ${tool}`, tool, points: '1', publish: true },
    })
    const { id } = await client.call('runSounding', { params: { assignment }, body: { follower } })
    const read = () => client.call('showSounding', { params: { id } })
    await expect.poll(async () => (await read()).state, { timeout: 60_000 }).toBe('done')
    const { findings } = await read()
    return findings.filter((one) => one.stage === 'launch_instructor').map((one) => `${one.verdict} ${one.statement}`)
  }
  const tool = `tool-${n}`
  expect((await sound(tool, 'http')).join('\n')).toMatch(/^pass Launched as Tomas/m)
  expect((await sound(tool, 'browser')).join('\n')).toMatch(/fail .*The secure connection could not be made.*ERR_CERT/)
})
