<script setup lang="ts">
import type { CauseRecords } from '@bathyscribe/contract'
import { computed, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import PageHead from '../parts/PageHead.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { causeInWords } from '../state/words'

/** How often each cause that was told for a refused message turned out to be right, by month. */
const { data, error } = useCall('listCauses', {})
const { act, actError, busy } = useActing()
const month = ref('')

const rows = computed(() =>
  (data.value?.items ?? []).flatMap((cause) => {
    const counted = month.value === '' ? cause : cause.months.find((one) => one.month === month.value)
    return counted ? [{ cause, counted }] : []
  }),
)
const doubted = computed(() => (data.value?.items ?? []).filter((one) => one.inDoubt))
const look = (code: string) => act(() => call('lookAtCause', { params: { code } }))
type Counted = CauseRecords['months'][number]
const COLUMNS: [head: string, cell: (one: Omit<Counted, 'month'>) => string | number][] = [
  ['Right, by people', (one) => one.right],
  ['by itself', (one) => one.rightByItself],
  ['Wrong', (one) => one.wrong],
  ['Missed', (one) => one.missed],
  ['Precision', (one) => percent(one.precision)],
  ['Recall', (one) => percent(one.recall)],
]
const percent = (part: number | null) => (part === null ? '–' : `${Math.floor(part * 100)} %`)
</script>

<template>
  <PageHead title="Causes" :back="{ to: '/wire', text: 'Wire' }">
    <template #under>How often what was told of refused messages was right</template>
  </PageHead>
  <ErrorNote :error="error ?? actError" />
  <section v-for="cause in doubted" :key="cause.code" class="note-look mb-3">
    <span aria-hidden="true">▲</span> <strong>{{ causeInWords(cause.code) }}</strong> was said to be wrong
    {{ cause.wrongSince }} times<template v-if="cause.lookedAt"> since <MomentText :at="cause.lookedAt.at" /></template
    >. It is told as likely, and no more, until somebody has looked at it.
    <div class="d-flex gap-2 flex-wrap mt-2">
      <RouterLink v-if="cause.last.entry" class="btn btn-sm btn-outline-primary" :to="`/wire/${cause.last.entry}`"
        >See the last one</RouterLink
      >
      <button type="button" class="btn btn-sm btn-outline-primary" :disabled="busy" @click="look(cause.code)">
        Looked at: tell it as proven again
      </button>
    </div>
  </section>
  <section v-if="data && data.items.length === 0" class="panel">
    <p class="mb-0">
      Nothing was judged yet. Open a refused message in the <RouterLink to="/wire?outcome=refused">wire log</RouterLink>
      and say whether what explains it was right. Where the next message of the same link passes within a day, that
      shows by itself.
    </p>
  </section>
  <template v-else-if="data">
    <section class="panel mb-3 table-wrap">
      <div class="d-flex gap-2 align-items-center mb-2">
        <h2 class="mb-0 flex-grow-1">By cause</h2>
        <select v-model="month" class="form-select form-select-sm w-auto" aria-label="Month">
          <option value="">all months</option>
          <option v-for="one in data.months.toReversed()" :key="one.month">{{ one.month }}</option>
        </select>
      </div>
      <table class="grid-table">
        <thead>
          <tr>
            <th>Cause</th>
            <th v-for="[head] in COLUMNS" :key="head" class="number">{{ head }}</th>
            <th>Judged last</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="{ cause, counted } in rows" :key="cause.code">
            <td class="wide">
              <span v-if="cause.inDoubt" class="tone-look" title="told as likely">▲ </span
              ><strong>{{ causeInWords(cause.code) }}</strong>
              <div v-if="cause.sentence" class="quiet">{{ cause.sentence }}</div>
            </td>
            <td v-for="[head, cell] in COLUMNS" :key="head" class="number">{{ cell(counted) }}</td>
            <td>
              <RouterLink v-if="cause.last.entry" :to="`/wire/${cause.last.entry}`"
                ><MomentText :at="cause.last.at" /></RouterLink
              ><MomentText v-else :at="cause.last.at" />
            </td>
          </tr>
        </tbody>
      </table>
      <p class="quiet mt-2 mb-0">
        Precision: of those told that were judged, the part that was right. Recall: of those that it was, the part that
        was told. By itself: the next message of the same link and kind passed within a day.
      </p>
    </section>
    <section class="panel table-wrap">
      <h2>By month</h2>
      <table class="grid-table">
        <thead>
          <tr>
            <th>Month</th>
            <th v-for="[head] in COLUMNS" :key="head" class="number">{{ head }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in data.months.toReversed()" :key="one.month">
            <td>{{ one.month }}</td>
            <td v-for="[head, cell] in COLUMNS" :key="head" class="number">{{ cell(one) }}</td>
          </tr>
        </tbody>
      </table>
    </section>
  </template>
</template>
