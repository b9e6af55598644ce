<script setup lang="ts">
import type { Course } from '@bathyscribe/contract'
import { computed, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import ProofLine from '../parts/ProofLine.vue'
import StateWord from '../parts/StateWord.vue'
import { useCall } from '../state/api'
import { courseMoment } from '../state/moments'

const { course, canChange } = defineProps<{ course: Course; canChange: boolean }>()
const checking = ref(false)
const { data: preflight } = useCall('preflightCourse', () =>
  checking.value ? { params: { course: course.id } } : undefined,
)
const worth = computed(() => (preflight.value?.items ?? []).filter((one) => one.remarks.length > 0))
const { data, error } = useCall('listAssignments', () => ({ params: { course: course.id } }))
</script>

<template>
  <ErrorNote :error="error" />
  <div v-if="data && data.items.length > 0" class="d-flex gap-3 mb-2">
    <RouterLink v-if="canChange" :to="`/courses/${course.id}/assignments/many`">Make or change many at once</RouterLink>
    <button class="plain" type="button" :aria-expanded="checking" @click="checking = !checking">
      Preflight of all
    </button>
  </div>
  <section v-if="checking && preflight" class="panel mb-3">
    <h2>Preflight of all</h2>
    <p v-if="worth.length === 0" class="tone-good mb-0">
      ● Nothing to remark on {{ preflight.items.length }} assignments.
    </p>
    <div v-for="one in worth" :key="one.id" class="refusal">
      <RouterLink :to="`/courses/${course.id}/assignments/${one.id}`">{{ one.title }}</RouterLink>
      <div v-for="remark in one.remarks" :key="remark.rule">
        <StateWord :state="remark.accepted ? 'accepted' : remark.verdict" /> {{ remark.statement }}
        <span class="quiet">{{ remark.remedy }}</span>
      </div>
    </div>
  </section>
  <section v-if="data" class="panel table-wrap">
    <p v-if="data.items.length === 0" class="mb-0">
      No assignments yet.
      <RouterLink v-if="canChange" :to="`/courses/${course.id}/assignments/new`">Make the first one</RouterLink>
    </p>
    <table v-else class="grid-table">
      <thead>
        <tr>
          <th>Proof</th>
          <th>Assignment</th>
          <th>Tool</th>
          <th>Due</th>
          <th class="number">Points</th>
          <th>Category</th>
          <th>State</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in data.items" :key="one.id">
          <td><ProofLine :marks="one.proof" /></td>
          <td>
            <RouterLink :to="`/courses/${course.id}/assignments/${one.id}`">{{ one.title }}</RouterLink>
          </td>
          <td>{{ one.tool.name }} <StateWord v-if="one.tool.state !== 'enabled'" :state="one.tool.state" /></td>
          <td>{{ one.dueAt ? courseMoment(one.dueAt, one.course.timeZone) : '–' }}</td>
          <td class="number">{{ one.counted ? one.points : 'not part of the total' }}</td>
          <td>{{ one.category?.name ?? '–' }}</td>
          <td><StateWord :state="one.state" /></td>
        </tr>
      </tbody>
    </table>
    <p v-if="data.items.length > 0" class="quiet mt-3 mb-0">
      The six marks: registered, linked, published, launched, scored, recorded. ● proven ◐ changed since ○ not yet ▲
      look here ✕ broken
    </p>
  </section>
</template>
