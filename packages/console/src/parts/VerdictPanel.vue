<script setup lang="ts">
import type { Diagnosis, Verdict } from '@bathyscribe/contract'
import { computed, ref } from 'vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { causeInWords } from '../state/words'
import ErrorNote from './ErrorNote.vue'
import MomentText from './MomentText.vue'

/** Whether what was told of an entry was right: what is said of it so far, and how to say it. */
const { entry, found, verdicts } = defineProps<{ entry: string; found: Diagnosis; verdicts: Verdict[] }>()
const { act, actError, busy } = useActing()

const isTold = computed(() => found.causes.length > 0)
const isSaid = computed(() => verdicts.some((one) => !one.byItself))
/** The form that says what it was instead. */
const asks = ref(false)
const was = ref('')
const { data: codes } = useCall('listCauseCodes', () => (asks.value ? {} : undefined))

const say = (body: { verdict: 'right' | 'wrong'; cause?: string; was?: string }) =>
  act(() => call('judgeDiagnosis', { params: { entry }, body }))
async function sayWrong() {
  if (await say({ verdict: 'wrong', ...(was.value && { was: was.value }) })) asks.value = false
}
const takeBack = () => act(() => call('takeVerdictBack', { params: { entry } }))
</script>

<template>
  <section class="verdict" aria-label="Whether it was right">
    <ErrorNote :error="actError" />
    <p v-for="one in verdicts" :key="one.code" class="mb-2">
      <span :class="one.verdict === 'right' ? 'tone-good' : 'tone-bad'" aria-hidden="true">{{
        one.verdict === 'right' ? '●' : '✕'
      }}</span>
      <template v-if="one.byItself">
        Shown to be right by itself: the next message of this link passed, <MomentText :at="one.at" />.
      </template>
      <template v-else>
        <template v-if="one.code === 'none'">Said</template>
        <template v-else><strong>{{ causeInWords(one.code) }}</strong> was said to be {{ one.verdict }}</template>
        by <bdi>{{ one.by?.fullName ?? 'somebody who is gone' }}</bdi>, <MomentText :at="one.at" /><template
          v-if="one.was"
          >: it was <strong>{{ causeInWords(one.was) }}</strong></template
        >.
      </template>
    </p>
    <div v-if="!asks" class="d-flex gap-2 flex-wrap align-items-center">
      <span v-if="!isTold">Do you know what it was?</span>
      <span v-else-if="verdicts.length === 0">{{
        found.certainty === 'several' ? 'Which was it?' : 'Was this what was wrong?'
      }}</span>
      <template v-if="isTold && found.certainty === 'several'">
        <button
          v-for="cause in found.causes"
          :key="cause.code"
          type="button"
          class="btn btn-sm btn-outline-primary"
          :disabled="busy"
          @click="say({ verdict: 'right', cause: cause.code })"
        >
          It was: {{ causeInWords(cause.code) }}
        </button>
      </template>
      <button
        v-else-if="isTold"
        type="button"
        class="btn btn-sm btn-outline-primary"
        :disabled="busy"
        @click="say({ verdict: 'right' })"
      >
        Yes, it was this
      </button>
      <button type="button" class="btn btn-sm btn-outline-primary" :disabled="busy" @click="asks = true">
        {{ !isTold ? 'Say what it was' : found.causes.length > 1 ? 'No, none of these' : 'No, it was not' }}
      </button>
      <button v-if="isSaid" type="button" class="btn btn-sm btn-link" :disabled="busy" @click="takeBack">
        Take back what was said
      </button>
    </div>
    <form v-else class="d-flex gap-2 flex-wrap align-items-end" @submit.prevent="sayWrong">
      <label>
        What it was
        <select v-model="was" class="form-select form-select-sm" :required="!isTold">
          <option value="">{{ isTold ? 'not known, or not in this list' : 'choose' }}</option>
          <option v-for="code in codes?.items" :key="code" :value="code">{{ causeInWords(code) }}</option>
        </select>
      </label>
      <button type="submit" class="btn btn-sm btn-primary" :disabled="busy">
        {{ isTold ? 'Say that it was wrong' : 'Say so' }}
      </button>
      <button type="button" class="btn btn-sm btn-outline-primary" @click="asks = false">Cancel</button>
    </form>
  </section>
</template>

<style>
.verdict {
  border-top: 1px solid var(--line);
  margin-top: 0.8rem;
  padding-top: 0.7rem;
}
</style>
