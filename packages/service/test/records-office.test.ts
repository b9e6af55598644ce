import { createOffice, OFFICE_CLIENT, type OfficeState } from '@bathyscribe/practice-office'
import { unzipSync } from 'fflate'
import Papa from 'papaparse'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { eventually } from '../../../test/eventually.js'
import { codeOf } from './harness.js'
import { startScoring, type Scoring } from './scoring-13.js'

let at: Scoring
let office: string
let column: string
const course = { course: 'HYD-210' }
beforeAll(async () => {
  at = await startScoring()
  const app = await createOffice()
  office = await app.listen({ host: '127.0.0.1', port: 0 })
  afterAll(() => app.close())
  column = await at.make('Handed on')
})
const practice = async (change?: Partial<OfficeState>) =>
  (await (
    change
      ? await fetch(`${office}/practice`, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify(change),
        })
      : await fetch(`${office}/practice`)
  ).json()) as OfficeState
const view = () => at.tomas.client.call('showHandOn', { params: course })
const send = (body: object = {}) => at.tomas.client.call('handOn', { params: course, body })
const settle = async (done: (state: Awaited<ReturnType<typeof view>>) => boolean) => {
  return eventually(async () => {
    const now = await view()
    expect(done(now), JSON.stringify(now)).toBe(true)
    return now
  })
}
const none = (state: Awaited<ReturnType<typeof view>>) => state.columns.every((one) => one.waiting === 0)
const set = (more: object = {}) =>
  at.academy.admin.client.call('setRecordsOffice', {
    body: {
      url: office,
      tokenUrl: `${office}/token`,
      clientId: OFFICE_CLIENT.clientId,
      clientSecret: OFFICE_CLIENT.clientSecret,
      ...more,
    },
  })

describe('the records office', () => {
  it('is set by an administrator only, once it gives a token', async () => {
    expect(await codeOf(send())).toBe('office.none')
    expect(await codeOf(set({ clientSecret: 'wrong' }))).toBe('office.no_token')
    expect(await codeOf(set({ tokenUrl: 'http://10.0.0.1/token' }))).toMatch(/^outgoing\./)
    expect(await codeOf(at.tomas.client.call('showRecordsOffice', {}))).toBe('access.denied')
    const { office: kept } = await set()
    expect(JSON.stringify(kept)).not.toContain(OFFICE_CLIENT.clientSecret)
  })

  it('has exactly what the gradebook has, and is sent again only what changed', async () => {
    await at.score(column, 'aino', 30)
    await at.score(column, 'bo', 20)
    await at.tomas.client.call('gradeByHand', {
      params: { assignment: column, person: 'cyd' },
      body: { act: 'exempt' },
    })
    // Looked at first, nothing is on its way and nobody is said to have sent anything.
    expect(await send({ check: true })).toEqual({ queued: 3, unchanged: 0 })
    expect(none(await view())).toBe(true)
    const [last] = (await at.academy.admin.client.call('listAudit', { query: { limit: 1 } })).items
    expect(last!.action).not.toBe('hand results on')
    expect(await send()).toEqual({ queued: 3, unchanged: 0 })
    await settle(none)
    const { kept, puts } = await practice()
    const results = Object.values(kept.result).map((one) => [
      (one['student'] as { sourcedId: string }).sourcedId,
      one['scoreStatus'],
      one['score'],
    ])
    expect(results.sort()).toEqual([
      ['aino', 'fully graded', 30],
      ['bo', 'fully graded', 20],
      ['cyd', 'exempt', undefined],
    ])
    expect(kept.lineItem[column]).toMatchObject({
      title: 'Handed on',
      resultValueMax: 40,
      class: { sourcedId: 'HYD-210' },
    })
    expect(await send()).toEqual({ queued: 0, unchanged: 3 })
    await at.score(column, 'bo', 25)
    expect(await send({ check: true })).toEqual({ queued: 1, unchanged: 2 })
    expect(await send()).toEqual({ queued: 1, unchanged: 2 })
    await settle(none)
    expect((await practice()).puts).toBe(puts + 1)
  })

  it('that was away has the same as the gradebook afterwards, without anybody doing anything', async () => {
    await practice({ away: true })
    for (const [who, given] of [
      ['aino', 11],
      ['bo', 12],
    ] as const)
      await at.score(column, who, given)
    await send()
    const waiting = await settle((now) => now.trouble.length > 0)
    expect(waiting.trouble[0]).toMatchObject({ state: 'waiting', answer: expect.stringContaining('503') as string })
    await at.score(column, 'aino', 13)
    await send()
    await practice({ away: false })
    at.academy.clock.offsetMs += 20 * 60_000
    const after = await settle(none)
    expect(after.columns.find((one) => one.id === column)).toMatchObject({ accepted: 3, refused: 0, unsent: 0 })
    const { kept } = await practice()
    const there = Object.fromEntries(
      Object.values(kept.result).map((one) => [(one['student'] as { sourcedId: string }).sourcedId, one['score']]),
    )
    const book = await at.tomas.client.call('showGradebook', { params: course })
    for (const who of ['aino', 'bo'])
      expect(there[who], who).toBe(Number(book.rows.find((row) => row.person.username === who)!.cells[column]!.points))
  })

  it('says of each row what it refused; that is not tried again by itself', async () => {
    await practice({ refuses: ['bo'] })
    await at.score(column, 'bo', 5)
    await send()
    const now = await settle((one) => one.trouble.some((each) => each.state === 'refused'))
    expect(now.trouble).toMatchObject([
      { person: { username: 'bo' }, state: 'refused', answer: '422: The student bo is not known here.' },
    ])
    expect(await send()).toMatchObject({ queued: 0 })
    await practice({ refuses: [] })
    expect(await send({ check: true })).toMatchObject({ queued: 0 })
    expect(await send({ check: true, again: true })).toMatchObject({ queued: 1 })
    expect(await send({ again: true })).toMatchObject({ queued: 1 })
    expect((await settle(none)).trouble).toEqual([])
  })

  it('gets a column at once where that is wanted, and never what is held back', async () => {
    await at.tomas.client.call('setHandOn', { params: { assignment: column }, body: { mode: 'at_once' } })
    await at.score(column, 'aino', 39)
    const there = async () =>
      Object.values((await practice()).kept.result).find(
        (one) => (one['student'] as { sourcedId: string }).sourcedId === 'aino',
      )!['score']
    await eventually(async () => expect(await there()).toBe(39))
    await at.tomas.client.call('setHandOn', { params: { assignment: column }, body: { mode: 'never' } })
    await at.score(column, 'aino', 38)
    expect(await send({ check: true })).toMatchObject({ queued: 0 })
    expect(await send()).toMatchObject({ queued: 0 })
    expect(await codeOf(at.aino.client.call('showHandOn', { params: course }))).toBe('access.denied')
  })

  it('can be handed an archive of OneRoster CSV instead', async () => {
    const { zip, fileName } = await at.tomas.client.call('exportResults', { params: course })
    expect(fileName).toBe('results-hyd-210.zip')
    const files = unzipSync(Buffer.from(zip, 'base64'))
    expect(Object.keys(files).sort()).toEqual([
      'categories.csv',
      'lineItems.csv',
      'manifest.csv',
      'results.csv',
      'scoreScales.csv',
    ])
    const rows = Papa.parse<Record<string, string>>(new TextDecoder().decode(files['results.csv']), {
      header: true,
      skipEmptyLines: true,
    }).data
    expect(rows.find((row) => row['studentSourcedId'] === 'aino')).toMatchObject({
      score: '38',
      scoreStatus: 'fully graded',
      lineItemSourcedId: column,
    })
  })
})
