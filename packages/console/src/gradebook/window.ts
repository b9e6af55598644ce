import { useDebounceFn, useEventListener, useResizeObserver } from '@vueuse/core'
import { ref, watch, type Ref } from 'vue'

/** What of a long list of equal sizes is drawn: from `first` up to, without, `end`. */
export interface Part {
  first: number
  end: number
  /** What was first when scrolling last came to rest. */
  rest: number
}
/** One thing of such a part. */
export interface Drawn<T> {
  one: T
  at: number
  /** What came into sight is drawn into the place of what went out of it. */
  place: number
  /** Pixels from the beginning of the list. */
  start: number
}

/** Milliseconds without a scroll event after which scrolling has come to rest. */
const REST_MS = 150

/**
 * The part of `count` things of `size` pixels that can be seen `seen` pixels long from `offset` on, and `more` at either end. It is as long wherever one looks, so that what
 * was drawn can be drawn over.
 */
export function partOf(offset: number, seen: number, size: number, count: number, more: number): Omit<Part, 'rest'> {
  const length = Math.min(count, Math.ceil(seen / size) + 1 + 2 * more)
  const first = Math.min(count - length, Math.max(0, Math.floor(offset / size) - more))
  return { first, end: first + length }
}

/**
 * What is drawn of a list, in the order of the document. At rest that is the list's own order, as those need it who have it read out; while one scrolls nothing is made, thrown
 * away or moved, because each move has the browser work out styles anew.
 */
export function drawn<T>(all: readonly T[], { first, end, rest }: Part, size: number): Drawn<T>[] {
  const length = end - first
  const slot = (at: number) => (((at - rest) % length) + length) % length
  return all
    .slice(first, end)
    .map((one, i) => ({ one, at: first + i, place: (first + i) % length, start: (first + i) * size }))
    .sort((a, b) => slot(a.at) - slot(b.at))
}

/** Where to scroll so that thing `index` can be seen whole: as little as it takes. */
export function scrolledTo(index: number, offset: number, seen: number, size: number): number {
  const [from, to] = [index * size, (index + 1) * size]
  return Math.min(from, Math.max(offset, to - seen))
}

/**
 * Keeps, while a frame is scrolled, which rows and columns of a grid are drawn. Every row is as high and every column as wide as every other, so nothing has to be measured,
 * and the parts change only when another row or column comes into sight.
 * @returns `look`, too, for who scrolled by program and does not wait for the browser to say so
 */
export function useWindow(
  frame: Ref<HTMLElement | null>,
  grid: { row: number; column: number; rows: () => number; columns: () => number },
): { down: Ref<Part>; across: Ref<Part>; look: () => void } {
  const down = ref<Part>({ first: 0, end: 0, rest: 0 })
  const across = ref<Part>({ first: 0, end: 0, rest: 0 })
  const keep = (part: Ref<Part>, { first, end }: Omit<Part, 'rest'>, atRest: boolean) => {
    const rest = atRest ? first : part.value.rest
    if (part.value.first !== first || part.value.end !== end || part.value.rest !== rest)
      part.value = { first, end, rest }
  }
  const look = (atRest = true) => {
    const { scrollTop = 0, scrollLeft = 0, clientHeight = 600, clientWidth = 1100 } = frame.value ?? {}
    keep(down, partOf(scrollTop, clientHeight, grid.row, grid.rows(), 4), atRest)
    keep(across, partOf(scrollLeft, clientWidth, grid.column, grid.columns(), 1), atRest)
  }
  look()
  watch([grid.rows, grid.columns], () => look())
  const atRest = useDebounceFn(() => look(), REST_MS)
  const scrolled = () => {
    look(false)
    void atRest()
  }
  useEventListener(frame, 'scroll', scrolled, { passive: true })
  useResizeObserver(frame, () => look())
  return { down, across, look: () => look(false) }
}
