<script setup lang="ts">
import { gradebookCsv, type Course } from '@bathyscribe/contract'
import { BOffcanvas } from 'bootstrap-vue-next'
import { computed, ref, watch } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useCall } from '../state/api'
import { saveTable } from '../state/save-file'
import { cellOf, FILTERS, fits, type Filter } from './cells'
import ColumnPanel from './ColumnPanel.vue'
import GradebookGrid from './GradebookGrid.vue'
import GradebookHistory from './GradebookHistory.vue'
import HandOn from './HandOn.vue'
import GradebookSettings from './GradebookSettings.vue'
import TrailPanel from './TrailPanel.vue'
import TwinNotes from './TwinNotes.vue'

/** The gradebook: people by columns, its history, and how points are shown and totalled. */
const { course, canChange } = defineProps<{ course: Course; canChange: boolean }>()
const withTestLearner = ref(false)
const search = ref('')
const filter = ref<Filter>('all')
const sorting = ref('name')
const view = ref<'grid' | 'history' | 'office' | 'settings'>('grid')
/** Learners that are read before all are, so that a large course has something to show at once. */
const AT_ONCE = 40
const question = (first?: number) => ({
  params: { course: course.id },
  query: { testLearner: withTestLearner.value ? ('true' as const) : ('false' as const), ...(first && { first }) },
})
const step = ref<'beginning' | 'whole'>(course.learners > AT_ONCE ? 'beginning' : 'whole')
const { data: beginning, error: failed } = useCall(
  'showGradebook',
  computed(() => (step.value === 'beginning' ? question(AT_ONCE) : undefined)),
)
const { data: whole, error } = useCall(
  'showGradebook',
  computed(() => (step.value === 'whole' ? question() : undefined)),
)
watch([beginning, failed], () => (step.value = 'whole'))
const book = computed(() => whole.value ?? beginning.value)
const isWhole = computed(() => whole.value !== undefined || book.value?.rows.length === book.value?.learners)

const rows = computed(() => {
  const wanted = search.value.trim().toLocaleLowerCase()
  const found = (book.value?.rows ?? []).filter(
    (row) =>
      (row.person.fullName.toLocaleLowerCase().includes(wanted) || row.person.username.includes(wanted)) &&
      fits(row, book.value!.columns, filter.value),
  )
  if (sorting.value === 'name') return found
  const worth = (row: (typeof found)[number]) =>
    Number((sorting.value === 'total' ? row.total : cellOf(row, sorting.value).points) ?? -1)
  return [...found].sort((a, b) => worth(b) - worth(a))
})
const open = ref<{ kind: 'cell'; column: string; person: string } | { kind: 'column'; column: string }>()
const isToolsOwn = (id: string) => book.value?.columns.find((one) => one.id === id)?.state === 'column'
const isOpen = computed({ get: () => open.value !== undefined, set: (value) => value || (open.value = undefined) })

const download = () =>
  saveTable(`gradebook-${course.code.replaceAll(' ', '-')}.csv`, gradebookCsv(book.value!, rows.value))
function showAll() {
  search.value = ''
  filter.value = 'all'
}
</script>

<template>
  <ErrorNote :error="error" />
  <template v-if="book">
    <div class="d-flex gap-2 flex-wrap mb-3 align-items-center">
      <div class="btn-group btn-group-sm" role="group" aria-label="What to show">
        <button
          v-for="[key, text] in [
            ['grid', 'Grid'],
            ['history', 'History'],
            ['office', 'Records office'],
            ['settings', 'Totals and rounding'],
          ] as const"
          :key="key"
          type="button"
          class="btn btn-outline-primary"
          :class="{ active: view === key }"
          :aria-pressed="view === key"
          @click="view = key"
        >
          {{ text }}
        </button>
      </div>
      <template v-if="view === 'grid'">
        <input
          v-model="search"
          class="form-control form-control-sm w-auto"
          type="search"
          placeholder="Name"
          aria-label="Find a learner"
        />
        <select v-model="filter" class="form-select form-select-sm w-auto" aria-label="Show learners with">
          <option v-for="(text, key) in FILTERS" :key="key" :value="key">{{ text }}</option>
        </select>
        <label class="form-check mb-0"
          ><input v-model="withTestLearner" class="form-check-input" type="checkbox" /> with the test learner</label
        >
        <span class="quiet ms-auto" aria-live="polite"
          >{{ isWhole ? '' : 'Reading all learners: ' }}{{ rows.length }} of {{ book.learners }}</span
        >
        <button
          class="btn btn-sm btn-outline-primary"
          type="button"
          :disabled="!isWhole || rows.length === 0"
          @click="download"
        >
          Export CSV
        </button>
      </template>
    </div>
    <GradebookHistory v-if="view === 'history'" :course="course.id" />
    <HandOn v-else-if="view === 'office'" :course="course.id" :can-change="canChange" />
    <GradebookSettings
      v-else-if="view === 'settings'"
      :course="course.id"
      :settings="book.settings"
      :can-change="canChange"
    />
    <template v-else>
      <TwinNotes :course="course.id" :can-change="canChange" />
      <p v-if="book.columns.length === 0" class="panel">There are no assignments yet, so there is nothing to grade.</p>
      <p v-else-if="rows.length === 0" class="panel">
        No learner fits. <button class="plain" type="button" @click="showAll">Show all</button>
      </p>
      <GradebookGrid
        v-else
        v-model:sorting="sorting"
        :book="book"
        :rows="rows"
        :course="course.id"
        @cell="(column, person) => (open = { kind: 'cell', column, person })"
        @column="(column) => (open = { kind: 'column', column })"
      />
    </template>
    <BOffcanvas
      v-model="isOpen"
      placement="end"
      :title="open?.kind === 'column' ? 'Column' : 'Trail'"
      class="trail-drawer"
      ><TrailPanel
        v-if="open?.kind === 'cell'"
        :assignment="open.column"
        :person="open.person"
        :course="isToolsOwn(open.column) ? undefined : course.id" />
      <ColumnPanel v-else-if="open?.kind === 'column'" :book="book" :column="open.column" :can-change="canChange"
    /></BOffcanvas>
  </template>
</template>

<style>
.trail-drawer {
  --bs-offcanvas-width: min(36rem, 95vw);
  --bs-offcanvas-bg: var(--card);
}
</style>
