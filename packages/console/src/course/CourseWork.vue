<script setup lang="ts">
import type { Course } from '@bathyscribe/contract'
import ErrorNote from '../parts/ErrorNote.vue'
import { useCall } from '../state/api'

/** A learner's view of a course: what there is to do, and the own results. */
const { course } = defineProps<{ course: Course }>()
const { data, error } = useCall('listWork', () => ({ params: { course: course.id } }))
const { data: menu } = useCall('listMenu', () => ({ params: { course: course.id } }))
</script>

<template>
  <ErrorNote :error="error" />
  <nav v-if="menu && menu.items.length > 0" class="course-menu" aria-label="Course menu">
    <RouterLink v-for="one in menu.items" :key="one.id" :to="`/courses/${course.id}/menu/${one.id}`">{{
      one.label
    }}</RouterLink>
  </nav>
  <section v-if="data" class="panel table-wrap">
    <p v-if="data.items.length === 0" class="mb-0">Nothing to do here yet.</p>
    <table v-else class="grid-table">
      <thead>
        <tr>
          <th>Assignment</th>
          <th>Category</th>
          <th class="number">Your result</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in data.items" :key="one.id">
          <td>
            <RouterLink :to="`/courses/${course.id}/assignments/${one.id}`">{{ one.title }}</RouterLink>
          </td>
          <td>{{ one.category ?? '–' }}</td>
          <td class="number">
            <span v-if="one.result" :title="`${one.result.points} of ${one.points} exactly`"
              >{{ one.result.shown }} of {{ one.points }}</span
            >
            <span v-else class="quiet">{{ one.openedAt ? 'opened, no score yet' : 'not opened yet' }}</span>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style>
.course-menu {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem 1.4rem;
  padding: 0.55rem 1.1rem;
  margin-bottom: 1rem;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 0.4rem;
}
</style>
