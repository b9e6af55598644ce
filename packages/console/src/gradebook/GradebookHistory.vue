<script setup lang="ts">
import { columnChangeInWords, ERRORS, historyLines, type ErrorCode, type ScoreEntry } from '@bathyscribe/contract'
import { computed, ref, watch } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import MoreRows from '../parts/MoreRows.vue'
import StateWord from '../parts/StateWord.vue'
import { useCall } from '../state/api'
import { usePaging } from '../state/paging'
import { toolWords } from './cells'

/** Everything that happened in a gradebook: who, what, when, from where. */
const { course } = defineProps<{ course: string }>()
const search = ref('')
const outcome = ref<'' | 'accepted' | 'refused'>('')
const by = ref<'' | 'tool' | 'person'>('')
const paging = usePaging()
const { data: page, error } = useCall(
  'listScores',
  computed(() => ({
    params: { course },
    query: {
      limit: 40,
      cursor: paging.cursor.value,
      ...(search.value.trim() && { search: search.value.trim() }),
      ...(outcome.value && { outcome: outcome.value }),
      ...(by.value && { by: by.value }),
    },
  })),
)
watch([search, outcome, by], () => paging.reset())
const lines = computed(() => (page.value ? historyLines(page.value) : []))
const { data: bursts } = useCall('listScoreBursts', () => ({ params: { course } }))
const DID: Record<ScoreEntry['operation'], string> = {
  replace: 'score',
  delete: 'score taken back',
  progress: 'word on progress',
  override: 'set by hand',
  lift: 'lifted',
  exempt: 'exempt',
  count: 'included again',
}
function span(one: { from: string; to: string }): string {
  const seconds = Math.round((Date.parse(one.to) - Date.parse(one.from)) / 1000)
  return seconds < 90 ? `${seconds} seconds` : `${Math.round(seconds / 60)} minutes`
}
const said = (one: ScoreEntry) =>
  one.outcome === 'refused'
    ? (ERRORS[one.code as ErrorCode]?.sentence ?? one.code ?? '')
    : one.operation === 'progress'
      ? toolWords(one.activity, one.grading)
      : `${one.pointsBefore ?? '–'} → ${one.operation === 'lift' || one.operation === 'exempt' || one.operation === 'count' ? '' : (one.points ?? '–')}`
</script>

<template>
  <section v-if="bursts && bursts.items.length > 0" class="panel mb-3">
    <h2>Many at once</h2>
    <ul class="mb-0 list-unstyled">
      <li v-for="one in bursts.items.slice(0, 6)" :key="one.firstId">
        <strong>{{ one.scores }} scores from {{ one.tool.name }}</strong> in {{ span(one) }}, {{ one.changed }} changed
        <span class="quiet"
          >· {{ one.columns.map((column) => column.title).join(', ') }} · <MomentText :at="one.to" relative
        /></span>
      </li>
    </ul>
  </section>
  <div class="d-flex gap-2 flex-wrap mb-2">
    <input
      v-model="search"
      class="form-control form-control-sm w-auto"
      type="search"
      placeholder="Learner or column"
      aria-label="Find in the history"
    />
    <select v-model="outcome" class="form-select form-select-sm w-auto" aria-label="Outcome">
      <option value="">taken and refused</option>
      <option value="accepted">taken</option>
      <option value="refused">refused</option>
    </select>
    <select v-model="by" class="form-select form-select-sm w-auto" aria-label="By">
      <option value="">by tools and by hand</option>
      <option value="tool">by tools</option>
      <option value="person">by hand</option>
    </select>
  </div>
  <ErrorNote :error="error" />
  <p v-if="page && lines.length === 0" class="panel">Nothing has happened here that fits.</p>
  <div v-else-if="page" class="panel table-responsive">
    <table class="table table-sm mb-0">
      <thead>
        <tr>
          <th scope="col">When</th>
          <th scope="col">Learner</th>
          <th scope="col">Column</th>
          <th scope="col">What</th>
          <th scope="col">From → to</th>
          <th scope="col">By</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in lines" :key="`${'results' in one ? 'column' : 'score'} ${one.id}`">
          <template v-if="'results' in one">
            <td><MomentText :at="one.at" /></td>
            <td class="quiet">all {{ one.results }}</td>
            <td>{{ one.column.title }}</td>
            <td>column changed</td>
            <td>{{ columnChangeInWords(one) }}</td>
            <td>{{ one.by ?? '–' }}</td>
          </template>
          <template v-else>
            <td><MomentText :at="one.at" /></td>
            <td>
              <bdi>{{ one.person.fullName }}</bdi>
            </td>
            <td>{{ one.column.title }}</td>
            <td>
              <StateWord v-if="one.outcome === 'refused'" state="refused" /><template v-else>{{
                DID[one.operation]
              }}</template>
            </td>
            <td>{{ said(one) }}</td>
            <td>
              {{ one.by?.fullName ?? one.tool.name
              }}<template v-if="one.wireEntryId">
                · <RouterLink :to="`/wire/${one.wireEntryId}`">{{ one.wireEntryId }}</RouterLink></template
              ><template v-if="one.evidence"> · {{ one.evidence }}</template>
            </td>
          </template>
        </tr>
      </tbody>
    </table>
    <MoreRows :next="page.next" :depth="paging.depth.value" @forward="paging.forward" @back="paging.back" />
  </div>
</template>
