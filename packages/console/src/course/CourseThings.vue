<script setup lang="ts">
import type { Course } from '@bathyscribe/contract'
import CourseFiles from './CourseFiles.vue'
import CourseGroups from './CourseGroups.vue'

/** Files and groups of a course. */
const { course, canChange } = defineProps<{ course: Course; canChange: boolean }>()
</script>

<template>
  <div class="two-halves">
    <CourseFiles :course="course" :can-change="canChange" />
    <CourseGroups :course="course" :can-change="canChange" />
  </div>
</template>

<style>
.two-halves {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(26rem, 100%), 1fr));
  gap: 1.2rem;
  align-items: start;
}
</style>
