<script setup lang="ts">
import { computed, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import MoreRows from '../parts/MoreRows.vue'
import PageHead from '../parts/PageHead.vue'
import StateWord from '../parts/StateWord.vue'
import { useCall } from '../state/api'
import { usePaging } from '../state/paging'

const search = ref('')
const paging = usePaging()
const { data, error } = useCall(
  'listTools',
  computed(() => ({ query: { search: search.value, cursor: paging.cursor.value, limit: 50 } })),
)
const days = (iso: string | null) =>
  iso === null ? '–' : `${Math.floor((Date.now() - Date.parse(iso)) / 86_400_000)} days`
</script>

<template>
  <PageHead title="Tools">
    <input
      v-model="search"
      class="form-control form-control-sm w-auto"
      type="search"
      placeholder="Name, key or address"
      aria-label="Find a tool"
      @input="paging.reset()"
    />
    <RouterLink class="btn btn-primary btn-sm" to="/tools/register">Register a tool</RouterLink>
  </PageHead>
  <ErrorNote :error="error" />
  <section v-if="data" class="panel table-wrap">
    <p v-if="data.items.length === 0" class="mb-0">
      {{ search ? 'No tool of that name.' : 'No tool is registered yet.' }}
      <RouterLink to="/tools/register">Register one</RouterLink> with the key and secret that its vendor shows.
    </p>
    <table v-else class="grid-table">
      <thead>
        <tr>
          <th>Tool</th>
          <th>For</th>
          <th>Version</th>
          <th>State</th>
          <th>Used by</th>
          <th>Last launch</th>
          <th>Last score</th>
          <th>Secret’s age</th>
          <th>Refused, 7 days</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="tool in data.items" :key="tool.id">
          <td>
            <RouterLink :to="`/tools/${tool.slug}`">{{ tool.name }}</RouterLink>
            <div class="quiet mono">{{ tool.consumerKey }}</div>
          </td>
          <td>{{ tool.course?.code ?? 'Institution' }}</td>
          <td>LTI {{ tool.version }}</td>
          <td><StateWord :state="tool.state" /></td>
          <td>{{ tool.assignments }} in {{ tool.courses }} courses</td>
          <td><MomentText :at="tool.lastLaunchAt" /></td>
          <td><MomentText :at="tool.lastScoreAt" /></td>
          <td>{{ days(tool.secretSetAt) }}</td>
          <td :class="tool.refusals ? 'tone-bad' : ''">{{ tool.refusals ? `✕ ${tool.refusals}` : '0' }}</td>
        </tr>
      </tbody>
    </table>
    <MoreRows :next="data.next" :depth="paging.depth.value" @forward="paging.forward" @back="paging.back" />
  </section>
</template>
