import { request } from 'node:http'
import { startService } from '@bathyscribe/service'
import { beforeAll, describe, expect, it } from 'vitest'
import { eventually } from '../../../test/eventually.js'
import { closeAfterwards } from './closing.js'
import {
  codeOf,
  cookieOf,
  csrfOf,
  publishDrill,
  registerKnotwork,
  sendFile,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'

let academy: TestAcademy
let tomas: Visitor
beforeAll(async () => {
  academy = await startAcademy({ courseMegabytes: 1 })
  await registerKnotwork(academy)
  await publishDrill(academy, 'knotwork-drills')
  await academy.admin.client.call('createCourse', { body: { code: 'NAV 120', title: 'Coastal Navigation' } })
  for (const name of ['tomas', 'priyanka', 'maren'])
    await academy.person(name, { 'HYD-210': 'instructor', 'NAV-120': 'instructor' })
  tomas = await academy.signIn('tomas')
})

describe('a session listens in ten windows at once', () => {
  const listen = async (who: Visitor) => {
    const abort = new AbortController()
    const response = await who.send('/api/events', { signal: abort.signal })
    return { status: response.status, response, close: () => abort.abort() }
  }
  it('and no more, however many ask in the same moment; one that closes makes room', async () => {
    const all = await Promise.all(Array.from({ length: 25 }, () => listen(tomas)))
    const open = all.filter((one) => one.status === 200)
    const refused = all.filter((one) => one.status === 429)
    expect([open.length, refused.length]).toEqual([10, 15])
    expect(await refused[0]!.response.json()).toMatchObject({ code: 'request.too_many_streams' })
    // Somebody else, and the same person elsewhere, are not held back by it.
    const others = [await listen(await academy.signIn('priyanka')), await listen(await academy.signIn('tomas'))]
    expect(others.map((one) => one.status)).toEqual([200, 200])
    open[0]!.close()
    let next: Awaited<ReturnType<typeof listen>>
    await eventually(async () => {
      next = await listen(tomas)
      expect(next.status).toBe(200)
    })
    for (const one of [...open, ...others, next!]) one.close()
  })
})

describe('a person sweeps over the same links once at a time', () => {
  const start = (who: Visitor, body: object = { course: 'HYD-210' }) => who.client.call('startSweep', { body })
  it('also when asked twice in the same moment; others may, and it may again when it is over', async () => {
    const codes = await Promise.all([1, 2, 3].map(() => codeOf(start(tomas))))
    expect(codes.sort()).toEqual(['sweep.running', 'sweep.running', undefined])
    const priyanka = await academy.signIn('priyanka')
    expect(await codeOf(start(priyanka))).toBeUndefined()
    await eventually(async () => {
      const { items } = await tomas.client.call('listSweeps', {})
      expect(items.every((one) => one.state === 'done')).toBe(true)
    })
    expect(await codeOf(start(tomas))).toBeUndefined()
  })
})

const tokenOf = async (who: Visitor) =>
  (await who.client.call('createToken', { body: { name: 't', scopes: ['teach', 'read'] } })).token

describe('a course has so much room for files', () => {
  let token: string
  beforeAll(async () => {
    token = await tokenOf(tomas)
  })
  const send = async (kilobytes: number, course = 'HYD-210') => {
    // Each of another content: what is the same is kept once, but counted in each course.
    const content = crypto.randomUUID() + 'x'.repeat(kilobytes * 1024 - 36)
    const response = await sendFile(academy, { token, content, name: 'x.txt', course })
    return { status: response.status, body: (await response.json()) as { id: string; code: string; detail?: string } }
  }
  it('and no more, also for two at once; what is removed makes room', async () => {
    const first = await send(600)
    expect(first.status).toBe(201)
    expect(await send(600)).toMatchObject({ status: 413, body: { code: 'file.course_full', detail: '2 of 1 MiB' } })
    const { items } = await tomas.client.call('listFiles', { params: { course: 'HYD-210' } })
    expect(items).toHaveLength(1)
    // Another course has its own.
    const both = await Promise.all([send(600, 'NAV-120'), send(600, 'NAV-120')])
    expect(both.map((one) => one.status).sort()).toEqual([201, 413])
    await tomas.client.call('removeFile', { params: { course: 'HYD-210', file: first.body.id } })
    expect((await send(600)).status).toBe(201)
  })
})

describe('a person uploads six hundred files an hour', () => {
  const uploads = (token: string) =>
    sendFile(academy, { token, content: 'north', name: 'chart.txt', course: 'NAV-120' })
  it('and no more, in whatever courses; others go on, and an hour later the same person does', async () => {
    const maren = await tokenOf(await academy.signIn('maren'))
    expect((await uploads(maren)).status).toBe(201)
    const [counted] = await academy.query<{ key: string; uses: number }>(
      `select r.key, r.uses from ration r join person p on r.key = 'uploadFile ' || p.id where p.username = 'maren'`,
    )
    expect(counted).toMatchObject({ uses: 1 })
    await academy.query(`update ration set uses = 599 where key = $1`, [counted!.key])
    const both = await Promise.all([uploads(maren), uploads(maren)])
    expect(both.map((one) => one.status).sort()).toEqual([201, 429])
    const refused = both.find((one) => one.status === 429)!
    expect(await refused.json()).toMatchObject({ code: 'request.too_many' })
    expect(Number(refused.headers.get('retry-after'))).toBeGreaterThan(3000)
    expect((await uploads(await tokenOf(await academy.signIn('priyanka')))).status).toBe(201)
    academy.clock.offsetMs += 3_601_000
    expect((await uploads(maren)).status).toBe(201)
  })
})

describe('a dear call has its ration a minute', () => {
  const LIMIT = 30
  const headersOf = async (who: Visitor) => {
    return { cookie: cookieOf(who), 'x-csrf-token': await csrfOf(who), 'content-type': 'application/json' }
  }
  const at = async (who: Visitor) => {
    const headers = await headersOf(who)
    // No such course: what it is refused for comes after it was counted.
    const body = '{"course":"NO-999"}'
    return (base: string) => fetch(`${base}/api/sweeps`, { method: 'POST', headers, body })
  }

  it('that two services on one database give together, to each person her own', async () => {
    const other = await startService({ ...academy.service.context.settings, port: 0 }, { clock: academy.clock })
    closeAfterwards(() => other.stop())
    // What earlier tests asked for is counted no more.
    academy.clock.offsetMs += 61_000
    const ask = await at(tomas)
    const answers = await Promise.all(
      Array.from({ length: LIMIT + 10 }, (_, i) => ask(i % 2 === 0 ? academy.url : other.address)),
    )
    const refused = answers.filter((one) => one.status === 429)
    expect(answers.filter((one) => one.status === 404)).toHaveLength(LIMIT)
    expect(refused).toHaveLength(10)
    expect(await refused[0]!.json()).toMatchObject({ code: 'request.too_many' })
    expect(Number(refused[0]!.headers.get('retry-after'))).toBeGreaterThan(0)
    const priyanka = await at(await academy.signIn('priyanka'))
    expect((await priyanka(other.address)).status).toBe(404)
    academy.clock.offsetMs += 61_000
    expect((await ask(other.address)).status).toBe(404)
  })

  it('and is counted before its body is read: one that never ends is refused at once', async () => {
    const ask = await at(tomas)
    for (let i = 0; i <= LIMIT; i++) await ask(academy.url)
    const headers = { ...(await headersOf(tomas)), 'content-length': 5000 }
    const { hostname, port } = new URL(academy.url)
    const status = await new Promise<number>((resolve, reject) => {
      const sent = request({ hostname, port, path: '/api/sweeps', method: 'POST', headers })
      sent.on('response', (response) => {
        resolve(response.statusCode!)
        sent.destroy()
      })
      sent.on('error', reject)
      sent.write('{"course":')
    })
    expect(status).toBe(429)
  })
})
