import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { drawn, partOf, scrolledTo } from '../src/gradebook/window.js'

const SIZE = 34
const scene = fc.record({
  count: fc.integer({ min: 0, max: 400 }),
  seen: fc.integer({ min: 1, max: 900 }),
  more: fc.integer({ min: 0, max: 5 }),
})
const offsetIn = (count: number, seen: number, share: number) => Math.max(0, count * SIZE - seen) * share
const share = fc.double({ min: 0, max: 1, noNaN: true })

describe('what is drawn of a long list', () => {
  it('covers all that can be seen, and never goes beyond the list', () => {
    fc.assert(
      fc.property(scene, share, ({ count, seen, more }, where) => {
        const offset = offsetIn(count, seen, where)
        const { first, end } = partOf(offset, seen, SIZE, count, more)
        expect(first).toBeGreaterThanOrEqual(0)
        expect(end).toBeLessThanOrEqual(count)
        if (count === 0) return
        expect(first * SIZE).toBeLessThanOrEqual(offset)
        expect(end * SIZE).toBeGreaterThanOrEqual(Math.min(offset + seen, count * SIZE))
      }),
    )
  })

  it('is as long wherever one looks, so that what was drawn is drawn over', () => {
    fc.assert(
      fc.property(scene, share, share, ({ count, seen, more }, one, other) => {
        const lengths = [one, other]
          .map((where) => partOf(offsetIn(count, seen, where), seen, SIZE, count, more))
          .map(({ first, end }) => end - first)
        expect(lengths[0]).toBe(lengths[1])
      }),
    )
  })

  it('has a place of its own for each thing, and moves none while one scrolls', () => {
    const all = Array.from({ length: 100 }, (_, i) => `thing ${i}`)
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 80 }), fc.integer({ min: 0, max: 80 }), (first, rest) => {
        const now = drawn(all, { first, end: first + 20, rest }, SIZE)
        expect(now.map((one) => one.one).sort()).toEqual(all.slice(first, first + 20).sort())
        // The same places in the same order as at rest.
        expect(now.map((one) => one.place)).toEqual(
          drawn(all, { first: rest, end: rest + 20, rest }, SIZE).map((one) => one.place),
        )
        for (const { one, at, start } of now) expect([one, start]).toEqual([all[at], at * SIZE])
      }),
    )
  })

  it('stands in the list’s own order when scrolling has come to rest', () => {
    const all = Array.from({ length: 100 }, (_, i) => i)
    expect(drawn(all, { first: 33, end: 50, rest: 33 }, SIZE).map((one) => one.at)).toEqual(all.slice(33, 50))
  })

  it('is nothing of nothing', () => {
    expect(drawn([], { ...partOf(0, 500, SIZE, 0, 4), rest: 0 }, SIZE)).toEqual([])
  })
})

describe('scrolling to a thing', () => {
  it('goes as little as it takes to see it whole, and nowhere when it is seen', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 300 }), fc.integer({ min: 0, max: 9000 }), (index, offset) => {
        const to = scrolledTo(index, offset, 500, SIZE)
        expect(index * SIZE).toBeGreaterThanOrEqual(to)
        expect((index + 1) * SIZE).toBeLessThanOrEqual(to + 500)
        const wasSeen = index * SIZE >= offset && (index + 1) * SIZE <= offset + 500
        if (wasSeen) expect(to).toBe(offset)
      }),
    )
  })
})
