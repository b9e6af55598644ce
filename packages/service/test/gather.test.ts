import { describe, expect, it } from 'vitest'
import { gather } from '../src/records/statements/gather.js'

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
})
