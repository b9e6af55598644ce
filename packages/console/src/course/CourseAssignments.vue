<script setup lang="ts">
import type { Course } from '@bathyscribe/contract'
import ErrorNote from '../parts/ErrorNote.vue'
import ProofLine from '../parts/ProofLine.vue'
import StateWord from '../parts/StateWord.vue'
import { useCall } from '../state/api'

const { course, canChange } = defineProps<{ course: Course; canChange: boolean }>()
const { data, error } = useCall('listAssignments', () => ({ params: { course: course.id } }))
</script>

<template>
  <ErrorNote :error="error" />
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
          <td class="number">{{ one.points }}</td>
          <td>{{ one.category?.name ?? '–' }}</td>
          <td><StateWord :state="one.state" /></td>
        </tr>
      </tbody>
    </table>
    <p v-if="data.items.length > 0" class="quiet mt-3 mb-0">
      The six marks: registered, linked, published, launched, scored, recorded. ● proven ○ not yet ▲ look here ✕ broken
    </p>
  </section>
</template>
