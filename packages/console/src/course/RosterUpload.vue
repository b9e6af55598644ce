<script setup lang="ts">
import type { Course, RosterImported } from '@bathyscribe/contract'
import { ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'

/** Brings people in step with a roster, of one course or of the whole site: first what would change, then doing it. */
const { course } = defineProps<{ course?: Course }>()
const { act, actError, busy } = useActing()
const body = ref<{ fileName: string; table?: string; zip?: string }>()
const found = ref<RosterImported>()

async function choose(event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (!file) return
  if (/\.zip$/i.test(file.name)) {
    const bytes = new Uint8Array(await file.arrayBuffer())
    let text = ''
    for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192))
    body.value = { fileName: file.name, zip: btoa(text) }
  } else body.value = { fileName: file.name, table: await file.text() }
  await send(false)
}
const send = (apply: boolean) =>
  act(async () => {
    found.value = await call('importRoster', {
      body: { ...body.value!, ...(course && { course: course.code }), apply },
    })
  })
</script>

<template>
  <details class="panel mt-3">
    <summary>Bring in a roster</summary>
    <p class="quiet mt-2">
      A table of people as CSV (user name or identifier, names, email, course, role), or OneRoster 1.2 CSV in a zip
      archive. It is looked at first; nothing changes before you say so.
    </p>
    <input
      class="form-control form-control-sm"
      type="file"
      accept=".csv,.txt,.zip"
      aria-label="Roster"
      @change="choose"
    />
    <ErrorNote :error="actError" />
    <div v-if="found" class="mt-3" role="status">
      <p :class="found.applied ? 'note-good' : 'note-look'">
        {{ found.applied ? 'Done:' : 'Would be done:' }} {{ found.peopleMade }} people made,
        {{ found.peopleChanged }} changed, {{ found.coursesMade }} courses made, {{ found.added }} enrolments added,
        {{ found.returned }} back or in another role, {{ found.dropped }} dropped, {{ found.unchanged }} as they were.
        <template v-if="found.whole">Who is not named in a class of the file has left it.</template>
      </p>
      <ul v-if="found.problems.length > 0">
        <li v-for="(one, i) in found.problems" :key="i">
          ▲ {{ one.file }}<template v-if="one.line"> line {{ one.line }}</template>: {{ one.message }}
        </li>
      </ul>
      <button v-if="!found.applied" class="btn btn-primary btn-sm" type="button" :disabled="busy" @click="send(true)">
        Do it
      </button>
    </div>
  </details>
</template>
