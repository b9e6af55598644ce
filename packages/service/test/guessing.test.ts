import { startService, type RunningService } from '@bathyscribe/service'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { freePort } from '@bathyscribe/yard/machine/ports'
import { PASSWORD, startAcademy, type TestAcademy } from './harness.js'

/** Behind one proxy that passes on whatever address it is told, as a forger would wish. */
let academy: TestAcademy
let second: RunningService
let urls: string[]
beforeAll(async () => {
  academy = await startAcademy({ trustProxy: 1 })
  for (const name of ['niamh', 'aino']) await academy.person(name, { 'HYD-210': 'learner' })
  second = await startService({ ...academy.service.context.settings, port: await freePort() } as never, {
    clock: academy.clock,
  })
  urls = [academy.url, second.address]
})
afterAll(() => second.stop())

let sent = 0
const tryOnce = async (username: string, password: string, address: string): Promise<number> => {
  const response = await fetch(`${urls[sent++ % urls.length]}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', 'x-forwarded-for': address },
    body: JSON.stringify({ username, password }),
  })
  // Nothing was looked at, because too much was to be done at once: whoever guesses comes again.
  if (response.status === 503) return tryOnce(username, password, address)
  return response.status
}
/** Ways to write one and the same name. */
const spellings = (name: string) =>
  Array.from({ length: 60 }, (_, n) =>
    n < 32
      ? [...name].map((letter, i) => ((n >> i) & 1 ? letter.toUpperCase() : letter)).join('')
      : `${' '.repeat(n % 7)}${name}${' '.repeat(n % 11)}`,
  )
const counted = async (account: string) =>
  Number(
    (await academy.query<{ n: string }>(`select count(*) as n from password_miss where account = $1`, [account]))[0]!.n,
  )

describe('a thousand guesses at one account', () => {
  it('over two processes, in every spelling, from as many addresses: no more than thirty are looked at in an hour, and the person still comes in', async () => {
    expect(await tryOnce('niamh', PASSWORD, '192.0.2.1')).toBe(200)
    const names = spellings('niamh')
    const statuses: number[] = []
    for (let n = 0; n < 1000; n += 20) {
      // Spread over most of an hour, so that whoever waits patiently gets all that is to be had.
      academy.clock.offsetMs += 60_000
      statuses.push(
        ...(await Promise.all(
          Array.from({ length: 20 }, (_, i) =>
            tryOnce(names[(n + i) % 60]!, `guess ${n + i}`, `198.51.${(n + i) >> 8}.${(n + i) & 255}`),
          ),
        )),
      )
    }
    const checked = statuses.filter((status) => status === 401).length
    expect(checked).toBeGreaterThan(0)
    expect(checked).toBeLessThanOrEqual(30)
    expect(statuses.filter((status) => status !== 401 && status !== 429)).toEqual([])
    expect(await counted('niamh')).toBe(checked)
    // The very password is not looked at from a strange place now, but from her own it is.
    expect(await tryOnce('niamh', PASSWORD, '203.0.113.77')).toBe(429)
    expect(await tryOnce(' NIAMH ', PASSWORD, '192.0.2.1')).toBe(200)
    // An hour later strangers get their next tries, and she needs none of them.
    academy.clock.offsetMs += 3_601_000
    expect(await tryOnce('niamh', 'guess again', '203.0.113.78')).toBe(401)
  })

  it('from one address at many accounts: slowed down there, and nobody who has signed in from there before', async () => {
    expect(await tryOnce('aino', PASSWORD, '192.0.2.50')).toBe(200)
    const statuses: number[] = []
    for (let n = 0; n < 200; n += 20)
      statuses.push(
        ...(await Promise.all(
          Array.from({ length: 20 }, (_, i) => tryOnce(`sprayed-${n + i}`, 'password', '192.0.2.50')),
        )),
      )
    expect(statuses.filter((status) => status === 401).length).toBeLessThanOrEqual(120)
    expect(statuses.filter((status) => status === 429).length).toBeGreaterThan(50)
    expect(await tryOnce('aino', PASSWORD, '192.0.2.50')).toBe(200)
  })

  it('is believed no address that the caller wrote in front of the one the proxy saw', async () => {
    for (let n = 0; n < 4; n++) expect(await tryOnce('fixed', 'x', `10.0.0.${n}, 192.0.2.60`)).toBe(401)
    expect(await tryOnce('fixed', 'x', '10.0.0.99, 192.0.2.60')).toBe(429)
    const [row] = await academy.query<{ n: string }>(
      `select count(distinct address) as n from password_miss where account = 'fixed'`,
    )
    expect(row!.n).toBe('1')
  })
})
