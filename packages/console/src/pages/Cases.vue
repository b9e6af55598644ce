<script setup lang="ts">
import { ref, watch } from 'vue'
import { caseAddress } from '../cases/address'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import MoreRows from '../parts/MoreRows.vue'
import PageHead from '../parts/PageHead.vue'
import { useCall } from '../state/api'
import { usePaging } from '../state/paging'

/** Cases of the courses that somebody teaches. */
const state = ref<'open' | 'closed'>('open')
const { cursor, depth, forward, back, reset } = usePaging()
const { data: cases, error } = useCall('listCases', () => ({
  query: { state: state.value, limit: 50, cursor: cursor.value },
}))
watch(state, reset)
</script>

<template>
  <PageHead title="Cases" :back="{ to: '/watch', text: 'Watch' }">
    <template #under>Learners whose score is missing, and what became of it</template>
  </PageHead>
  <ErrorNote :error="error" />
  <label class="d-inline-flex gap-2 align-items-baseline mb-3"
    >State
    <select v-model="state" class="form-select form-select-sm w-auto">
      <option value="open">open</option>
      <option value="closed">closed</option>
    </select>
  </label>
  <section v-if="cases" class="panel">
    <p v-if="cases.items.length === 0" class="quiet mb-0">
      No case is {{ state }}. A learner opens one by saying that a score is missing; you take one up from a cell of the
      gradebook.
    </p>
    <div v-else class="table-wrap">
      <table class="grid-table">
        <thead>
          <tr>
            <th>Learner</th>
            <th>Assignment</th>
            <th>Said</th>
            <th>Since</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in cases.items" :key="one.assignment.id + one.person.id">
            <td>
              <RouterLink :to="caseAddress(one.course.id, one.assignment.id, one.person.id)"
                ><bdi>{{ one.person.fullName }}</bdi></RouterLink
              >
            </td>
            <td>
              {{ one.assignment.title }}
              <div class="quiet">{{ one.course.code }} · {{ one.tool.name }}</div>
            </td>
            <td class="wide">{{ one.said }}</td>
            <td><MomentText :at="one.since" /></td>
          </tr>
        </tbody>
      </table>
    </div>
    <MoreRows :next="cases.next" :depth="depth" @forward="forward" @back="back" />
  </section>
</template>
