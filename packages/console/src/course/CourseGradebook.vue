<script setup lang="ts">
import type { Cell, Course, Gradebook } from '@bathyscribe/contract'
import { BOffcanvas } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import { useCall } from '../state/api'
import TrailPanel from './TrailPanel.vue'

const { course } = defineProps<{ course: Course }>()
const withTestLearner = ref(false)
const search = ref('')
const filter = ref<'all' | 'never_opened' | 'opened' | 'graded' | 'refused'>('all')
const byTotal = ref(false)
const { data: book, error } = useCall(
  'showGradebook',
  computed(() => ({
    params: { course: course.id },
    query: { testLearner: withTestLearner.value ? ('true' as const) : ('false' as const) },
  })),
)

type Row = Gradebook['rows'][number]
const cellOf = (row: Row, assignment: string): Cell =>
  row.cells[assignment] ?? { state: 'never_opened', points: null, shown: null, sent: null, at: null }
const rows = computed(() => {
  const wanted = search.value.trim().toLocaleLowerCase()
  const found = (book.value?.rows ?? []).filter(
    (row) =>
      row.person.fullName.toLocaleLowerCase().includes(wanted) &&
      (filter.value === 'all' || book.value!.columns.some((column) => cellOf(row, column.id).state === filter.value)),
  )
  return byTotal.value ? [...found].sort((a, b) => Number(b.total) - Number(a.total)) : found
})
const open = ref<{ assignment: string; person: string }>()
const isOpen = computed({ get: () => open.value !== undefined, set: (value) => value || (open.value = undefined) })
const WORDS: Record<Cell['state'], string> = {
  never_opened: 'never opened',
  opened: 'opened, no score',
  graded: '',
  cleared: 'cleared',
  refused: 'score refused',
}

function move(event: KeyboardEvent) {
  const cell = (event.target as HTMLElement).closest('td')
  const row = cell?.parentElement as HTMLTableRowElement | null
  if (!cell || !row) return
  const column = cell.cellIndex
  const to = {
    ArrowRight: row.cells[column + 1],
    ArrowLeft: row.cells[column - 1],
    ArrowDown: (row.nextElementSibling as HTMLTableRowElement | null)?.cells[column],
    ArrowUp: (row.previousElementSibling as HTMLTableRowElement | null)?.cells[column],
  }[event.key]
  const button = to?.querySelector('button')
  if (!button) return
  event.preventDefault()
  button.focus()
}

function download() {
  const quote = (text: string) => `"${(/^[=+\-@\t\r]/.test(text) ? `'${text}` : text).replaceAll('"', '""')}"`
  const lines = [
    [
      'Name',
      'User name',
      ...book.value!.columns.map((column) => `${column.title} (${column.points})`),
      `Total (${book.value!.outOf})`,
    ],
    ...rows.value.map((row) => [
      row.person.fullName,
      row.person.username,
      ...book.value!.columns.map((column) => cellOf(row, column.id).points ?? ''),
      row.total,
    ]),
  ]
  const link = document.createElement('a')
  link.href = URL.createObjectURL(
    new Blob(['\ufeff', lines.map((line) => line.map(quote).join(',')).join('\r\n')], { type: 'text/csv' }),
  )
  link.download = `gradebook-${course.code.replaceAll(' ', '-')}.csv`
  link.click()
  URL.revokeObjectURL(link.href)
}
</script>

<template>
  <ErrorNote :error="error" />
  <template v-if="book">
    <div class="d-flex gap-2 flex-wrap mb-3 align-items-center">
      <input
        v-model="search"
        class="form-control form-control-sm w-auto"
        type="search"
        placeholder="Name"
        aria-label="Find a learner"
      />
      <select v-model="filter" class="form-select form-select-sm w-auto" aria-label="Show learners with">
        <option value="all">all learners</option>
        <option value="graded">with a score</option>
        <option value="opened">opened, no score</option>
        <option value="never_opened">never opened</option>
        <option value="refused">score refused</option>
      </select>
      <label class="form-check mb-0"
        ><input v-model="withTestLearner" class="form-check-input" type="checkbox" /> with the test learner</label
      >
      <button
        class="btn btn-sm btn-outline-primary ms-auto"
        type="button"
        :disabled="rows.length === 0"
        @click="download"
      >
        Export CSV
      </button>
    </div>
    <p v-if="book.columns.length === 0" class="panel">There are no assignments yet, so there is nothing to grade.</p>
    <p v-else-if="rows.length === 0" class="panel">
      No learner fits. <button class="plain" type="button" @click="((search = ''), (filter = 'all'))">Show all</button>
    </p>
    <div v-else class="book" tabindex="0" role="region" aria-label="Gradebook" @keydown="move">
      <table>
        <thead>
          <tr>
            <th scope="col">
              <button class="plain" type="button" @click="byTotal = false">Learner{{ byTotal ? '' : ' ↓' }}</button>
            </th>
            <th v-for="column in book.columns" :key="column.id" scope="col">
              <RouterLink :to="`/courses/${course.id}/assignments/${column.id}`">{{ column.title }}</RouterLink>
              <div class="head-note">
                of {{ column.points }} · {{ column.state === 'draft' ? 'draft' : column.tool.name }}
              </div>
              <div class="head-note">
                {{ column.scored }} scored<template v-if="column.lastScoreAt"
                  >, last <MomentText :at="column.lastScoreAt"
                /></template>
              </div>
            </th>
            <th scope="col" class="number">
              <button class="plain" type="button" @click="byTotal = true">Total{{ byTotal ? ' ↓' : '' }}</button>
              <div class="head-note">of {{ book.outOf }}</div>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.person.id" :class="{ dropped: row.state === 'dropped' }">
            <th scope="row">
              <bdi>{{ row.person.fullName }}</bdi><span v-if="row.state === 'dropped'" class="quiet"> · dropped</span>
            </th>
            <td v-for="column in book.columns" :key="column.id" class="number">
              <button
                type="button"
                class="cell"
                :class="`cell-${cellOf(row, column.id).state}`"
                :title="
                  WORDS[cellOf(row, column.id).state] ||
                  `${cellOf(row, column.id).points} exactly; ${cellOf(row, column.id).sent} of 1 was sent`
                "
                :aria-label="`${row.person.fullName}, ${column.title}: ${cellOf(row, column.id).shown ?? ''} ${WORDS[cellOf(row, column.id).state]}`"
                @click="open = { assignment: column.id, person: row.person.id }"
              >
                <template v-if="cellOf(row, column.id).state === 'graded'">{{ cellOf(row, column.id).shown }}</template>
                <template v-else-if="cellOf(row, column.id).state === 'refused'"
                  >{{ cellOf(row, column.id).shown }} ✕</template
                >
                <template v-else-if="cellOf(row, column.id).state === 'opened'">opened</template>
                <template v-else-if="cellOf(row, column.id).state === 'cleared'">–</template>
                <template v-else>·</template>
              </button>
            </td>
            <td class="number total">{{ row.shownTotal }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <BOffcanvas v-model="isOpen" placement="end" title="Trail" class="trail-canvas"
      ><TrailPanel v-if="open" :assignment="open.assignment" :person="open.person"
    /></BOffcanvas>
  </template>
</template>

<style>
.book {
  overflow: auto;
  max-height: calc(100vh - 15rem);
  border: 1px solid var(--line);
  border-radius: 0.4rem;
  background: var(--card);
}
.book table {
  border-collapse: separate;
  border-spacing: 0;
  min-width: 100%;
}
.book th,
.book td {
  border-bottom: 1px solid var(--line);
  padding: 0.3rem 0.7rem;
  background: var(--card);
}
.book thead th {
  position: sticky;
  top: 0;
  z-index: 2;
  vertical-align: top;
  min-width: 9rem;
  font-weight: 600;
}
.book tbody th,
.book thead th:first-child {
  position: sticky;
  left: 0;
  z-index: 1;
  font-weight: 400;
  min-width: 15rem;
  max-width: 22rem;
  border-right: 1px solid var(--line);
}
.book thead th:first-child {
  z-index: 3;
}
.head-note {
  font-weight: 400;
  font-size: 0.82rem;
  color: var(--quiet);
}
.book .number {
  text-align: right;
  font-variant-numeric: tabular-nums;
}
.book .total {
  font-weight: 600;
}
.cell {
  border: 0;
  background: none;
  color: inherit;
  width: 100%;
  text-align: right;
  border-radius: 0.25rem;
  padding: 0.1rem 0.3rem;
}
.cell:hover {
  background: var(--sea-soft);
}
.cell-never_opened,
.cell-opened,
.cell-cleared {
  color: var(--quiet);
}
.cell-refused {
  color: var(--brick);
}
.trail-canvas {
  --bs-offcanvas-width: min(34rem, 95vw);
  --bs-offcanvas-bg: var(--card);
}
</style>
