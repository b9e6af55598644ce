<script setup lang="ts">
import { columnChangeInWords, ERRORS, type ErrorCode, type GradeAct, type TrailEntry } from '@bathyscribe/contract'
import { computed, ref, watch } from 'vue'
import { caseAddress } from '../cases/address'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import StateWord from '../parts/StateWord.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { toolWords } from './cells'

/** All scores ever received for one person in one column, newest first, how the number came to be, and the instructor's own word on it. */
const { assignment, person, course } = defineProps<{
  assignment: string
  person: string
  /** Where the whole case stands; none of a column that the tool made. */
  course?: string | undefined
}>()
const { data: trail, error } = useCall('showTrail', () => ({ params: { assignment, person }, query: { limit: 50 } }))
const { act, actError, busy } = useActing()
const points = ref('')
const comment = ref('')
watch(
  () => [assignment, person],
  () => ((points.value = ''), (comment.value = '')),
)
const grade = (body: GradeAct) => act(() => call('gradeByHand', { params: { assignment, person }, body }))
async function set() {
  if (await grade({ act: 'override', points: points.value.trim() || null, comment: comment.value })) {
    points.value = ''
    comment.value = ''
  }
}
const handedIn = computed(() => trail.value?.items.find((one) => one.handedIn !== null)?.handedIn ?? null)
const reasonOf = (code: string) => ERRORS[code as ErrorCode]?.sentence ?? code
const WORDS: Record<TrailEntry['operation'], string> = {
  replace: '',
  delete: 'taken back by the tool',
  progress: '',
  override: 'set by hand',
  lift: 'lifted: the tool’s score applies again',
  exempt: 'exempt',
  count: 'included again',
}
const heading = (entry: TrailEntry) =>
  entry.outcome === 'refused'
    ? (entry.sent ?? 'a score')
    : entry.operation === 'progress'
      ? toolWords(entry.activity, entry.grading)
      : entry.points !== null
        ? `${entry.points} of ${entry.outOf}`
        : WORDS[entry.operation]
</script>

<template>
  <ErrorNote :error="error" />
  <template v-if="trail">
    <h2>
      <bdi>{{ trail.person.fullName }}</bdi>
    </h2>
    <p class="quiet">
      {{ trail.course.code }} · {{ trail.assignment.title }} · <StateWord :state="trail.cell.state" /><template
        v-if="trail.cell.late"
      >
        · late</template
      >
    </p>
    <p class="note-good" :class="{ 'note-look': trail.cell.points === null }">{{ trail.explained }}</p>
    <p v-if="course">
      <RouterLink :to="caseAddress(course, assignment, person)"
        >The whole case: everything that happened, and who has to act</RouterLink
      >
    </p>
    <p v-if="handedIn">
      Handed in:
      <a
        v-if="handedIn.kind === 'url' && /^https?:/.test(handedIn.value)"
        :href="handedIn.value"
        target="_blank"
        rel="noopener noreferrer"
        >{{ handedIn.value }}</a
      ><span v-else class="mono">{{ handedIn.value }}</span>
    </p>
    <p v-if="trail.reviewable">
      <a :href="`/lti/review/${assignment}/${trail.person.id}`" target="_blank" rel="noopener"
        >Open the submission in the tool</a
      >
    </p>
    <details class="panel mb-3">
      <summary>Set it by hand</summary>
      <ErrorNote :error="actError" />
      <form class="d-grid gap-2 mt-2" @submit.prevent="set">
        <label
          >Points of {{ trail.points }}; empty for none
          <input v-model="points" class="form-control form-control-sm" inputmode="decimal"
        /></label>
        <label
          >Comment, which the learner reads <textarea v-model="comment" class="form-control form-control-sm" rows="2" />
        </label>
        <div class="d-flex gap-2 flex-wrap">
          <button class="btn btn-primary btn-sm" :disabled="busy">Save</button>
          <button
            v-if="trail.cell.overridden"
            class="btn btn-outline-primary btn-sm"
            type="button"
            :disabled="busy"
            @click="grade({ act: 'lift' })"
          >
            Lift: the tool’s score applies again
          </button>
          <button
            class="btn btn-outline-primary btn-sm"
            type="button"
            :disabled="busy"
            @click="grade({ act: trail.cell.exempt ? 'count' : 'exempt' })"
          >
            {{ trail.cell.exempt ? 'Count again' : 'Exempt' }}
          </button>
        </div>
      </form>
    </details>
    <p v-if="trail.items.length === 0" class="quiet">No score has been received.</p>
    <ol class="trail">
      <li v-for="entry in trail.items" :key="entry.id">
        <div>
          <strong>{{ heading(entry) }}</strong>
          <span v-if="entry.counts" class="tone-good"> ● counts</span>
          <StateWord v-if="entry.outcome === 'refused'" state="refused" class="ms-2" />
        </div>
        <div class="quiet">
          <MomentText :at="entry.at" relative /><template v-if="entry.sent !== null">
            · sent as <span class="mono">{{ entry.sent }}</span> of {{ entry.sentOutOf ?? '1' }}</template
          ><template v-if="entry.by"> · by {{ entry.by.fullName }}</template
          ><template v-if="entry.points !== null && WORDS[entry.operation]"> · {{ WORDS[entry.operation] }}</template
          ><template v-if="entry.setAsideBy">
            · set aside
            <template v-if="entry.setAsideBy === 'reset'">when the rehearsal was cleared</template
            ><template v-else>by <RouterLink :to="`/soundings/${entry.setAsideBy}`">a sounding</RouterLink></template
            >, not used</template
          ><template v-if="entry.mergedFrom"> · sent to “{{ entry.mergedFrom }}”</template
          ><template v-if="entry.evidence"> · {{ entry.evidence }}</template
          ><template v-if="entry.code"> · {{ reasonOf(entry.code) }}</template
          ><template v-if="entry.wireEntryId">
            · <RouterLink :to="`/wire/${entry.wireEntryId}`">wire entry {{ entry.wireEntryId }}</RouterLink></template
          >
        </div>
        <div v-if="entry.comment" class="trail-comment">{{ entry.comment }}</div>
        <div v-if="entry.handedIn" class="quiet">
          With it came: <span class="mono">{{ entry.handedIn.value }}</span>
        </div>
      </li>
    </ol>
    <ul v-if="trail.changes.length > 0" class="quiet list-unstyled">
      <li v-for="one in trail.changes" :key="one.id">
        <MomentText :at="one.at" /> the column: {{ columnChangeInWords(one)
        }}<template v-if="one.by">, by {{ one.by }}</template>
      </li>
    </ul>
    <p v-if="trail.next" class="quiet">Older ones are in the gradebook’s history.</p>
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
.trail-comment {
  border-left: 3px solid var(--sea);
  padding: 0.2rem 0.7rem;
  margin: 0.3rem 0;
  white-space: pre-line;
}
</style>
