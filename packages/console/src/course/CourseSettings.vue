<script setup lang="ts">
import type { Course, CourseState } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import ConfirmAct from '../parts/ConfirmAct.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'
import { isAdministrator } from '../state/session'
import CourseForm from './CourseForm.vue'
import CategoryList from './CategoryList.vue'

/** What a course is called, when it is, its categories, and its end. */
const { course, canChange } = defineProps<{ course: Course; canChange: boolean }>()
const { act, actError, busy } = useActing()
const become = (state: CourseState) =>
  act(() => call('setCourseState', { params: { course: course.id }, body: { state } }))
</script>

<template>
  <div class="course-settings">
    <CategoryList :course="course.id" :can-change="canChange" />
    <template v-if="isAdministrator">
      <CourseForm :key="course.id" :course="course" />
      <section class="panel">
        <h2>{{ course.state === 'open' ? 'Its end' : 'It has ended' }}</h2>
        <ErrorNote :error="actError" />
        <p class="quiet">
          A closed course can be looked at, but learners begin no work in it; scores that tools still send are taken. A
          deleted one is out of everybody’s way. Nothing in it is lost by either.
        </p>
        <div class="d-flex gap-2">
          <BButton
            v-if="course.state === 'open'"
            size="sm"
            variant="outline-primary"
            :disabled="busy"
            @click="become('closed')"
            >Close the course</BButton
          >
          <BButton v-else size="sm" variant="primary" :disabled="busy" @click="become('open')">{{
            course.state === 'closed' ? 'Open it again' : 'Restore it'
          }}</BButton>
          <ConfirmAct
            v-if="course.state !== 'deleted'"
            text="Delete the course"
            :question="`${course.learners} learners and ${course.assignments} assignments go out of sight; tools no longer reach it. It can be restored.`"
            @done="become('deleted')"
          />
        </div>
      </section>
    </template>
  </div>
</template>

<style>
.course-settings {
  max-width: 52rem;
  display: grid;
  gap: 1rem;
}
</style>
