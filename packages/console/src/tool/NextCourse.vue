<script setup lang="ts">
import { BFormGroup, BFormSelect } from 'bootstrap-vue-next'
import { computed } from 'vue'
import { useInstructedCourses } from './registrar-courses'

/** What is done with a tool once it is registered: its page is looked at, or an assignment is made in a course. */
const next = defineModel<string | null>({ required: true })
const courses = useInstructedCourses()
const options = computed(() => [
  { value: null, text: 'look at its page' },
  ...courses.value.map((one) => ({ value: one.id, text: `make an assignment in ${one.code}` })),
])
</script>

<template>
  <BFormGroup label="Then" label-for="next-course"
    ><BFormSelect id="next-course" v-model="next" :options="options"
  /></BFormGroup>
</template>
