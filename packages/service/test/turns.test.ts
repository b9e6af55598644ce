import { describe, expect, it } from 'vitest'
import { NoTurn, Turns } from '../src/workers/turns.js'

/** Work that ends when it is told to. */
function held() {
  const begun: string[] = []
  const ends = new Map<string, { resolve: () => void; reject: (error: Error) => void }>()
  const work = (name: string) => () => {
    begun.push(name)
    return new Promise<string>((resolve, reject) => ends.set(name, { resolve: () => resolve(name), reject }))
  }
  return { begun, ends, work }
}
const settled = () => new Promise((resolve) => setImmediate(resolve))

describe('turns', () => {
  it('are taken in the order of coming, so many at once, also after one that failed', async () => {
    const turns = new Turns(2, 10)
    const { begun, ends, work } = held()
    const all = ['a', 'b', 'c', 'd'].map((name) => turns.take(work(name)))
    await settled()
    expect(begun).toEqual(['a', 'b'])
    ends.get('b')!.resolve()
    expect(await all[1]).toBe('b')
    await settled()
    expect(begun).toEqual(['a', 'b', 'c'])
    ends.get('a')!.reject(new Error('broken'))
    await expect(all[0]).rejects.toThrow('broken')
    await settled()
    expect(begun).toEqual(['a', 'b', 'c', 'd'])
    for (const name of ['c', 'd']) ends.get(name)!.resolve()
    expect(await Promise.all(all.slice(2))).toEqual(['c', 'd'])
    // As many as at the beginning.
    const more = ['e', 'f', 'g'].map((name) => turns.take(work(name)))
    await settled()
    expect(begun.slice(4)).toEqual(['e', 'f'])
    for (const name of ['e', 'f']) ends.get(name)!.resolve()
    await Promise.all(more.slice(0, 2))
    await settled()
    ends.get('g')!.resolve()
    await more[2]
  })

  it('are refused when the row is full, and had again when it is not', async () => {
    const turns = new Turns(1, 1)
    const { ends, work } = held()
    const [a, b] = [turns.take(work('a')), turns.take(work('b'))]
    await expect(turns.take(work('c'))).rejects.toBeInstanceOf(NoTurn)
    ends.get('a')!.resolve()
    await a
    const d = turns.take(work('d'))
    ends.get('b')!.resolve()
    await b
    await settled()
    ends.get('d')!.resolve()
    expect(await d).toBe('d')
  })

  it('are given up by who leaves: the next one comes instead, and work that was begun is finished', async () => {
    const turns = new Turns(1, 10)
    const { begun, ends, work } = held()
    const gone = new AbortController()
    const [a, b, c] = [turns.take(work('a'), gone.signal), turns.take(work('b'), gone.signal), turns.take(work('c'))]
    gone.abort(new Error('left'))
    await expect(b).rejects.toThrow('left')
    ends.get('a')!.resolve()
    expect(await a).toBe('a')
    await settled()
    expect(begun).toEqual(['a', 'c'])
    ends.get('c')!.resolve()
    await c
    await expect(turns.take(work('d'), gone.signal)).rejects.toThrow('left')
    const e = turns.take(work('e'))
    await settled()
    ends.get('e')!.resolve()
    expect(await e).toBe('e')
    expect(begun).toEqual(['a', 'c', 'e'])
  })
})
