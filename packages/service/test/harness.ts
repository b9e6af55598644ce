import { copyFileSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createClient, type Client } from '@bathyscribe/contract'
import { createKnotwork, outcomeXml, sendOutcome } from '@bathyscribe/practice-tools'
import { migrateRecords, Settings, startService, type RunningService } from '@bathyscribe/service'
import pg from 'pg'
import type { DataSource } from 'typeorm'
import { inject } from 'vitest'
import { freePort } from '@bathyscribe/yard/machine/ports'
import { copyTemplate, TEST_SCHEMA } from '../../../test/template.js'
import { createDatabase } from '../src/records/database.js'
import { closeAfterwards } from './closing.js'

export const PASSWORD = 'lantern-and-lead-line'
export const KEY = 'skerrow-knots'
export const SECRET = 'halyard-3-bowline-7-fid'

/** A clock that runs with the machine's, but can be set off. */
export class TestClock {
  offsetMs = 0
  now(): Date {
    return new Date(Date.now() + this.offsetMs)
  }
}

/** One person's browser session, or a program with a token. */
export interface Visitor {
  client: Client
  send: (path: string, init?: RequestInit) => Promise<Response>
  /** What the browser keeps. */
  cookies: () => ReadonlyMap<string, string>
}

export interface TestAcademy {
  service: RunningService
  url: string
  clock: TestClock
  knotwork: string
  admin: Visitor
  /** Signs in a person who was made by `person`. */
  signIn: (username: string) => Promise<Visitor>
  person: (
    username: string,
    courseRoles?: Record<string, 'instructor' | 'teaching_assistant' | 'learner'>,
  ) => Promise<string>
  visitor: (headers?: Record<string, string>) => Visitor
  /** Rows straight from the records, to see what was really kept. */
  query: <R extends pg.QueryResultRow>(sql: string, values?: unknown[]) => Promise<R[]>
}

/** A service on loopback over a schema of its own, with an administrator, one course, and Knotwork Drills beside it. */
export async function startAcademy({
  toolSlowMs = 60_000,
  ...change
}: Partial<Record<string, unknown>> & { toolSlowMs?: number } = {}): Promise<TestAcademy> {
  const folder = mkdtempSync(join(tmpdir(), 'bathyscribe-test-'))
  const [port, toolPort] = [await freePort(), await freePort()]
  const url = `http://localhost:${port}`
  const own = change['databaseUrl'] === undefined ? await copyTemplate(inject('databaseUrl')) : undefined
  const databaseUrl = own?.url ?? (change['databaseUrl'] as string)
  const settings = Settings.parse({
    publicUrl: url,
    port,
    databaseUrl,
    databaseSchema: TEST_SCHEMA,
    keyFile: join(folder, 'keys.json'),
    outgoingAllow: ['127.0.0.0/8', '::1/128'],
    // An honest tool shares this process and may be slow on a busy machine; tests of slow tools set their own.
    outgoingTimeoutMs: 20_000,
    // How long a file takes hangs on the machine; the tests of this one limit set their own.
    confirmMinutes: 1440,
    // Tests set the clock on by hours.
    sessionIdleMinutes: 43_200,
    logLevel: 'silent',
    browserSandbox: process.getuid?.() === 0 ? 'off' : 'on',
    ...change,
  })
  if (own) copyFileSync(inject('keyFile'), settings.keyFile)
  else await migrateRecords(settings)
  const clock = new TestClock()
  const service = await startService(settings, { clock })
  const knotwork = `http://127.0.0.1:${toolPort}`
  const tool = await createKnotwork({
    publicUrl: knotwork,
    consumerKey: KEY,
    sharedSecret: SECRET,
    slowMs: toolSlowMs,
    lateMs: 50,
  })
  await tool.listen({ host: '127.0.0.1', port: toolPort })
  const pool = new pg.Pool({ connectionString: databaseUrl, options: `-c search_path=${TEST_SCHEMA}`, max: 2 })
  pool.on('error', () => undefined)
  closeAfterwards(async () => {
    await tool.close()
    await service.stop()
    await pool.end()
    await own?.remove()
    rmSync(folder, { recursive: true, force: true })
  })

  const visitor = (headers: Record<string, string> = {}) => browse(url, headers)
  const signIn = async (username: string) => {
    const one = browse(url)
    await one.client.call('signIn', { body: { username, password: PASSWORD } })
    return one
  }
  await visitor().client.call('setUp', {
    body: { code: service.setupCode!, username: 'ingrid', fullName: 'Ingrid Valesdottir', password: PASSWORD },
  })
  const admin = await signIn('ingrid')
  await admin.client.call('createCourse', {
    body: { code: 'HYD 210', title: 'Hydrographic Surveying', categories: ['Drills'] },
  })
  return {
    service,
    url,
    clock,
    knotwork,
    admin,
    signIn,
    visitor,
    async person(username, courseRoles = {}) {
      const { id } = await admin.client.call('createPerson', {
        body: {
          username,
          fullName: `${username[0]!.toUpperCase()}${username.slice(1)} Testmann`,
          email: `${username}@skerrow.example`,
          password: PASSWORD,
        },
      })
      for (const [course, role] of Object.entries(courseRoles))
        await admin.client.call('enrol', { params: { course }, body: { person: username, role } })
      return id
    },
    query: async (sql, values) => (await pool.query(sql, values)).rows as never,
  }
}

/** A visitor's cookies as a browser sends them. */
export const cookieOf = ({ cookies }: Pick<Visitor, 'cookies'>) =>
  [...cookies()].map(([name, value]) => `${name}=${value}`).join('; ')

/** What a visitor's changes have to bring along; nothing for who is not signed in. */
export async function csrfOf(visitor: Visitor): Promise<string> {
  const response = await visitor.send('/api/session')
  return response.ok ? ((await response.json()) as { csrfToken: string }).csrfToken : ''
}

/** A service of the academy's settings on records of its own, in which nobody is yet. @param processes how many on the same records */
export async function startUnset(
  { service }: TestAcademy,
  change: Record<string, unknown> = {},
  processes = 1,
): Promise<{ services: RunningService[]; databaseUrl: string }> {
  const own = await copyTemplate(inject('databaseUrl'))
  const settings = Settings.parse({ ...service.context.settings, port: 0, databaseUrl: own.url, ...change })
  const services: RunningService[] = []
  closeAfterwards(async () => {
    for (const one of services) await one.stop()
    await own.remove()
  })
  while (services.length < processes) services.push(await startService(settings))
  return { services, databaseUrl: own.url }
}

/** Keeps cookies and sends the CSRF token, as the console does. */
export function browse(url: string, headers: Record<string, string> = {}): Visitor {
  const jar = new Map<string, string>()
  let csrf = ''
  const send = async (path: string, init: RequestInit = {}) => {
    const cookie = cookieOf({ cookies: () => jar })
    const response = await fetch(new URL(path, url), {
      redirect: 'manual',
      ...init,
      headers: { ...headers, ...(cookie && { cookie }), ...(init.headers as Record<string, string>) },
    })
    for (const line of response.headers.getSetCookie()) {
      const [, name, value] = /^([^=]+)=([^;]*)/.exec(line)!
      if (value === '') jar.delete(name!)
      else jar.set(name!, value!)
    }
    return response
  }
  const client = createClient({
    baseUrl: url,
    headers: (): Record<string, string> => (csrf ? { 'x-csrf-token': csrf } : {}),
    fetch: async (address, init) => {
      const response = await send(String(address), init)
      if (String(address).endsWith('/api/session') && response.ok && response.status === 200)
        csrf = ((await response.clone().json()) as { csrfToken: string | null }).csrfToken ?? csrf
      return response
    },
  })
  return { client, send, cookies: () => jar }
}

/** A connection of the tests' own to an academy's records, as the service's programs open one. */
export async function openRecords({ service }: TestAcademy, limits?: 'none'): Promise<DataSource> {
  const database = createDatabase(service.context.settings, limits)
  await database.initialize()
  closeAfterwards(() => database.destroy())
  return database
}

/** Uploads a file to a course by an API token. */
export function sendFile(
  { url }: TestAcademy,
  { token, content, name, course = 'HYD-210' }: { token: string; content: BlobPart; name: string; course?: string },
): Promise<Response> {
  const body = new FormData()
  body.set('file', new Blob([content]), name)
  const headers = { authorization: `Bearer ${token}` }
  return fetch(`${url}/api/courses/${course}/files`, { method: 'POST', body, headers })
}

/** Registers Knotwork Drills for the institution. */
export function registerKnotwork({ admin, knotwork }: TestAcademy, change: Record<string, unknown> = {}) {
  return admin.client.call('registerTool', {
    body: {
      name: 'Knotwork Drills',
      consumerKey: KEY,
      sharedSecret: SECRET,
      launchUrl: `${knotwork}/launch`,
      disclosure: 'name',
      soundingParameters: { practice_score: '0.645' },
      ...change,
    },
  })
}

/** A published assignment on a tool. */
export function publishDrill({ admin }: TestAcademy, tool: string, change: Record<string, unknown> = {}) {
  return admin.client.call('createAssignment', {
    params: { course: 'HYD-210' },
    body: { title: 'Soundings and datum', tool, points: '100', category: 'Drills', publish: true, ...change },
  })
}

/** What Knotwork Drills does when work was handed in (LTI 1.1.1 section 6.1.1). @param fraction 0 to 1, as it is sent */
export function sendScore({ url }: Pick<TestAcademy, 'url'>, resultId: string, fraction: string) {
  return sendOutcome(
    { serviceUrl: `${url}/lti/outcomes`, resultId, key: KEY, secret: SECRET },
    outcomeXml('replaceResult', resultId, fraction),
  )
}

const INPUT = /<input type="hidden" name="([^"]*)" value="([^"]*)"/g
const unescape = (text: string) =>
  text
    .replaceAll('&quot;', '"')
    .replaceAll('&#39;', "'")
    .replaceAll('&lt;', '<')
    .replaceAll('&gt;', '>')
    .replaceAll('&amp;', '&')

/** Opens an assignment and reads the form that would be posted to the tool. */
export async function openForm(
  who: Visitor,
  assignmentId: string,
  query = '',
): Promise<{ status: number; page: string; action: string; fields: Record<string, string>; headers: Headers }> {
  const response = await who.send(`/lti/launch/${assignmentId}${query}`)
  const page = await response.text()
  const fields = Object.fromEntries(
    [...page.matchAll(INPUT)].map(([, name, value]) => [unescape(name!), unescape(value!)]),
  )
  return {
    status: response.status,
    page,
    action: unescape(/action="([^"]*)"/.exec(page)?.[1] ?? ''),
    fields,
    headers: response.headers,
  }
}

/** What a call was refused by; undefined when it was not. */
export async function codeOf(call: Promise<unknown>): Promise<string | undefined> {
  try {
    await call
    return undefined
  } catch (error) {
    return (error as { problem?: { code: string } }).problem?.code ?? String(error)
  }
}
