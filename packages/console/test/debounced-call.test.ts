import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref, type EffectScope } from 'vue'
import { useDebouncedCall } from '../src/state/debounced-call.js'

const WAIT_MS = 200
let scope: EffectScope
beforeEach(() => {
  vi.useFakeTimers()
  scope = effectScope()
})
afterEach(() => {
  scope.stop()
  vi.useRealTimers()
})

/** A question whose answer comes when the test says so. */
function later() {
  const waiting: { asked: string; answer: (value: string) => void; fail: (reason: Error) => void }[] = []
  return {
    waiting,
    ask: (asked: string) =>
      new Promise<string>((answer, fail) => {
        waiting.push({ asked, answer, fail })
      }),
  }
}

/** A field, and what is asked by what stands in it. */
function setUp({ at = '', ...options }: { at?: string; keeps?: boolean; immediate?: boolean } = {}) {
  const text = ref(at)
  const { waiting, ask } = later()
  const call = scope.run(() =>
    useDebouncedCall({
      on: text,
      waitMs: WAIT_MS,
      isEmpty: () => text.value === '',
      ask: () => ask(text.value),
      ...options,
    }),
  )!
  const type = async (value: string) => {
    text.value = value
    await nextTick()
  }
  return { ...call, text, waiting, type, ask }
}

describe('a question that follows what is typed', () => {
  it('waits until nothing has changed for a while, and is asked once', async () => {
    const { type, waiting } = setUp()
    for (const text of ['k', 'kn', 'kno', 'knot']) {
      await type(text)
      await vi.advanceTimersByTimeAsync(WAIT_MS - 1)
    }
    expect(waiting).toHaveLength(0)
    await vi.advanceTimersByTimeAsync(1)
    expect(waiting.map((one) => one.asked)).toEqual(['knot'])
  })

  it('is asked when the page opens only if it is told so', async () => {
    const quiet = setUp({ at: 'x' })
    const eager = setUp({ at: 'x', immediate: true })
    const empty = setUp({ immediate: true })
    await vi.advanceTimersByTimeAsync(WAIT_MS)
    expect(quiet.waiting).toHaveLength(0)
    expect(eager.waiting).toHaveLength(1)
    expect(empty.waiting).toHaveLength(0)
    await empty.type('y')
    await vi.advanceTimersByTimeAsync(WAIT_MS)
    expect(empty.waiting).toHaveLength(1)
  })

  it('takes the answer to the newest question, whichever comes first', async () => {
    const { type, waiting, answer } = setUp()
    await type('old')
    await vi.advanceTimersByTimeAsync(WAIT_MS)
    await type('new')
    await vi.advanceTimersByTimeAsync(WAIT_MS)
    waiting[1]!.answer('to the new')
    await nextTick()
    expect(answer.value).toBe('to the new')
    waiting[0]!.answer('to the old')
    await vi.advanceTimersByTimeAsync(0)
    expect(answer.value).toBe('to the new')
  })

  it('drops an answer to what has been changed since, though nothing newer was asked yet', async () => {
    const { type, waiting, answer } = setUp()
    await type('old')
    await vi.advanceTimersByTimeAsync(WAIT_MS)
    await type('older than this')
    waiting[0]!.answer('late')
    await vi.advanceTimersByTimeAsync(0)
    expect(answer.value).toBeUndefined()
  })

  it('drops a late failure as it drops a late answer', async () => {
    const { type, waiting, answer, error } = setUp()
    await type('old')
    await vi.advanceTimersByTimeAsync(WAIT_MS)
    await type('new')
    await vi.advanceTimersByTimeAsync(WAIT_MS)
    waiting[1]!.answer('good')
    waiting[0]!.fail(new Error('late'))
    await vi.advanceTimersByTimeAsync(0)
    expect(answer.value).toBe('good')
    expect(error.value).toBeUndefined()
  })

  it('says that it is busy for as long as somebody waits for it', async () => {
    const { type, waiting, busy } = setUp()
    await type('x')
    expect(busy.value).toBe(false)
    await vi.advanceTimersByTimeAsync(WAIT_MS)
    expect(busy.value).toBe(true)
    waiting[0]!.answer('y')
    await vi.advanceTimersByTimeAsync(0)
    expect(busy.value).toBe(false)
    await type('z')
    await vi.advanceTimersByTimeAsync(WAIT_MS)
    await type('za')
    expect(busy.value).toBe(false)
  })

  it('forgets at once what was answered when nothing is asked any more', async () => {
    const { type, waiting, answer, error } = setUp()
    await type('x')
    await vi.advanceTimersByTimeAsync(WAIT_MS)
    waiting[0]!.answer('y')
    await vi.advanceTimersByTimeAsync(0)
    await type('')
    expect([answer.value, error.value]).toEqual([undefined, undefined])
    await vi.advanceTimersByTimeAsync(WAIT_MS)
    expect([answer.value, error.value]).toEqual([undefined, undefined])
    expect(waiting).toHaveLength(1)
  })

  it.each([
    { keeps: false, left: undefined },
    { keeps: true, left: 'first' },
  ])('after a failure has what stood there before, if it keeps it: $keeps', async ({ keeps, left }) => {
    const { type, waiting, answer, error } = setUp({ keeps })
    await type('a')
    await vi.advanceTimersByTimeAsync(WAIT_MS)
    waiting[0]!.answer('first')
    await vi.advanceTimersByTimeAsync(0)
    await type('b')
    await vi.advanceTimersByTimeAsync(WAIT_MS)
    waiting[1]!.fail(new Error('no'))
    await vi.advanceTimersByTimeAsync(0)
    expect(answer.value).toBe(left)
    expect((error.value as Error).message).toBe('no')
    await type('c')
    await vi.advanceTimersByTimeAsync(WAIT_MS)
    waiting[2]!.answer('third')
    await vi.advanceTimersByTimeAsync(0)
    expect([answer.value, error.value]).toEqual(['third', undefined])
  })

  it('asks something else at once, and does not ask what was to be asked', async () => {
    const { type, waiting, now, ask, answer } = setUp()
    await type('typed')
    const done = now(() => ask('pressed'))
    await vi.advanceTimersByTimeAsync(2 * WAIT_MS)
    expect(waiting.map((one) => one.asked)).toEqual(['pressed'])
    waiting[0]!.answer('done')
    await done
    expect(answer.value).toBe('done')
  })

  it('asks nothing after the page was left, and takes nothing that comes then', async () => {
    const { type, waiting, answer } = setUp()
    await type('a')
    await vi.advanceTimersByTimeAsync(WAIT_MS)
    await type('b')
    scope.stop()
    await vi.advanceTimersByTimeAsync(2 * WAIT_MS)
    expect(waiting).toHaveLength(1)
    waiting[0]!.answer('late')
    await vi.advanceTimersByTimeAsync(0)
    expect(answer.value).toBeUndefined()
  })
})
