import { beforeAll, describe, expect, it } from 'vitest'
import { startService, type RunningService } from '@bathyscribe/service'
import { afterAll } from 'vitest'
import { expireStrangers } from '../src/records/expiry.js'
import { STRANGERS_A_MINUTE } from '../src/records/statements/strangers.js'
import { KEY, registerKnotwork, startAcademy, type TestAcademy } from './harness.js'

let academy: TestAcademy
let second: RunningService
beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  second = await startService({ ...academy.service.context.settings, port: 0 }, { clock: academy.clock })
})
afterAll(() => second.stop())

const ADDRESSES = [
  ['/lti/outcomes', { 'content-type': 'application/xml', authorization: 'OAuth x' }],
  ['/lti/token', { 'content-type': 'application/x-www-form-urlencoded' }],
  ['/lti/register', { 'content-type': 'application/json', authorization: 'Bearer guessed' }],
  ['/lti/courses/x/lineitems/y/scores', { 'content-type': 'application/json', authorization: 'Bearer a.b.c' }],
] as const
const BODY = 'x'.repeat(15_000)
async function call(base: string, n: number): Promise<number> {
  const [path, headers] = ADDRESSES[n % ADDRESSES.length]!
  const body =
    path === '/lti/outcomes' ? `<x>${BODY}</x>` : path === '/lti/token' ? `client_assertion=${BODY}` : `{"a":"${BODY}"}`
  return (await fetch(base + path, { method: 'POST', headers, body })).status
}
const kept = async () =>
  academy.query<{ bytes: number; statement: string }>(
    `select pg_column_size(request) + coalesce(pg_column_size(response), 0) as bytes, statement from wire_entry where registration_id is null order by id`,
  )

describe('what strangers send', () => {
  it('leaves a sample, whatever they send and however many processes hear it; each is answered', async () => {
    // One minute, whatever the machine’s clock does.
    academy.clock.offsetMs = Math.ceil(Date.now() / 60_000) * 60_000 - Date.now() + 1000
    const statuses: number[] = []
    for (let n = 0; n < 120; n += 4)
      statuses.push(...(await Promise.all([0, 1, 2, 3].map((i) => call(i % 2 ? academy.url : second.address, n + i)))))
    expect(statuses.every((one) => one >= 400 && one < 500)).toBe(true)
    const entries = await kept()
    expect(entries.length).toBeGreaterThan(0)
    expect(entries.length).toBeLessThanOrEqual(2 * STRANGERS_A_MINUTE)
    expect(Math.max(...entries.map((one) => one.bytes))).toBeLessThan(6000)
  }, 60_000)

  it('is counted, and said with the next that is kept', async () => {
    academy.clock.offsetMs += 120_000
    const before = (await kept()).length
    await call(academy.url, 0)
    const entries = await kept()
    expect(entries).toHaveLength(before + 1)
    expect(entries.at(-1)!.statement).toMatch(/\d+ more calls of strangers before it were refused and not kept/)
  })

  it('keeps nothing of a known tool’s from being kept, and is gone after a week', async () => {
    const count = async () =>
      Number(
        (
          await academy.query<{ n: string }>(`select count(*) as n from wire_entry where registration_id is not null`)
        )[0]!.n,
      )
    const header = `OAuth oauth_consumer_key="${KEY}", oauth_nonce="n", oauth_timestamp="1", oauth_signature="x", oauth_signature_method="HMAC-SHA1"`
    const before = await count()
    for (let n = 0; n < STRANGERS_A_MINUTE + 5; n++)
      await fetch(`${academy.url}/lti/outcomes`, { method: 'POST', headers: { 'content-type': 'application/xml', authorization: header }, body: '<x/>' }) // oxfmt-ignore
    expect((await count()) - before).toBe(STRANGERS_A_MINUTE + 5)
    const database = {
      query: async (sql: string, values: unknown[]) => [
        [],
        (await academy.query(`with gone as (${sql} returning 1) select * from gone`, values)).length,
      ],
    }
    const all = (await kept()).length
    expect(await expireStrangers(database as never, new Date(Date.now() - 7 * 86_400_000))).toBe(0)
    expect(await expireStrangers(database as never, new Date(Date.now() + 86_400_000))).toBe(all)
    expect((await count()) - before).toBe(STRANGERS_A_MINUTE + 5)
    academy.clock.offsetMs = 0
  }, 60_000)
})
