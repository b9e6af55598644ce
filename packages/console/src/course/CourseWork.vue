<script setup lang="ts">
import type { Course } from '@bathyscribe/contract'
import OutlineLine from '../outline/OutlineLine.vue'
import WelcomePanel from '../outline/WelcomePanel.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useCall } from '../state/api'

/** A course as its learners meet it: the menu, words of welcome, and the published units with the own results. */
const { course } = defineProps<{ course: Course }>()
const { data: outline, error } = useCall('showOutline', () => ({ params: { course: course.id } }))
const { data: menu } = useCall('listMenu', () => ({ params: { course: course.id } }))
</script>

<template>
  <ErrorNote :error="error" />
  <nav v-if="menu && menu.items.length > 0" class="course-menu" aria-label="Course menu">
    <RouterLink v-for="one in menu.items" :key="one.id" :to="`/courses/${course.id}/menu/${one.id}`">{{
      one.label
    }}</RouterLink>
  </nav>
  <template v-if="outline">
    <WelcomePanel :course="course.id" :outline="outline" :can-change="false" />
    <p v-if="outline.units.length === 0 && outline.loose.length === 0" class="panel mb-0">Nothing to do here yet.</p>
    <div class="d-grid gap-3">
      <section v-for="unit in outline.units" :key="unit.id" class="panel">
        <h2>{{ unit.title }}</h2>
        <p v-if="unit.items.length === 0" class="quiet mb-0">Nothing here yet.</p>
        <ol v-else class="unit-items">
          <li v-for="item in unit.items" :key="item.id">
            <div class="flex-grow-1">
              <OutlineLine :item="item" :course="course.id" :zone="course.timeZone" :teaching="false" />
            </div>
          </li>
        </ol>
      </section>
      <section v-if="outline.loose.length > 0" class="panel">
        <h2>{{ outline.units.length > 0 ? 'Also' : 'Assignments' }}</h2>
        <ol class="unit-items">
          <li v-for="item in outline.loose" :key="item.id">
            <div class="flex-grow-1">
              <OutlineLine :item="item" :course="course.id" :zone="course.timeZone" :teaching="false" />
            </div>
          </li>
        </ol>
      </section>
    </div>
  </template>
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
