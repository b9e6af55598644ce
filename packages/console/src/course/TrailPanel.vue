<script setup lang="ts">
import { ERRORS, type ErrorCode } from '@bathyscribe/contract'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import StateWord from '../parts/StateWord.vue'
import { useCall } from '../state/api'

/** All scores ever received for one person in one assignment, newest first, and how the number came to be. */
const { assignment, person } = defineProps<{ assignment: string; person: string }>()
const { data: trail, error } = useCall('showTrail', () => ({ params: { assignment, person }, query: { limit: 50 } }))
const reasonOf = (code: string) => ERRORS[code as ErrorCode]?.sentence ?? code
</script>

<template>
  <ErrorNote :error="error" />
  <template v-if="trail">
    <h2>
      <bdi>{{ trail.person.fullName }}</bdi>
    </h2>
    <p class="quiet">{{ trail.course.code }} · {{ trail.assignment.title }}</p>
    <p class="note-good" :class="{ 'note-look': trail.cell.points === null }">{{ trail.explained }}</p>
    <p v-if="trail.items.length === 0" class="quiet">No score has been received.</p>
    <ol class="trail">
      <li v-for="entry in trail.items" :key="entry.id">
        <div>
          <strong v-if="entry.points !== null">{{ entry.points }} of {{ entry.outOf }}</strong
          ><strong v-else-if="entry.operation === 'delete'">cleared</strong
          ><strong v-else class="mono">{{ entry.sent }}</strong>
          <span v-if="entry.counts" class="tone-good"> ● counts</span>
          <StateWord v-if="entry.outcome === 'refused'" state="refused" class="ms-2" />
        </div>
        <div class="quiet">
          <MomentText :at="entry.at" relative /><template v-if="entry.sent !== null">
            · sent as <span class="mono">{{ entry.sent }}</span> of 1</template
          ><template v-if="entry.code"> · {{ reasonOf(entry.code) }}</template> ·
          <RouterLink :to="`/wire/${entry.wireEntryId}`">wire entry {{ entry.wireEntryId }}</RouterLink>
        </div>
        <div v-if="entry.resultData" class="quiet">
          With it came: <span class="mono">{{ entry.resultData.value }}</span>
        </div>
      </li>
    </ol>
  </template>
</template>

<style>
.trail {
  list-style: none;
  padding: 0;
}
.trail li {
  border-top: 1px solid var(--line);
  padding: 0.6rem 0;
}
</style>
