<script setup lang="ts">
import type { Course, CourseFile } from '@bathyscribe/contract'
import { computed, ref } from 'vue'
import ConfirmAct from '../parts/ConfirmAct.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import { useActing } from '../state/acting'
import { call, upload, useCall } from '../state/api'
import { sizeWords } from '../state/words'

/** The course's files: uploaded here, placed in units, read by tools that may. */
const { course, canChange } = defineProps<{ course: Course; canChange: boolean }>()
const params = computed(() => ({ course: course.id }))
const { data, error } = useCall('listFiles', () => ({ params: params.value }))
const { act, actError, busy } = useActing()
const over = ref(false)
const sent = ref('')

async function send(files: FileList | null | undefined) {
  over.value = false
  for (const file of files ?? []) {
    sent.value = `Sending ${file.name} …`
    if (!(await act(() => upload(course.id, file)))) break
  }
  sent.value = ''
}
const remove = (file: CourseFile) => act(() => call('removeFile', { params: { ...params.value, file: file.id } }))
</script>

<template>
  <section
    class="panel"
    :class="{ over }"
    @dragover.prevent="over = canChange"
    @dragleave="over = false"
    @drop.prevent="canChange && send($event.dataTransfer?.files)"
  >
    <h2>Files</h2>
    <ErrorNote :error="error ?? actError" />
    <label v-if="canChange" class="btn btn-sm btn-primary mb-3" :class="{ disabled: busy }"
      >Upload files
      <input class="visually-hidden" type="file" multiple @change="send(($event.target as HTMLInputElement).files)"
    /></label>
    <span class="quiet ms-2" role="status">{{ sent || (canChange ? 'or drop them here' : '') }}</span>
    <p v-if="data?.items.length === 0" class="mb-0">No files yet.</p>
    <div v-for="file in data?.items" :key="file.id" class="refusal d-flex gap-2">
      <div class="flex-grow-1">
        <a :href="file.href" target="_blank">{{ file.name }}</a>
        <div class="quiet">
          {{ file.mediaType }} · {{ sizeWords(file.bytes) }} · {{ file.by }}, <MomentText :at="file.createdAt" /> ·
          {{ file.uses === 0 ? 'in no unit' : `in ${file.uses} places` }}
        </div>
      </div>
      <ConfirmAct
        v-if="canChange && file.uses === 0"
        text="Remove"
        :question="`“${file.name}” is taken away for good.`"
        @done="remove(file)"
      />
    </div>
  </section>
</template>

<style>
.panel.over {
  outline: 2px dashed var(--sea);
}
</style>
