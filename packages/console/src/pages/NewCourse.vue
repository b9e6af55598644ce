<script setup lang="ts">
import { useRouter } from 'vue-router'
import CourseForm from '../course/CourseForm.vue'
import PageHead from '../parts/PageHead.vue'

const router = useRouter()
</script>

<template>
  <PageHead title="New course" :back="{ to: '/courses', text: 'Courses' }" />
  <CourseForm @made="(course) => router.push(`/courses/${course.id}/settings`)" />
</template>
