<script setup lang="ts">
import { ref, watch } from 'vue'
import { caseAddress } from '../cases/address'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import MoreRows from '../parts/MoreRows.vue'
import PageHead from '../parts/PageHead.vue'
import { useCall } from '../state/api'
import { usePaging } from '../state/paging'

/** Work of all courses that somebody teaches that waits for a person to grade it. */
const tool = ref('')
const { cursor, depth, forward, back, reset } = usePaging()
const { data: tools } = useCall('listTools', { query: { limit: 200 } })
const { data: work, error } = useCall('listWaitingWork', () => ({
  query: { limit: 50, cursor: cursor.value, ...(tool.value && { tool: tool.value }) },
}))
watch(tool, reset)
</script>

<template>
  <PageHead title="Waiting to be graded" :back="{ to: '/watch', text: 'Watch' }">
    <template #under>Work that a person has to grade in its tool; the longest first</template>
  </PageHead>
  <ErrorNote :error="error" />
  <label class="d-inline-flex gap-2 align-items-baseline mb-3"
    >Tool
    <select v-model="tool" class="form-select form-select-sm w-auto">
      <option value="">all tools</option>
      <option v-for="one in tools?.items" :key="one.id" :value="one.slug">{{ one.name }}</option>
    </select>
  </label>
  <section v-if="work" class="panel">
    <p v-if="work.items.length === 0" class="tone-good mb-0">● Nothing waits to be graded.</p>
    <div v-else class="table-wrap">
      <table class="grid-table">
        <thead>
          <tr>
            <th>Learner</th>
            <th>Assignment</th>
            <th>Since</th>
            <th>Due</th>
            <th>Where</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in work.items" :key="one.assignment.id + one.person.id">
            <td>
              <RouterLink :to="caseAddress(one.course.id, one.assignment.id, one.person.id)"
                ><bdi>{{ one.person.fullName }}</bdi></RouterLink
              >
            </td>
            <td class="wide">
              <RouterLink :to="`/courses/${one.course.id}/assignments/${one.assignment.id}`">{{
                one.assignment.title
              }}</RouterLink>
              <div class="quiet">{{ one.course.code }} · {{ one.tool.name }}</div>
            </td>
            <td><MomentText :at="one.since" relative /></td>
            <td><MomentText v-if="one.dueAt" :at="one.dueAt" /></td>
            <td>
              <a
                v-if="one.reviewable"
                :href="`/lti/review/${one.assignment.id}/${one.person.id}`"
                target="_blank"
                rel="noopener"
                :aria-label="`Open the submission of ${one.person.fullName} for ${one.assignment.title}`"
                >Open the submission</a
              >
              <RouterLink
                v-else
                :to="`/courses/${one.course.id}/assignments/${one.assignment.id}/work`"
                :aria-label="`Open ${one.tool.name} for ${one.assignment.title}`"
                >Open the tool</RouterLink
              >
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <MoreRows :next="work.next" :depth="depth" @forward="forward" @back="back" />
  </section>
</template>
