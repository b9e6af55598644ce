<script setup lang="ts">
import { computed } from 'vue'
import CourseAssignments from '../course/CourseAssignments.vue'
import CourseGradebook from '../gradebook/CourseGradebook.vue'
import CourseOutline from '../course/CourseOutline.vue'
import CourseThings from '../course/CourseThings.vue'
import CourseMenu from '../course/CourseMenu.vue'
import CourseSettings from '../course/CourseSettings.vue'
import CoursePeople from '../course/CoursePeople.vue'
import CourseWork from '../course/CourseWork.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import PageHead from '../parts/PageHead.vue'
import { useCall } from '../state/api'
import { isAdministrator } from '../state/session'

/** A course: for those who teach, its parts as tabs; for learners, their work. */
const { course: ref, part: given } = defineProps<{ course: string; part?: string }>()
const part = computed(() => given || 'outline')
const { data: course, error } = useCall('showCourse', () => ({ params: { course: ref } }))
const teaching = computed(
  () => isAdministrator.value || course.value?.myRole === 'instructor' || course.value?.myRole === 'teaching_assistant',
)
/** On the parts in which assignments are made. */
const making = computed(() => part.value === 'assignments' || part.value === 'outline')
const canChange = computed(() => isAdministrator.value || course.value?.myRole === 'instructor')
const PARTS = [
  { key: 'outline', text: 'Outline' },
  { key: 'assignments', text: 'Assignments' },
  { key: 'gradebook', text: 'Gradebook' },
  { key: 'people', text: 'People' },
  { key: 'menu', text: 'Menu' },
  { key: 'things', text: 'Files and groups' },
  { key: 'settings', text: 'Settings' },
]
</script>

<template>
  <ErrorNote :error="error"><RouterLink to="/courses">Your courses</RouterLink></ErrorNote>
  <template v-if="course">
    <PageHead :title="`${course.code} ${course.title}`" :back="{ to: '/courses', text: 'Courses' }">
      <template #under
        >{{ course.term
        }}<span v-if="course.state !== 'open'" class="tone-look"
          ><template v-if="course.term"> · </template>▲ {{ course.state }}</span
        ></template
      >
      <RouterLink v-if="teaching" class="btn btn-outline-primary btn-sm" :to="`/courses/${course.id}/rehearsal`"
        >Rehearse</RouterLink
      >
      <RouterLink
        v-if="canChange && making"
        class="btn btn-outline-primary btn-sm"
        :to="`/tools/register?course=${course.id}`"
        >Register a tool</RouterLink
      >
      <RouterLink
        v-if="canChange && making"
        class="btn btn-primary btn-sm"
        :to="`/courses/${course.id}/assignments/new`"
        >New assignment</RouterLink
      >
    </PageHead>
    <div v-if="course.state === 'deleted'" class="note-look mb-3" role="status">
      The course is deleted: nobody else sees it, and no tool reaches it.
    </div>
    <CourseSettings v-if="course.state === 'deleted'" :course="course" :can-change="false" />
    <CourseWork v-else-if="!teaching" :course="course" />
    <template v-else>
      <ul class="nav nav-tabs mb-3">
        <li v-for="one in PARTS" :key="one.key" class="nav-item">
          <RouterLink
            class="nav-link"
            :class="{ active: one.key === part }"
            :aria-current="one.key === part ? 'page' : undefined"
            :to="`/courses/${course.id}/${one.key}`"
            >{{ one.text }}</RouterLink
          >
        </li>
      </ul>
      <CourseOutline v-if="part === 'outline'" :course="course" :can-change="canChange" />
      <CourseGradebook v-else-if="part === 'gradebook'" :course="course" :can-change="canChange" />
      <CoursePeople v-else-if="part === 'people'" :course="course" :can-change="canChange" />
      <CourseMenu v-else-if="part === 'menu'" :course="course" :can-change="canChange" />
      <CourseSettings v-else-if="part === 'settings'" :course="course" :can-change="canChange" />
      <CourseThings v-else-if="part === 'things'" :course="course" :can-change="canChange" />
      <CourseAssignments v-else :course="course" :can-change="canChange" />
    </template>
  </template>
</template>
