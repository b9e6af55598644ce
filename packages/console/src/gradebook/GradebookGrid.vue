<script setup lang="ts">
import type { Gradebook } from '@bathyscribe/contract'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref } from 'vue'
import { shortMoment } from '../state/moments'
import { cellOf, sending, SHORT, wordsOf, type Row } from './cells'

/** People by columns. Only what is in sight is drawn, so that hundreds of people by dozens of columns stay smooth. */
const { book, rows, course } = defineProps<{ book: Gradebook; rows: Row[]; course: string }>()
const sorting = defineModel<string>('sorting', { required: true })
const emit = defineEmits<{ cell: [column: string, person: string]; column: [id: string] }>()
const frame = ref<HTMLElement | null>(null)
const ROW = 34
const COLUMN = 164

const down = useVirtualizer(
  computed(() => ({ count: rows.length, getScrollElement: () => frame.value, estimateSize: () => ROW, overscan: 6 })),
)
const across = useVirtualizer(
  computed(() => ({
    count: book.columns.length,
    getScrollElement: () => frame.value,
    estimateSize: () => COLUMN,
    horizontal: true,
    overscan: 2,
    initialRect: { width: 1100, height: 600 },
  })),
)
/** The columns in sight, the same list as long as they are the same ones: scrolling down touches nothing across. */
const span = computed(() => {
  const items = across.value.getVirtualItems()
  return `${items[0]?.index ?? 0} ${items.at(-1)?.index ?? -1}`
})
const seen = computed(() => {
  const [first, last] = span.value.split(' ').map(Number)
  return book.columns
    .slice(first, last! + 1)
    .map((column, i) => ({ at: first! + i, start: (first! + i) * COLUMN, column }))
})
const lines = computed(() =>
  down.value.getVirtualItems().flatMap(({ index, start }) => {
    const row = rows[index]
    return row ? [{ index, start, row }] : []
  }),
)
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
async function move(event: KeyboardEvent) {
  const step = STEPS[event.key]
  const from = (event.target as HTMLElement).dataset
  if (!step || from['row'] === undefined) return
  event.preventDefault()
  const row = Math.min(rows.length - 1, Math.max(0, Number(from['row']) + step[0]))
  const column = Math.min(book.columns.length - 1, Math.max(0, Number(from['column']) + step[1]))
  down.value.scrollToIndex(row)
  across.value.scrollToIndex(column)
  for (let tries = 0; tries < 10; tries++) {
    await nextTick()
    const cell = frame.value?.querySelector<HTMLElement>(`[data-row="${row}"][data-column="${column}"]`)
    if (cell) return cell.focus({ preventScroll: true })
    await new Promise((resolve) => requestAnimationFrame(resolve))
  }
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
      <div class="book-name" role="columnheader">
        <button class="plain" type="button" @click="sorting = 'name'">Learner{{ sign('name') }}</button>
      </div>
      <div class="book-cells" :style="{ width: `${wide}px` }" role="presentation">
        <div
          v-for="one in seen"
          :key="one.column.id"
          class="book-column"
          role="columnheader"
          :style="{ left: `${one.start}px` }"
        >
          <div class="book-title">
            <RouterLink
              v-if="one.column.state !== 'column'"
              :to="`/courses/${course}/assignments/${one.column.id}`"
              :title="one.column.title"
              >{{ one.column.title }}</RouterLink><span v-else :title="one.column.title">{{ one.column.title }}</span>
          </div>
          <div class="head-note">
            <button
              class="plain"
              type="button"
              :aria-label="`Sort by ${one.column.title}`"
              @click="sortBy(one.column.id)"
            >
              of {{ one.column.points }}{{ sign(one.column.id) }}
            </button>
            · {{ one.column.state === 'column' ? 'made by ' : one.column.state === 'draft' ? 'draft, ' : ''
            }}{{ one.column.tool.name }}
          </div>
          <div class="head-note">
            <button
              class="plain"
              type="button"
              :class="`tone-${sending(one.column).tone}`"
              :aria-label="`About ${one.column.title}`"
              @click="emit('column', one.column.id)"
            >
              {{ sending(one.column).word }}</button><template v-if="one.column.lastScoreAt">
              · {{ shortMoment(one.column.lastScoreAt) }}</template
            >
          </div>
        </div>
      </div>
      <div class="book-total" role="columnheader">
        <button class="plain" type="button" @click="sortBy('total')">Total{{ sign('total') }}</button>
      </div>
    </div>
    <div
      :style="{ height: `${down.getTotalSize()}px`, width: `calc(15rem + 8rem + ${wide}px)` }"
      class="book-body"
      role="presentation"
    >
      <div
        v-for="line in lines"
        :key="line.row.person.id"
        v-memo="[line.row, line.start, seen]"
        class="book-line"
        role="row"
        :aria-rowindex="line.index + 2"
        :class="{ dropped: line.row.state === 'dropped' }"
        :style="{ transform: `translateY(${line.start}px)`, height: `${ROW}px` }"
      >
        <div class="book-name" role="rowheader" :title="line.row.person.fullName">
          <bdi>{{ line.row.person.fullName }}</bdi><span v-if="line.row.state === 'dropped'" class="quiet">
            · dropped</span
          >
        </div>
        <div class="book-cells" :style="{ width: `${wide}px` }" role="presentation">
          <div
            v-for="one in seen"
            :key="one.column.id"
            class="book-cell"
            role="gridcell"
            :style="{ left: `${one.start}px` }"
          >
            <button
              v-for="cell in [cellOf(line.row, one.column.id)]"
              :key="`${cell.state} ${one.column.id}`"
              type="button"
              class="cell"
              :class="`cell-${cell.state}`"
              :data-row="line.index"
              :data-column="one.at"
              :title="
                cell.points === null ? wordsOf(cell) : `${cell.points} exactly${wordsOf(cell) && '; '}${wordsOf(cell)}`
              "
              :aria-label="`${line.row.person.fullName}, ${one.column.title}: ${cell.shown ?? ''} ${wordsOf(cell)}`"
              @click="emit('cell', one.column.id, line.row.person.id)"
            >
              <span v-if="cell.shown !== null">{{ cell.shown }}</span>
              <span
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
        <div class="book-total" role="gridcell">
          <template v-if="line.row.shownTotal !== null"
            ><strong>{{ line.row.shownTotal }}</strong> <span class="quiet"> of {{ line.row.outOf }}</span></template
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
  top: 0;
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
