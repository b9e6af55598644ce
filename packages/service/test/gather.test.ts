import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { gather, WaitedTooLong } from '../src/records/statements/gather.js'

const tick = () => new Promise((resolve) => setTimeout(resolve, 2))

describe('gathered statements', () => {
  it('answer each question by its own answer, in few statements', async () => {
    const sizes: number[] = []
    const ask = gather(async (items: number[]) => (sizes.push(items.length), await tick(), items.map((n) => n * 2)), {
      most: 10,
      atOnce: 1,
    })
    expect(await Promise.all(Array.from({ length: 25 }, (_, n) => ask(n)))).toEqual(
      Array.from({ length: 25 }, (_, n) => n * 2),
    )
    expect(sizes).toEqual([10, 10, 5])
  })

  it('never put two questions with one key into one statement, and keep their order', async () => {
    const statements: string[][] = []
    const ask = gather(async (items: string[]) => (statements.push(items), await tick(), items), {
      most: 10,
      atOnce: 1,
      keysOf: (item) => [item[0]!],
    })
    await Promise.all(['a1', 'b1', 'a2', 'a3', 'b2'].map(ask))
    expect(statements).toEqual([['a1', 'b1'], ['a2', 'b2'], ['a3']])
  })

  it('ask each again by itself when one bad question spoils the statement', async () => {
    const ask = gather(
      async (items: number[]) => {
        if (items.includes(3)) throw new Error('bad row')
        return items
      },
      { most: 10, atOnce: 2, splitOn: () => true },
    )
    const answers = await Promise.allSettled([1, 2, 3, 4].map(ask))
    expect(answers.map((one) => one.status)).toEqual(['fulfilled', 'fulfilled', 'rejected', 'fulfilled'])
  })

  it('pass on an error that no single question caused, and go on afterwards', async () => {
    let down = true
    const ask = gather(async (items: number[]) => (down ? Promise.reject(new Error('down')) : items), {
      most: 10,
      atOnce: 2,
      splitOn: () => false,
    })
    expect((await Promise.allSettled([1, 2].map(ask))).every((one) => one.status === 'rejected')).toBe(true)
    down = false
    expect(await ask(7)).toBe(7)
  })

  describe('that something holds up', () => {
    const HELD = new Error('held')
    const options = { most: 10, atOnce: 2, isHeldUp: (error: unknown) => error === HELD, heldBy: (item: string) => item[0], longestWaitMs: 300 } // oxfmt-ignore

    // By a clock of its own: what is held up for a while is held up just as long on a busy machine.
    beforeEach(() => void vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'setImmediate', 'performance'] }))
    afterEach(() => void vi.useRealTimers())
    const pass = (ms: number) => vi.advanceTimersByTimeAsync(ms)

    it('hold up no others: those are answered at once, and go without it from then on', async () => {
      const statements: string[][] = []
      const ask = gather(async (items: string[]) => {
        statements.push(items)
        await tick()
        if (items.some((item) => item.startsWith('x'))) throw HELD
        return items
      }, options)
      const first = Promise.allSettled(['x1'].map(ask))
      const others = Promise.all(['a1', 'b1', 'c1'].map(ask))
      await pass(30)
      expect(await others).toEqual(['a1', 'b1', 'c1'])
      const second = Promise.allSettled(['x2'].map(ask))
      const later = Promise.all(['d1', 'e1'].map(ask))
      await pass(30)
      expect(await later).toEqual(['d1', 'e1'])
      await pass(1000)
      for (const [held] of [await first, await second])
        expect(held).toMatchObject({ status: 'rejected', reason: expect.any(WaitedTooLong) as WaitedTooLong })
      // Only the first statement had the held one among others.
      const mixed = statements.filter((items) => items.length > 1 && items.some((item) => item.startsWith('x')))
      expect(mixed).toHaveLength(1)
    })

    it('take no place from others, however many are held up at once', async () => {
      const ask = gather(
        async (items: string[]) => {
          await tick()
          if (items.some((item) => item.startsWith('x'))) throw HELD
          return items
        },
        { ...options, heldBy: (item) => item },
      )
      const held = Promise.allSettled(['x1', 'x2', 'x3', 'x4'].map(ask))
      await pass(10)
      const others = Promise.all(['a1', 'b1'].map(ask))
      let answers: string[] = []
      void others.then((all) => (answers = all))
      await pass(20)
      expect(answers).toEqual(['a1', 'b1'])
      await pass(1000)
      expect((await held).map((one) => one.status)).toEqual(Array(4).fill('rejected'))
    })

    it('are answered when it lets go in time', async () => {
      let isHeld = true
      const ask = gather(async (items: string[]) => (await tick(), isHeld ? Promise.reject(HELD) : items), options)
      const answer = ask('x1')
      await pass(30)
      isHeld = false
      await pass(30)
      expect(await answer).toBe('x1')
    })

    it('are refused in time also where nothing comes back at all', async () => {
      const ask = gather(() => new Promise<string[]>(() => undefined), { ...options, most: 1, atOnce: 1 })
      void ask('a1')
      let told: unknown
      void ask('b1').catch((error: unknown) => (told = error))
      await pass(299)
      expect(told).toBeUndefined()
      await pass(50)
      expect(told).toBeInstanceOf(WaitedTooLong)
    })

    it('keep the order of what belongs together, with several statements on their way', async () => {
      const order: string[] = []
      const ask = gather(async (items: string[]) => (await tick(), order.push(...items), items), { ...options, atOnce: 3, most: 2, keysOf: (item) => [item[0]!] }) // oxfmt-ignore
      const all = Promise.all(['a1', 'b1', 'a2', 'b2', 'c1', 'a3', 'c2'].map(ask))
      await pass(100)
      await all
      for (const key of ['a', 'b', 'c']) expect(order.filter((item) => item.startsWith(key))).toEqual(order.filter((item) => item.startsWith(key)).sort()) // oxfmt-ignore
    })
  })
})
