<script setup lang="ts">
import type { Tool } from '@bathyscribe/contract'
import { BButton, BFormSelect } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import CopyValue from '../parts/CopyValue.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { isAdministrator } from '../state/session'

/** Deployments of a tool of LTI 1.3: one for everybody, more for single courses where the tool tells them apart by it. */
const { tool } = defineProps<{ tool: Tool }>()
const params = computed(() => ({ tool: tool.id }))
const { data, error } = useCall('listDeployments', () => ({ params: params.value }))
const { data: courses } = useCall('listCourses', { query: { limit: 200 } })
const { act, actError, busy } = useActing()
const course = ref('')
const courseOptions = computed(() => [
  { value: '', text: 'Choose a course' },
  ...(courses.value?.items ?? [])
    .filter((one) => !data.value?.items.some((deployment) => deployment.course?.id === one.id))
    .map((one) => ({ value: one.id, text: `${one.code} ${one.title}` })),
])
async function add() {
  if (await act(() => call('addDeployment', { params: params.value, body: { course: course.value } })))
    course.value = ''
}
</script>

<template>
  <section v-if="data" class="panel">
    <h2>Deployments</h2>
    <ErrorNote :error="error ?? actError" />
    <dl class="sheet-lines">
      <template v-for="one in data.items" :key="one.id"
        ><dt>{{ one.course ? one.course.code : 'Everybody else' }}</dt>
        <dd><CopyValue :value="one.id" :label="`the deployment ID for ${one.course?.code ?? 'everybody else'}`" /></dd
      ></template>
    </dl>
    <form v-if="isAdministrator && !tool.course" class="d-flex gap-2 flex-wrap" @submit.prevent="add">
      <BFormSelect
        v-model="course"
        size="sm"
        class="w-auto"
        aria-label="A deployment of its own for"
        :options="courseOptions"
      />
      <BButton type="submit" size="sm" variant="outline-primary" :disabled="busy || !course"
        >Give it one of its own</BButton
      >
    </form>
  </section>
</template>
