<script setup lang="ts">
import type { Gradebook } from '@bathyscribe/contract'
import { computed } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { plain } from '../state/words'
import { cellOf } from './cells'
import ScoreSpread from './ScoreSpread.vue'

/** One column: where it comes from, how its results are spread, and who has none yet, and why. */
const { book, column: id, canChange } = defineProps<{ book: Gradebook; column: string; canChange: boolean }>()
const { act, actError, busy } = useActing()
const unmerge = (one: string) => act(() => call('unmergeColumn', { params: { assignment: one } }))
const column = computed(() => book.columns.find((one) => one.id === id))
const { data: missing, error } = useCall('listUnscored', () => ({ params: { assignment: id } }))
const points = computed(() =>
  book.rows.flatMap((row) => {
    const cell = cellOf(row, id)
    return row.isTestLearner || cell.points === null ? [] : [Number(cell.points)]
  }),
)
const COUNTS = {
  latest: 'The latest score counts.',
  best: 'The best score counts.',
  first: 'The first score counts.',
  mean: 'The mean of all scores counts.',
}
</script>

<template>
  <template v-if="column">
    <h2>{{ column.title }}</h2>
    <p class="quiet">
      {{ column.state === 'column' ? `Made by ${column.tool.name} itself` : `An assignment with ${column.tool.name}` }}
      · of {{ column.points }} · {{ column.category?.name ?? 'no category' }} · {{ COUNTS[column.counting] }}
      <template v-if="!column.released"> Learners do not see their results yet.</template>
    </p>
    <p>
      <template v-if="column.lastScoreAt">Last heard of <MomentText :at="column.lastScoreAt" relative />.</template>
      <template v-else>The tool has sent nothing yet.</template>
      <template v-if="column.refused > 0">
        <RouterLink :to="`/wire?assignment=${column.id}&outcome=refused`"
          >{{ column.refused }} scores were refused since.</RouterLink
        ></template
      >
    </p>
    <p v-for="one in column.merged" :key="one.id" class="d-flex gap-3 align-items-center">
      <span>The tool’s own column “{{ one.title }}” is merged into it.</span>
      <button
        v-if="canChange"
        class="btn btn-sm btn-outline-primary"
        type="button"
        :disabled="busy"
        @click="unmerge(one.id)"
      >
        Take the merge back
      </button>
    </p>
    <p>
      <RouterLink :to="`/courses/${book.course.id}/gradebook/${column.id}/reconcile`"
        >Compare with the tool’s own export</RouterLink
      >
    </p>
    <ErrorNote :error="actError" />
    <ScoreSpread :points="points" :out-of="Number(column.points)" />
    <ErrorNote :error="error" />
    <h2 class="mt-3">Without a score</h2>
    <p v-if="missing && missing.items.length === 0" class="quiet">Everybody has one.</p>
    <ul class="list-unstyled">
      <li v-for="one in missing?.items" :key="one.person.id" class="unscored">
        <bdi>{{ one.person.fullName }}</bdi> <strong>{{ plain(one.why) }}</strong>
        <div class="quiet">{{ one.statement }} <MomentText v-if="one.at" :at="one.at" /></div>
      </li>
    </ul>
  </template>
</template>

<style>
.unscored {
  border-top: 1px solid var(--line);
  padding: 0.35rem 0;
}
</style>
