import { operations, type OperationName } from '@bathyscribe/contract'
import { QueryClient, QueryObserver } from '@tanstack/vue-query'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { followChanges, isLive } from '../src/state/live.js'

class Source extends EventTarget {
  static last: Source
  closed = false

  constructor(readonly address: string) {
    super()
    Source.last = this
  }

  close(): void {
    this.closed = true
  }

  tell(kind: string): void {
    const data = JSON.stringify({ kind, courseId: null, assignmentId: null, personId: null })
    this.dispatchEvent(new MessageEvent('change', { data }))
  }
}

let queries: QueryClient
let stop: () => void
const ends: (() => void)[] = []
beforeEach(() => {
  vi.useFakeTimers()
  vi.stubGlobal('EventSource', Source)
  queries = new QueryClient()
  stop = followChanges(queries)
})
afterEach(() => {
  for (const end of ends.splice(0)) end()
  stop()
  queries.clear()
  isLive.value = true
  vi.unstubAllGlobals()
  vi.useRealTimers()
})

/** Shows a call's answer as a page does. @returns how often it was read */
async function show(name: string): Promise<() => number> {
  let reads = 0
  const observer = new QueryObserver(queries, { queryKey: [name, {}], queryFn: () => Promise.resolve(++reads) })
  ends.push(observer.subscribe(() => undefined))
  await vi.advanceTimersByTimeAsync(1)
  return () => reads
}
const soon = () => vi.advanceTimersByTimeAsync(200)

describe('what is on the page', () => {
  it('is read again when something changes that touches it, and nothing else is', async () => {
    const [gradebook, tools] = [await show('showGradebook'), await show('listTools')]
    Source.last.tell('score')
    await soon()
    expect([gradebook(), tools()]).toEqual([2, 1])
    Source.last.tell('tool')
    await soon()
    expect([gradebook(), tools()]).toEqual([2, 2])
  })

  it('is read again for what touches it, and for nothing else, though it was asked for before anybody listened', async () => {
    stop()
    const [gradebook, tools] = [await show('showGradebook'), await show('listTools')]
    stop = followChanges(queries)
    Source.last.tell('score')
    await soon()
    expect([gradebook(), tools()]).toEqual([2, 1])
  })

  it('is read once for changes that come together', async () => {
    const gradebook = await show('showGradebook')
    for (let i = 0; i < 50; i++) Source.last.tell('score')
    await soon()
    expect(gradebook()).toBe(2)
  })

  it('is not read twice for an act of one’s own: what was asked for after the change knows of it', async () => {
    const gradebook = await show('showGradebook')
    Source.last.tell('score')
    await vi.advanceTimersByTimeAsync(10)
    await queries.invalidateQueries()
    expect(gradebook()).toBe(2)
    await soon()
    expect(gradebook()).toBe(2)
  })

  it('is read again all the same when the change came after it was asked for', async () => {
    const gradebook = await show('showGradebook')
    await queries.invalidateQueries()
    await vi.advanceTimersByTimeAsync(10)
    Source.last.tell('score')
    await soon()
    expect(gradebook()).toBe(3)
  })

  it('is read anew when the service is heard again, and says so meanwhile', async () => {
    const tools = await show('listTools')
    Source.last.dispatchEvent(new Event('error'))
    expect(isLive.value).toBe(false)
    Source.last.dispatchEvent(new Event('open'))
    await soon()
    expect(isLive.value).toBe(true)
    expect(tools()).toBe(2)
  })

  it('is left alone after one has signed out', async () => {
    const gradebook = await show('showGradebook')
    Source.last.tell('score')
    stop()
    await soon()
    expect(Source.last.closed).toBe(true)
    expect(gradebook()).toBe(1)
  })
})

describe('every answer that a page keeps on show', () => {
  /** What only changes by what its reader does, or never. */
  const STAYS: OperationName[] = [
    'compareSoundings', // two that have ended
    'listCauseCodes', // of this release
    'listSessions', // one's own
    'listTokens',
    'showConnectionRequest', // asked once
    'showMailDigest', // one's own
    'showWireDifference', // two entries that stay
  ]
  const sources = (folder: string): string[] =>
    readdirSync(folder, { recursive: true, encoding: 'utf8' })
      .filter((name) => /\.(vue|ts)$/.test(name))
      .map((name) => readFileSync(join(folder, name), 'utf8'))
  const shown = [
    ...new Set(
      sources(join(import.meta.dirname, '../src')).flatMap((text) =>
        [...text.matchAll(/useCall\(\s*'(\w+)'/g)].map(([, name]) => name as OperationName),
      ),
    ),
  ].sort()

  it('is more than a few', () => expect(shown.length).toBeGreaterThan(40))

  it.each(shown)('%s says by which changes it is touched', (name) => {
    if (STAYS.includes(name)) return
    expect(operations[name].touchedBy.length).toBeGreaterThan(0)
  })

  it('leaves out nothing that says so itself', () => {
    expect(STAYS.filter((name) => operations[name].touchedBy.length > 0)).toEqual([])
    expect(STAYS.filter((name) => !shown.includes(name))).toEqual([])
  })
})
