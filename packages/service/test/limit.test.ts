import { sendOutcome, outcomeXml } from '@bathyscribe/practice-tools'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { freePort } from '@bathyscribe/yard/machine/ports'
import { inBatches } from '../../yard/src/benches/batches.js'
import { startLimit } from '../../yard/src/benches/limit.js'
import { machineTicks, perRequest, usedBy, usedByFamily } from '../../yard/src/benches/processor-time.js'
import { cookieOf, KEY, openForm, publishDrill, registerKnotwork, SECRET } from './harness.js'
import { verified } from './harness-13.js'
import { SCOPES_13, startScoring, type Scoring } from './scoring-13.js'

/** Routes of the bench on the records of an academy: what they leave is held against what the service leaves. */
let one: Scoring
let limit: Awaited<ReturnType<typeof startLimit>>
/** The same under an address of its own, which is what tools of LTI 1.1 sign. */
let signed: Awaited<ReturnType<typeof startLimit>>
/** What went wrong there. */
const faults: unknown[] = []
let drill: string
let column: string
const query = <R extends object>(sql: string, values: unknown[] = []) => one.academy.query<R>(sql, values)
const lastEntry = async () =>
  (await query<Record<string, unknown>>(
    `select kind, direction, outcome, assignment_id, course_id, person_id, registration_id, request, response from wire_entry order by id desc limit 1`,
  ))[0]! // oxfmt-ignore
const entries = async () => (await query<{ n: number }>('select count(*)::int as n from wire_entry'))[0]!.n
const standing = async (assignment: string) =>
  (await query<Record<string, unknown>>(
    `select r.sent, r.sent_out_of, r.fraction::text, r.points::text, r.counting, r.attempts, r.counted, s.points::text as trail, s.operation, s.outcome
     from result r join score s on s.id = r.score_id join person p on p.id = r.person_id where r.assignment_id = $1 and p.username = 'aino'`,
    [assignment],
  ))[0] // oxfmt-ignore

beforeAll(async () => {
  one = await startScoring()
  const { settings } = one.academy.service.context
  const { databaseUrl, databaseSchema, keyFile } = settings
  await registerKnotwork(one.academy)
  drill = (await publishDrill(one.academy, 'knotwork-drills', { points: '50' })).id
  column = await one.make('Set and drift')
  const settingsOf = (publicUrl: string, port: number) => ({ databaseUrl, databaseSchema, keyFile, publicUrl, port })
  limit = await startLimit(settingsOf(one.academy.url, 0))
  const port = await freePort()
  signed = await startLimit({
    ...settingsOf(`http://127.0.0.1:${port}`, port),
    onFault: (fault) => faults.push(fault),
  })
})
afterAll(async () => {
  await limit?.stop()
  await signed?.stop()
})

describe('the limit of the bench keeps what the service keeps', () => {
  it('of a score of LTI 1.1, once', async () => {
    const { fields } = await openForm(one.aino, drill)
    const resultId = fields['lis_result_sourcedid']!
    const send = (serviceUrl: string, fraction: string) =>
      sendOutcome({ serviceUrl, resultId, key: KEY, secret: SECRET }, outcomeXml('replaceResult', resultId, fraction))
    expect(await send(`${one.academy.url}/lti/outcomes`, '0.5')).toMatchObject({ codeMajor: 'success' })
    const byService = { result: await standing(drill), entry: await lastEntry() }
    const answer = await send(`${signed.url}/lti/outcomes`, '0.7')
    expect(answer).toMatchObject({ codeMajor: 'success' })
    expect(await standing(drill)).toEqual({ ...byService.result, sent: '0.7', fraction: '0.7', points: '35', trail: '35', attempts: 2, counted: 2 }) // oxfmt-ignore
    const { request: _, response: __, ...entry } = await lastEntry()
    const { request: ___, response: ____, ...asked } = byService.entry
    expect(entry).toEqual(asked)
    // Another secret is refused, and leaves nothing.
    const before = await entries()
    const wrong = sendOutcome({ serviceUrl: `${signed.url}/lti/outcomes`, resultId, key: KEY, secret: 'another' }, outcomeXml('replaceResult', resultId, '1')) // oxfmt-ignore
    expect((await wrong).codeMajor).not.toBe('success')
    expect(faults).toEqual([expect.objectContaining({ message: 'refused' })])
    expect(await entries()).toBe(before)
  })

  it('of a score of LTI 1.3, in the order of time', async () => {
    const bearer = await one.token(SCOPES_13.score)
    const at = (second: number) => new Date(Date.now() + second * 1000).toISOString()
    const send = (base: string, given: number, second: number) =>
      fetch(`${base}/lti/courses/${new URL(one.service).pathname.split('/').at(-1)}/lineitems/${column}/scores`, {
        method: 'POST',
        headers: { authorization: `Bearer ${bearer}`, 'content-type': 'application/vnd.ims.lis.v1.score+json' },
        body: JSON.stringify({
          userId: one.subjects['aino'],
          timestamp: at(second),
          activityProgress: 'Completed',
          gradingProgress: 'FullyGraded',
          scoreGiven: given,
          scoreMaximum: 10,
        }),
      })
    expect((await send(one.academy.url, 5, 0)).ok).toBe(true)
    const byService = await standing(column)
    expect((await send(limit.url, 8, 5)).status).toBe(204)
    expect(await standing(column)).toEqual({ ...byService, sent: '8', fraction: '0.8', points: '32', trail: '32', attempts: 2, counted: 2 }) // oxfmt-ignore
    expect((await send(limit.url, 1, 3)).ok).toBe(false)
    expect(await standing(column)).toMatchObject({ points: '32' })
    expect((await fetch(`${limit.url}/lti/courses/x/lineitems/${column}/scores`, { method: 'POST' })).ok).toBe(false)
  })

  it('of a launch of LTI 1.1, with the same words to the tool', async () => {
    const { fields } = await openForm(one.aino, drill)
    const page = await (
      await fetch(`${limit.url}/lti/launch/${drill}`, { headers: { cookie: cookieOf(one.aino) } })
    ).text()
    for (const name of [
      'user_id',
      'roles',
      'resource_link_id',
      'context_id',
      'lis_result_sourcedid',
      'lis_person_name_full',
    ])
      // oxfmt-ignore
      expect(page).toContain(`name="${name}" value="${fields[name]}"`)
    expect(page).toMatch(/name="oauth_signature" value="[^"]{20,}"/)
    const { kind, direction, person_id: person } = await lastEntry()
    expect([kind, direction]).toEqual(['launch', 'sent'])
    expect(await query('select launches from visit where assignment_id = $1 and person_id = $2', [drill, person])).toEqual([{ launches: 3 }]) // oxfmt-ignore
    const stranger = await fetch(`${limit.url}/lti/launch/${drill}`, {
      headers: { cookie: 'bathyscribe_session=nobody' },
    })
    expect(stranger.ok).toBe(false)
  })

  it('of a launch of LTI 1.3: hints for once, and a token that says who it is', async () => {
    const cookie = { headers: { cookie: cookieOf(one.aino) } }
    const page = await (await fetch(`${limit.url}/lti/launch/${column}`, cookie)).text()
    const hint = (name: string) => new RegExp(`name="${name}" value="([^"]*)"`).exec(page)![1]!
    const [{ uri }] = await query<{ uri: string }>('select redirect_uris[1] as uri from registration where client_id = $1', [one.clientId]) as [{ uri: string }] // oxfmt-ignore
    const asked = new URLSearchParams({ redirect_uri: uri, nonce: 'n-1', state: 's-1', login_hint: hint('login_hint'), lti_message_hint: hint('lti_message_hint') }) // oxfmt-ignore
    const authorized = await (await fetch(`${limit.url}/lti/authorize?${asked}`, cookie)).text()
    const token = /name="id_token" value="([^"]*)"/.exec(authorized)![1]!
    const claims = JSON.parse(Buffer.from(token.split('.')[1]!, 'base64url').toString()) as Record<string, unknown>
    expect(claims).toMatchObject({ iss: one.academy.url, aud: one.clientId, sub: one.subjects['aino'], nonce: 'n-1' })
    // Signed by a key of the bench's own: it opens nothing of anybody.
    await expect(verified(one.academy, token, one.clientId)).rejects.toThrow()
    expect((await fetch(`${limit.url}/lti/authorize?${asked}`, cookie)).ok).toBe(false)
  })

  it('of a token: an assertion is good once', async () => {
    const body = new URLSearchParams({ grant_type: 'client_credentials', client_assertion: await one.client.assertion(one.clientId), scope: SCOPES_13.score }) // oxfmt-ignore
    const ask = () => fetch(`${limit.url}/lti/token`, { method: 'POST', body })
    expect(await (await ask()).json()).toMatchObject({ token_type: 'Bearer', scope: SCOPES_13.score })
    expect(await lastEntry()).toMatchObject({ kind: 'token', outcome: 'accepted' })
    const before = await entries()
    expect((await ask()).ok).toBe(false)
    expect(await entries()).toBe(before)
  })
})

describe('what is measured with', () => {
  it('counts the processor of a process and of its children, and of nobody who is gone', async () => {
    const busy = () => {
      // By the processor's time, not by the clock's: on a busy machine these are two things.
      const began = process.cpuUsage()
      const used = () => process.cpuUsage(began).user + process.cpuUsage(began).system
      let n = 0
      while (used() < 120_000) n += Math.sqrt(n + 1)
      return Promise.resolve(n > 0 ? 10 : 0)
    }
    const { server, requests } = await perRequest({ server: process.pid, database: process.pid }, busy)
    expect(requests).toBe(10)
    expect(server).toBeGreaterThan(1000)
    const ready = await perRequest({ server: process.pid, database: process.pid }, async (begins) => {
      for (let i = 0; i < 3; i++) await busy()
      begins()
      return 10
    })
    expect(ready.server).toBeLessThan(server)
    // The process works on between two looks: what the family used is read after what it is held against.
    const own = usedBy(process.pid)
    expect(usedByFamily(process.pid)).toBeGreaterThanOrEqual(own)
    expect(usedBy(2 ** 30)).toBe(0)
    const { all, stolen } = machineTicks()
    expect(all).toBeGreaterThan(stolen)
    await busy()
    expect(machineTicks().all).toBeGreaterThan(all)
  })

  it('puts what comes at once into one statement, two of one key never, and each gets its own answer', async () => {
    const batches: number[][] = []
    const ask = inBatches(
      async (items: number[]) => {
        batches.push(items)
        await new Promise((resolve) => setImmediate(resolve))
        if (items.includes(13)) throw new Error('unlucky')
        return items.map((item) => item * 2)
      },
      (item) => String(item % 10),
    )
    expect(await Promise.all([1, 2, 11, 3].map(ask))).toEqual([2, 4, 22, 6])
    expect(batches).toEqual([[1, 2, 3], [11]])
    await expect(ask(13)).rejects.toThrow('unlucky')
    expect(await ask(4)).toBe(8)
  })
})
