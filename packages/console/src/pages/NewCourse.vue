<script setup lang="ts">
import CourseForm from '../course/CourseForm.vue'
import PageHead from '../parts/PageHead.vue'
import { useNextPage } from '../state/next-page'

const goOn = useNextPage()
</script>

<template>
  <PageHead title="New course" :back="{ to: '/courses', text: 'Courses' }" />
  <CourseForm @made="(course) => goOn(`/courses/${course.id}/settings`)" />
</template>
