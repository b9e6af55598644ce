<script setup lang="ts">
import { RECONCILED_CLASSES, type Reconciliation, type ReconciledRow } from '@bathyscribe/contract'
import { computed, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import PageHead from '../parts/PageHead.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { plain } from '../state/words'

/** A tool's own export against one column: what agrees, what differs, and why. */
const { course, assignment } = defineProps<{ course: string; assignment: string }>()
const { data: book } = useCall('showGradebook', () => ({ params: { course } }))
const column = computed(() => book.value?.columns.find((one) => one.id === assignment))
const { act, actError, busy } = useActing()
const fileName = ref('')
const text = ref('')
const found = ref<Reconciliation>()
const reading = ref<Record<string, string>>({})
const maximum = ref('')
const shown = ref<Set<ReconciledRow['class']>>(new Set(RECONCILED_CLASSES.filter((one) => one !== 'same')))
const chosen = ref<Set<number>>(new Set())
const FIELDS = {
  identifier: 'Identifier',
  email: 'Email',
  name: 'Name',
  given: 'Given name',
  family: 'Family name',
  score: 'Score',
  maximum: 'Out of',
} as const
const SIGNS: Record<ReconciledRow['class'], { sign: string; tone: string }> = {
  same: { sign: '●', tone: 'good' },
  rounding: { sign: '●', tone: 'good' },
  scale: { sign: '●', tone: 'good' },
  different: { sign: '✕', tone: 'bad' },
  missing_here: { sign: '▲', tone: 'look' },
  missing_there: { sign: '▲', tone: 'look' },
  unknown_person: { sign: '▲', tone: 'look' },
  unreadable: { sign: '✕', tone: 'bad' },
}
const rows = computed(() => found.value?.rows.filter((row) => shown.value.has(row.class)) ?? [])
const canTake = (row: ReconciledRow) =>
  row.line !== null &&
  row.person !== null &&
  row.theirPoints !== null &&
  row.class !== 'same' &&
  row.class !== 'unreadable'

async function choose(event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (!file) return
  fileName.value = file.name
  text.value = await file.text()
  reading.value = {}
  await compare()
}
const body = (more: object = {}) => ({
  fileName: fileName.value || 'pasted cells',
  table: text.value,
  ...(Object.values(reading.value).some(Boolean) && {
    reading: Object.fromEntries(Object.entries(reading.value).filter(([, head]) => head)),
  }),
  ...(maximum.value.trim() && { maximum: maximum.value.trim() }),
  ...more,
})
function keep(answer: Reconciliation) {
  found.value = answer
  reading.value = { ...answer.reading }
  maximum.value = answer.maximum ?? ''
  chosen.value = new Set()
}
const compare = (confirm = false) =>
  act(async () => keep(await call('reconcileScores', { params: { assignment }, body: body({ confirm }) })))
const take = () =>
  act(async () =>
    keep(await call('takeReconciled', { params: { assignment }, body: { ...body(), lines: [...chosen.value] } })),
  )
function toggle<T>(set: Set<T>, one: T) {
  if (!set.delete(one)) set.add(one)
}
const print = () => window.print()
</script>

<template>
  <PageHead
    title="Reconciliation"
    :back="{ to: `/courses/${course}/gradebook`, text: book ? `${book.course.code} gradebook` : 'Gradebook' }"
  >
    <template v-if="column" #under>{{ column.title }} · of {{ column.points }} · {{ column.tool.name }}</template>
    <button v-if="found" class="btn btn-sm btn-outline-primary no-print" type="button" @click="print">Print</button>
  </PageHead>
  <section class="panel mb-3 no-print">
    <label class="d-block mb-2"
      >The tool’s own export, as CSV
      <input class="form-control form-control-sm" type="file" accept=".csv,.txt,.tsv,text/csv" @change="choose"
    /></label>
    <details :open="text !== '' && fileName === ''">
      <summary>Or paste its cells</summary>
      <textarea v-model="text" class="form-control mono mt-2" rows="5" aria-label="Cells of the export" />
      <button class="btn btn-sm btn-primary mt-2" type="button" :disabled="busy || !text.trim()" @click="compare()">
        Compare
      </button>
    </details>
    <ErrorNote :error="actError" />
  </section>
  <template v-if="found">
    <section class="panel mb-3 no-print">
      <div class="d-flex flex-wrap gap-3 align-items-end">
        <label v-for="(word, field) in FIELDS" :key="field"
          >{{ word }}
          <select v-model="reading[field]" class="form-select form-select-sm">
            <option :value="undefined">–</option>
            <option v-for="head in found.heads" :key="head" :value="head">{{ head }}</option>
          </select></label
        >
        <label
          >Maximum, if the file has none
          <input
            v-model="maximum"
            class="form-control form-control-sm short-number"
            :placeholder="found.column.points"
            inputmode="decimal"
        /></label>
        <button class="btn btn-sm btn-outline-primary" type="button" :disabled="busy" @click="compare()">
          Read again
        </button>
        <button
          v-if="!found.confirmed"
          class="btn btn-sm btn-primary"
          type="button"
          :disabled="busy"
          @click="compare(true)"
        >
          Correct: remember for {{ found.tool.name }}
        </button>
        <span v-else class="tone-good">● remembered for {{ found.tool.name }}</span>
      </div>
    </section>
    <p class="quiet">{{ found.fileName }} · SHA-256 {{ found.sha256.slice(0, 12) }}</p>
    <div class="d-flex flex-wrap gap-2 mb-2" role="group" aria-label="Lines to show">
      <button
        v-for="name in RECONCILED_CLASSES"
        :key="name"
        type="button"
        class="btn btn-sm"
        :class="shown.has(name) ? 'btn-primary' : 'btn-outline-primary'"
        :aria-pressed="shown.has(name)"
        :disabled="found.counts[name] === 0"
        @click="toggle(shown, name)"
      >
        {{ found.counts[name] }} {{ plain(name) }}
      </button>
      <button
        class="btn btn-sm btn-primary ms-auto no-print"
        type="button"
        :disabled="busy || chosen.size === 0"
        @click="take"
      >
        Use {{ chosen.size }} {{ chosen.size === 1 ? 'value' : 'values' }} as my own points
      </button>
    </div>
    <p v-if="found.taken > 0" class="note-good" role="status">
      {{ found.taken }} {{ found.taken === 1 ? 'value is' : 'values are' }} now your own points, with the file as
      evidence. Each can be lifted in its trail.
    </p>
    <p v-if="rows.length === 0" class="panel">No line of these kinds.</p>
    <div v-else class="panel table-responsive">
      <table class="table table-sm mb-0">
        <thead>
          <tr>
            <th scope="col" class="no-print"><span class="visually-hidden">Use</span></th>
            <th scope="col">Line</th>
            <th scope="col">Learner</th>
            <th scope="col" class="text-end">Here</th>
            <th scope="col" class="text-end">There</th>
            <th scope="col">Finding</th>
            <th scope="col">Why</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="`${row.line} ${row.person?.id}`">
            <td class="no-print">
              <input
                v-if="canTake(row)"
                type="checkbox"
                class="form-check-input"
                :checked="chosen.has(row.line!)"
                :aria-label="`Use line ${row.line}`"
                @change="toggle(chosen, row.line!)"
              />
            </td>
            <td>{{ row.line ?? '–' }}</td>
            <td>
              <bdi>{{ row.person?.fullName ?? row.called }}</bdi>
              <span v-if="row.doubtful" class="tone-look" :title="`The file says “${row.called}”: only the name fits`">
                ▲ by name only</span
              >
            </td>
            <td class="text-end">{{ row.ours ?? '–' }}</td>
            <td class="text-end">{{ row.theirs ?? '–' }}</td>
            <td>
              <span :class="`tone-${SIGNS[row.class].tone}`">{{ SIGNS[row.class].sign }} {{ plain(row.class) }}</span>
            </td>
            <td>{{ row.statement }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </template>
</template>

<style>
.short-number {
  width: 6rem;
}
</style>
