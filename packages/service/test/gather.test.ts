import { describe, expect, it } from 'vitest'
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
    const options = { most: 10, atOnce: 2, isHeldUp: (error: unknown) => error === HELD, heldBy: (item: string) => item[0], longestWaitMs: 300 } // prettier-ignore

    it('hold up no others: those are answered at once, and go without it from then on', async () => {
      const statements: string[][] = []
      const ask = gather(async (items: string[]) => {
        statements.push(items)
        await tick()
        if (items.some((item) => item.startsWith('x'))) throw HELD
        return items
      }, options)
      const refused = expect(ask('x1')).rejects.toBeInstanceOf(WaitedTooLong)
      const others = ['a1', 'b1', 'c1'].map(ask)
      expect(await Promise.all(others)).toEqual(['a1', 'b1', 'c1'])
      const later = [ask('x2').catch((error: unknown) => error), ask('d1'), ask('e1')] as const
      expect(await later[1]).toBe('d1')
      expect(await later[2]).toBe('e1')
      await refused
      expect(await later[0]).toBeInstanceOf(WaitedTooLong)
      // Only the first statement had the held one among others.
      const mixed = statements.filter((items) => items.length > 1 && items.some((item) => item.startsWith('x')))
      expect(mixed).toHaveLength(1)
    })

    it('are answered when it lets go in time', async () => {
      let isHeld = true
      const ask = gather(async (items: string[]) => (await tick(), isHeld ? Promise.reject(HELD) : items), options)
      const answer = ask('x1')
      setTimeout(() => (isHeld = false), 30)
      expect(await answer).toBe('x1')
    })

    it('are refused in time also where nothing comes back at all', async () => {
      const ask = gather(() => new Promise<string[]>(() => undefined), { ...options, most: 1, atOnce: 1 })
      void ask('a1')
      const started = performance.now()
      await expect(ask('b1')).rejects.toBeInstanceOf(WaitedTooLong)
      expect(performance.now() - started).toBeGreaterThanOrEqual(299)
    })

    it('keep the order of what belongs together, with several statements on their way', async () => {
      const order: string[] = []
      const ask = gather(async (items: string[]) => (await tick(), order.push(...items), items), { ...options, atOnce: 3, most: 2, keysOf: (item) => [item[0]!] }) // prettier-ignore
      await Promise.all(['a1', 'b1', 'a2', 'b2', 'c1', 'a3', 'c2'].map(ask))
      for (const key of ['a', 'b', 'c']) expect(order.filter((item) => item.startsWith(key))).toEqual(order.filter((item) => item.startsWith(key)).sort()) // prettier-ignore
    })
  })
})
