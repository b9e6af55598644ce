<script setup lang="ts">
import { BButton } from 'bootstrap-vue-next'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'

/** What somebody was told, at the top of their own pages until they put it away. */
const { data: notes } = useCall('listNotes', {})
const { act, actError, busy } = useActing()
const putAway = (id: string) => act(() => call('putNoteAway', { params: { id } }))
</script>

<template>
  <section v-if="notes && notes.items.length > 0" class="my-notes" aria-label="Notes for you">
    <ErrorNote :error="actError" />
    <article v-for="one in notes.items" :key="one.id" class="note-look">
      <div class="d-flex gap-2 justify-content-between flex-wrap align-items-start">
        <div>
          <RouterLink :to="`/courses/${one.course.id}/assignments/${one.assignment.id}/work`"
            ><strong>{{ one.subject }}</strong></RouterLink
          >
          <span class="quiet">
            <template v-if="one.by"> from <bdi>{{ one.by }}</bdi></template
            >, <MomentText :at="one.at" />
          </span>
        </div>
        <BButton
          size="sm"
          variant="outline-primary"
          :disabled="busy"
          :aria-label="`Put away: ${one.subject}`"
          @click="putAway(one.id)"
          >Put away</BButton
        >
      </div>
      <p class="note-text mb-0">{{ one.text }}</p>
    </article>
  </section>
</template>

<style>
.my-notes {
  margin: 1rem 1.5rem 0;
  display: grid;
  gap: 0.6rem;
}
.note-text {
  white-space: pre-line;
  overflow-wrap: anywhere;
}
</style>
