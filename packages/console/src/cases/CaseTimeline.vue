<script setup lang="ts">
import type { CaseEvent } from '@bathyscribe/contract'
import MomentText from '../parts/MomentText.vue'

/** Everything that happened, newest first. */
const { events, more } = defineProps<{ events: readonly CaseEvent[]; more: boolean }>()
const SIGNS = {
  good: ['●', 'tone-good', 'went well'],
  bad: ['✕', 'tone-bad', 'went wrong'],
  plain: ['·', 'quiet', ''],
} as const
</script>

<template>
  <p v-if="events.length === 0" class="quiet mb-0">Nothing has happened yet: it was never opened.</p>
  <ol v-else class="case-line">
    <li v-for="(one, i) in events" :key="i">
      <span class="case-sign" :class="SIGNS[one.tone][1]"
        ><span aria-hidden="true">{{ SIGNS[one.tone][0] }}</span
        ><span class="visually-hidden">{{ SIGNS[one.tone][2] }}</span></span
      >
      <div>
        <div><span v-if="!one.isCertain" class="tone-look">▲ likely: </span>{{ one.sentence }}</div>
        <div class="quiet">
          <MomentText :at="one.at" /><template v-if="one.by"> · <bdi>{{ one.by }}</bdi></template
          ><template v-if="one.wireEntryId">
            · <RouterLink :to="`/wire/${one.wireEntryId}`">wire entry {{ one.wireEntryId }}</RouterLink></template
          >
        </div>
        <div v-if="one.text" class="trail-comment">{{ one.text }}</div>
      </div>
    </li>
  </ol>
  <p v-if="more" class="quiet mb-0">Older ones stand in the wire and in the gradebook’s history.</p>
</template>

<style>
.case-line {
  list-style: none;
  padding: 0;
  margin: 0;
}
.case-line li {
  display: flex;
  gap: 0.7rem;
  border-top: 1px solid var(--line);
  padding: 0.45rem 0;
}
.case-line li:first-child {
  border-top: 0;
}
.case-sign {
  flex: 0 0 1rem;
  text-align: center;
}
</style>
