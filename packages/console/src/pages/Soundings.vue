<script setup lang="ts">
import { computed, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import MoreRows from '../parts/MoreRows.vue'
import PageHead from '../parts/PageHead.vue'
import SweepList from '../sweeps/SweepList.vue'
import StateWord from '../parts/StateWord.vue'
import { useCall } from '../state/api'
import { usePaging } from '../state/paging'

const verdict = ref<'' | 'pass' | 'warn' | 'fail'>('')
const paging = usePaging()
const { data, error } = useCall(
  'listSoundings',
  computed(() => ({ query: { verdict: verdict.value || undefined, cursor: paging.cursor.value, limit: 30 } })),
)
const seconds = (from: string, to: string | null) =>
  to ? `${((Date.parse(to) - Date.parse(from)) / 1000).toFixed(1)} s` : '…'
</script>

<template>
  <PageHead title="Soundings" />
  <SweepList />
  <div class="d-flex justify-content-between align-items-end mb-2">
    <h2 class="mb-0">Single soundings</h2>
    <select v-model="verdict" class="form-select form-select-sm w-auto" aria-label="Verdict" @change="paging.reset()">
      <option value="">all verdicts</option>
      <option value="pass">pass</option>
      <option value="warn">warn</option>
      <option value="fail">fail</option>
    </select>
  </div>
  <ErrorNote :error="error" />
  <section v-if="data" class="panel table-wrap">
    <p v-if="data.items.length === 0" class="mb-0">
      {{ verdict ? 'No sounding ended like that.' : 'No sounding has been run yet. Open an assignment and run one.' }}
    </p>
    <table v-else class="grid-table">
      <thead>
        <tr>
          <th>Verdict</th>
          <th>Assignment</th>
          <th>Tool</th>
          <th>When</th>
          <th>Took</th>
          <th>Cause</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in data.items" :key="one.id">
          <td><StateWord :state="one.verdict ?? one.state" /></td>
          <td>
            <RouterLink :to="`/soundings/${one.id}`">{{ one.assignment.title }}</RouterLink>
            <span class="quiet">{{ one.course.code }}</span>
          </td>
          <td>{{ one.tool.name }}</td>
          <td><MomentText :at="one.startedAt" /></td>
          <td class="number">{{ seconds(one.startedAt, one.endedAt) }}</td>
          <td>{{ one.cause ?? '–' }}</td>
        </tr>
      </tbody>
    </table>
    <MoreRows :next="data.next" :depth="paging.depth.value" @forward="paging.forward" @back="paging.back" />
  </section>
</template>
