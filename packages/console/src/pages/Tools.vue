<script setup lang="ts">
import type { Tool } from '@bathyscribe/contract'
import { computed, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import MoreRows from '../parts/MoreRows.vue'
import PageHead from '../parts/PageHead.vue'
import StateWord from '../parts/StateWord.vue'
import { useCall } from '../state/api'
import { usePaging } from '../state/paging'
import { isAdministrator } from '../state/session'
import { count } from '../state/words'

const search = ref('')
const state = ref<Tool['state'] | ''>('')
const paging = usePaging()
const { data, error } = useCall(
  'listTools',
  computed(() => ({
    query: { search: search.value, cursor: paging.cursor.value, limit: 50, ...(state.value && { state: state.value }) },
  })),
)
const STATES: Tool['state'][] = ['draft', 'waiting', 'enabled', 'suspended', 'retired', 'deleted']
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
    <select v-model="state" class="form-select form-select-sm w-auto" aria-label="State" @change="paging.reset()">
      <option value="">Every state</option>
      <option v-for="one in STATES" :key="one" :value="one">{{ one }}</option>
    </select>
    <RouterLink v-if="isAdministrator" class="btn btn-outline-primary btn-sm" to="/keys">Platform keys</RouterLink>
    <RouterLink class="btn btn-primary btn-sm" to="/tools/register">Register a tool</RouterLink>
  </PageHead>
  <ErrorNote :error="error" />
  <section v-if="data" class="panel table-wrap">
    <p v-if="data.items.length === 0" class="mb-0">
      {{ search || state ? 'No such tool.' : 'No tool is registered yet.' }}
      <RouterLink to="/tools/register">Register one</RouterLink> with whatever its vendor gave you.
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
          <th>Secret set on</th>
          <th>Refused, 7 days</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="tool in data.items" :key="tool.id">
          <td>
            <RouterLink :to="`/tools/${tool.slug}`">{{ tool.name }}</RouterLink>
            <span v-if="tool.lookAlikes.length > 0" class="tone-look">
              ▲ looks like {{ tool.lookAlikes.length }} other{{ tool.lookAlikes.length > 1 ? 's' : '' }}</span
            >
            <div class="quiet mono">{{ tool.consumerKey ?? tool.clientId }}</div>
          </td>
          <td>{{ tool.course?.code ?? 'Institution' }}</td>
          <td>LTI {{ tool.version }}</td>
          <td><StateWord :state="tool.state" /></td>
          <td>
            {{ count(tool.assignments + tool.menuEntries + tool.unitItems, 'link') }} in
            {{ count(tool.courses, 'course') }}
          </td>
          <td><MomentText :at="tool.lastLaunchAt" /></td>
          <td><MomentText :at="tool.lastScoreAt" /></td>
          <td><MomentText :at="tool.secretSetAt" /></td>
          <td :class="tool.refusals ? 'tone-bad' : ''">{{ tool.refusals ? `✕ ${tool.refusals}` : '0' }}</td>
        </tr>
      </tbody>
    </table>
    <MoreRows by-name :next="data.next" :depth="paging.depth.value" @forward="paging.forward" @back="paging.back" />
  </section>
</template>
