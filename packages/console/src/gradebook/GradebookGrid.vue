<script setup lang="ts">
import type { Gradebook } from '@bathyscribe/contract'
import { computed, nextTick, ref, watch } from 'vue'
import { shortMoment } from '../state/moments'
import { cellOf, sending, SHORT, wordsOf, type Row } from './cells'
import { drawn, scrolledTo, useWindow, type Part } from './window'

/** People by columns. Only what is in sight is drawn, so that hundreds of people by dozens of columns stay smooth. */
const { book, rows, course } = defineProps<{ book: Gradebook; rows: Row[]; course: string }>()
const sorting = defineModel<string>('sorting', { required: true })
const emit = defineEmits<{ cell: [column: string, person: string]; column: [id: string] }>()
const frame = ref<HTMLElement | null>(null)
const ROW = 34
const COLUMN = 164

const { down, across, look } = useWindow(frame, {
  row: ROW,
  column: COLUMN,
  rows: () => rows.length,
  columns: () => book.columns.length,
})
const seen = computed(() => drawn(book.columns, across.value, COLUMN))
const lines = computed(() => drawn(rows, down.value, ROW))
const isSeen = ({ first, end }: Part, at: number) => at >= first && at < end
// Who is in a cell stays in it though it is moved within the document, and leaves it when it goes out of sight: another will be drawn in its place.
watch([down, across], ([rowsSeen, columnsSeen]) => {
  const cell = document.activeElement as HTMLElement | null
  const { row, column } = cell?.dataset ?? {}
  if (row === undefined || column === undefined || !frame.value?.contains(cell)) return
  if (isSeen(rowsSeen, Number(row)) && isSeen(columnsSeen, Number(column)))
    void nextTick(() => document.activeElement === document.body && cellAt(row, column)?.focus({ preventScroll: true }))
  else cell!.blur()
})
const cellAt = (row: number | string, column: number | string) =>
  frame.value?.querySelector<HTMLElement>(`[data-row="${row}"][data-column="${column}"]`)
const wide = computed(() => book.columns.length * COLUMN)

const sortBy = (key: string) => (sorting.value = sorting.value === key ? 'name' : key)
const sign = (key: string) => (sorting.value === key ? ' ↓' : '')

const STEPS: Record<string, [number, number]> = {
  ArrowRight: [0, 1],
  ArrowLeft: [0, -1],
  ArrowDown: [1, 0],
  ArrowUp: [-1, 0],
  PageDown: [12, 0],
  PageUp: [-12, 0],
}
/** One listener for all cells. */
function choose(event: MouseEvent) {
  const { row, column } = (event.target as HTMLElement).closest<HTMLElement>('.cell')?.dataset ?? {}
  if (row === undefined || column === undefined) return
  emit('cell', book.columns[Number(column)]!.id, rows[Number(row)]!.person.id)
}
/** Scrolls to a cell, past the names and heads that stay. */
function bring(row: number, column: number) {
  const book = frame.value!
  const size = (part: string) => book.querySelector<HTMLElement>(part)!
  const [high, broad] = [size('.book-head').offsetHeight, size('.book-head .book-name').offsetWidth]
  book.scrollTop = scrolledTo(row, book.scrollTop, book.clientHeight - high, ROW)
  book.scrollLeft = scrolledTo(column, book.scrollLeft, book.clientWidth - broad, COLUMN)
}
async function move(event: KeyboardEvent) {
  const step = STEPS[event.key]
  const from = (event.target as HTMLElement).dataset
  if (!step || from['row'] === undefined) return
  event.preventDefault()
  const row = Math.min(rows.length - 1, Math.max(0, Number(from['row']) + step[0]))
  const column = Math.min(book.columns.length - 1, Math.max(0, Number(from['column']) + step[1]))
  bring(row, column)
  // At once, so that no key comes while nobody is in a cell.
  look()
  await nextTick()
  cellAt(row, column)?.focus({ preventScroll: true })
}
</script>

<template>
  <div
    ref="frame"
    class="book"
    role="grid"
    aria-label="Gradebook"
    :aria-rowcount="rows.length + 1"
    :aria-colcount="book.columns.length + 2"
    @keydown="move"
  >
    <div class="book-line book-head" role="row" :style="{ width: `calc(15rem + 8rem + ${wide}px)` }">
      <div class="book-name" role="columnheader" aria-colindex="1">
        <button class="plain" type="button" @click="sorting = 'name'">Learner{{ sign('name') }}</button>
      </div>
      <div class="book-cells" :style="{ width: `${wide}px` }" role="presentation">
        <div
          v-for="{ one: column, at, place, start } in seen"
          :key="place"
          class="book-column"
          role="columnheader"
          :aria-colindex="at + 2"
          :style="{ left: `${start}px` }"
        >
          <div class="book-title">
            <RouterLink
              v-if="column.state !== 'column'"
              :to="`/courses/${course}/assignments/${column.id}`"
              :title="column.title"
              >{{ column.title }}</RouterLink
            ><span v-else :title="column.title">{{ column.title }}</span>
          </div>
          <div class="head-note">
            <button class="plain" type="button" :aria-label="`Sort by ${column.title}`" @click="sortBy(column.id)">
              of {{ column.points }}{{ sign(column.id) }}
            </button>
            · {{ column.state === 'column' ? 'made by ' : column.state === 'draft' ? 'draft, ' : ''
            }}{{ column.tool.name }}
          </div>
          <div class="head-note">
            <button
              class="plain"
              type="button"
              :class="`tone-${sending(column).tone}`"
              :aria-label="`About ${column.title}`"
              @click="emit('column', column.id)"
            >
              {{ sending(column).word }}</button
            ><template v-if="column.lastScoreAt"> · {{ shortMoment(column.lastScoreAt) }}</template>
          </div>
        </div>
      </div>
      <div class="book-total" role="columnheader" :aria-colindex="book.columns.length + 2">
        <button class="plain" type="button" @click="sortBy('total')">Total{{ sign('total') }}</button>
      </div>
    </div>
    <div
      :style="{ height: `${rows.length * ROW}px`, width: `calc(15rem + 8rem + ${wide}px)` }"
      class="book-body"
      role="presentation"
      @click="choose"
    >
      <div
        v-for="{ one: row, at: index, place, start } in lines"
        :key="place"
        v-memo="[row, index, seen]"
        class="book-line"
        role="row"
        :aria-rowindex="index + 2"
        :class="{ dropped: row.state === 'dropped' }"
        :style="{ top: `${start}px`, height: `${ROW}px` }"
      >
        <div class="book-name" role="rowheader" aria-colindex="1" :title="row.person.fullName">
          <bdi>{{ row.person.fullName }}</bdi><span v-if="row.state === 'dropped'" class="quiet"> · dropped</span>
        </div>
        <div class="book-cells" :style="{ width: `${wide}px` }" role="presentation">
          <div
            v-for="{ one: column, at, place: slot, start: left } in seen"
            :key="slot"
            class="book-cell"
            role="gridcell"
            :aria-colindex="at + 2"
            :style="{ left: `${left}px` }"
          >
            <button
              v-for="(cell, only) in [cellOf(row, column.id)]"
              :key="only"
              type="button"
              class="cell"
              :class="`cell-${cell.state}`"
              :data-row="index"
              :data-column="at"
              :title="
                cell.points === null ? wordsOf(cell) : `${cell.points} exactly${wordsOf(cell) && '; '}${wordsOf(cell)}`
              "
              :aria-label="`${row.person.fullName}, ${column.title}: ${cell.shown ?? ''} ${wordsOf(cell)}`"
            >
              {{ cell.shown
              }}<span
                v-if="
                  cell.shown === null ||
                  cell.state === 'waiting' ||
                  cell.state === 'submitted' ||
                  cell.state === 'failed'
                "
                class="cell-word"
                >{{ SHORT[cell.state] }}</span
              >
              <span v-if="cell.overridden" class="cell-sign" aria-hidden="true">✎</span>
              <span v-if="cell.comment" class="cell-sign" aria-hidden="true">❝</span>
              <span v-if="cell.late" class="cell-sign cell-late" aria-hidden="true">late</span>
              <span v-if="cell.state === 'refused'" aria-hidden="true"> ✕</span>
            </button>
          </div>
        </div>
        <div class="book-total" role="gridcell" :aria-colindex="book.columns.length + 2">
          <template v-if="row.shownTotal !== null"
            ><strong>{{ row.shownTotal }}</strong> <span class="quiet"> of {{ row.outOf }}</span></template
          ><span v-else class="quiet">–</span>
        </div>
      </div>
    </div>
  </div>
</template>

<style>
.book {
  overflow: auto;
  height: calc(100vh - 16rem);
  min-height: 16rem;
  border: 1px solid var(--line);
  border-radius: 0.4rem;
  background: var(--card);
  contain: strict;
}
.book-line {
  display: flex;
  min-width: 100%;
  border-bottom: 1px solid var(--line);
  background: var(--card);
}
.book-body {
  position: relative;
}
.book-body .book-line {
  position: absolute;
  left: 0;
  width: 100%;
  align-items: stretch;
}
.book-head {
  position: sticky;
  top: 0;
  z-index: 3;
  height: 5.9rem;
}
.book-name {
  position: sticky;
  left: 0;
  z-index: 2;
  width: 15rem;
  flex: none;
  padding: 0.3rem 0.8rem;
  background: inherit;
  border-right: 1px solid var(--line);
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}
.book-cells {
  position: relative;
  flex: none;
}
.book-column,
.book-cell {
  position: absolute;
  top: 0;
  width: 164px;
}
.book-column {
  padding: 0.3rem 0.6rem;
}
.book-cell {
  padding: 0.15rem 0.3rem;
}
.head-note {
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}
.book-title {
  font-weight: 600;
  line-height: 1.25;
  height: 2.5em;
  overflow: hidden;
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
}
.head-note {
  font-size: 0.82rem;
  color: var(--quiet);
}
.book-total {
  width: 8rem;
  flex: none;
  padding: 0.3rem 0.8rem;
  text-align: right;
  white-space: nowrap;
  font-variant-numeric: tabular-nums;
  border-left: 1px solid var(--line);
}
.cell {
  border: 0;
  background: none;
  color: inherit;
  width: 100%;
  height: 1.75rem;
  text-align: right;
  border-radius: 0.25rem;
  padding: 0.1rem 0.3rem;
  font-variant-numeric: tabular-nums;
  white-space: nowrap;
  overflow: hidden;
}
.cell:hover {
  background: var(--sea-soft);
}
.cell-word,
.cell-sign {
  color: var(--quiet);
  font-size: 0.82rem;
  margin-left: 0.3rem;
}
.cell-waiting .cell-word,
.cell-late {
  color: var(--brass);
}
.cell-refused,
.cell-failed .cell-word {
  color: var(--brick);
}
.dropped {
  color: var(--quiet);
}
</style>
