<script setup lang="ts">
import type { AssignmentDetail } from '@bathyscribe/contract'
import { computed } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import StateWord from '../parts/StateWord.vue'
import ToolStage from '../parts/ToolStage.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'
import { stageWord } from '../state/words'
import { useFollowedSounding } from './followed'

/** A sounding under the eyes of whoever began it, on the assignment’s own page: how far it is, what a person is to do, and what it came to. */
const { sounding, assignment } = defineProps<{ sounding: string; assignment: AssignmentDetail }>()
const emit = defineEmits<{ close: [] }>()
const { data: one, error } = useFollowedSounding(() => sounding)
const { act, actError, busy } = useActing()
const endWait = () => act(() => call('endWait', { params: { id: sounding } }))
const done = computed(() => new Set(one.value?.findings.map((finding) => finding.stage)).size)
const now = computed(() => one.value?.stages[done.value]?.stage)
const remedy = computed(
  () => one.value?.findings.find((finding) => finding.verdict === one.value?.verdict && finding.remedy)?.remedy,
)
const proven = computed(() => assignment.proof.every((mark) => mark.state === 'proven'))
</script>

<template>
  <section class="panel mb-3" aria-live="polite" aria-label="The sounding that is under way">
    <ErrorNote :error="error ?? actError" />
    <template v-if="one">
      <div class="d-flex gap-3 align-items-baseline flex-wrap">
        <h2 class="mb-0">Sounding</h2>
        <StateWord :state="one.verdict ?? one.state" />
        <span v-if="one.state === 'running' && !one.waiting && now" class="quiet">{{ stageWord(now) }} …</span>
        <RouterLink class="ms-auto" :to="`/soundings/${one.id}`">All that it finds</RouterLink>
        <button v-if="one.state !== 'running'" class="plain" type="button" @click="emit('close')">Close</button>
      </div>
      <progress
        v-if="one.state === 'running'"
        class="w-100 mt-2"
        :value="done"
        :max="one.stages.length"
        aria-label="Stages done"
      ></progress>
      <template v-if="one.waiting">
        <p class="note-look mt-2 mb-2">
          <strong>▲ {{ assignment.tool.name }} scores nothing by itself, so a person has to do the work once.</strong>
          {{
            one.pilot
              ? one.waiting.for
              : 'Do it here as the test learner and hand it in; the sounding goes on when the score comes.'
          }}
          It goes on without it at <MomentText :at="one.waiting.until" />, or at once:
          <button class="plain" type="button" :disabled="busy" @click="endWait">Go on without it</button>
        </p>
        <ToolStage
          v-if="!one.pilot"
          :link="assignment.id"
          :target="assignment.documentTarget"
          :name="`${assignment.tool.name}, as the test learner`"
          query="as=test_learner"
          :low="true"
          ><template #opened>It is open in another window. The sounding goes on by itself.</template></ToolStage
        >
      </template>
      <template v-else-if="one.state !== 'running'">
        <p v-if="one.verdict !== 'fail' && proven" class="note-good mt-2 mb-0">
          <strong>● Proven all the way, from the launch to the gradebook.</strong>
        </p>
        <p v-else-if="one.state === 'done' && !one.cause" class="note-look mt-2 mb-0">
          ▲ Nothing is wrong, but not every mark is lit: see the proof for what is missing.
        </p>
        <p v-if="one.cause" :class="['mt-2 mb-0', one.verdict === 'warn' ? 'note-look' : 'note-bad']">
          <strong>{{ one.cause }}</strong>
          <template v-if="remedy"><br />→ {{ remedy }}</template>
        </p>
      </template>
    </template>
  </section>
</template>
