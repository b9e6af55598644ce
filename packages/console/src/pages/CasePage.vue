<script setup lang="ts">
import { CASE_ACTOR_WORDS, CASE_CERTAINTY_WORDS } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import CaseLetters from '../cases/CaseLetters.vue'
import CaseTimeline from '../cases/CaseTimeline.vue'
import DiagnosisNote from '../parts/DiagnosisNote.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import PageHead from '../parts/PageHead.vue'
import StateWord from '../parts/StateWord.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'

/** Everything that happened between one person and one assignment, why, and who has to act. */
const { assignment, person } = defineProps<{ course: string; assignment: string; person: string }>()
const params = computed(() => ({ params: { assignment, person } }))
const { data: one, error } = useCall('showCase', params)
const { act, actError, busy } = useActing()
const note = ref('')
const change = (state: 'open' | 'closed') =>
  act(async () => {
    await call('setCaseState', { ...params.value, body: { state, note: note.value } })
    note.value = ''
  })
const SIGNS = { proven: ['●', 'tone-good'], likely: ['▲', 'tone-look'], unknown: ['○', 'quiet'] } as const
const sign = computed(() => SIGNS[one.value?.judged.certainty ?? 'unknown'])
</script>

<template>
  <ErrorNote :error="error"><RouterLink to="/cases">Cases</RouterLink></ErrorNote>
  <template v-if="one">
    <PageHead
      :title="one.person.fullName"
      :back="{ to: `/courses/${one.course.id}/assignments/${one.assignment.id}`, text: one.assignment.title }"
    >
      <template #under>
        <template v-if="one.cell.points !== null">{{ one.cell.points }} of {{ one.outOf }} points</template
        ><StateWord v-else :state="one.cell.state" /> · {{ one.course.code }} ·
        <RouterLink :to="`/tools/${one.tool.slug}`">{{ one.tool.name }}</RouterLink>
        <template v-if="one.since"> · case {{ one.state }} since <MomentText :at="one.since" /></template>
      </template>
      <RouterLink class="btn btn-sm btn-outline-primary" :to="`/courses/${one.course.id}/gradebook`"
        >Gradebook</RouterLink
      >
    </PageHead>
    <div class="two">
      <div class="d-grid gap-3">
        <section class="panel">
          <h2>
            What it is
            <span :class="sign[1]" class="case-certainty"
              ><span aria-hidden="true">{{ sign[0] }}</span> {{ CASE_CERTAINTY_WORDS[one.judged.certainty] }}</span
            >
          </h2>
          <p class="lead-case">{{ one.judged.sentence }}</p>
          <p class="mb-0"><strong>To act: {{ CASE_ACTOR_WORDS[one.judged.actor] }}.</strong> {{ one.judged.act }}</p>
        </section>
        <DiagnosisNote v-if="one.diagnosis" :found="one.diagnosis" />
        <section class="panel">
          <h2>What happened</h2>
          <CaseTimeline :events="one.events" :more="one.more" />
        </section>
      </div>
      <div class="d-grid gap-3 align-content-start">
        <CaseLetters :of="one" />
        <section class="panel">
          <h2>State of the case</h2>
          <form class="d-grid gap-2" @submit.prevent="change(one.state === 'open' ? 'closed' : 'open')">
            <label class="d-grid gap-1"
              >Note, for those who look at it later
              <textarea v-model="note" class="form-control form-control-sm" rows="2" maxlength="2000" />
            </label>
            <ErrorNote :error="actError" />
            <div>
              <BButton type="submit" size="sm" variant="outline-primary" :disabled="busy">{{
                one.state === 'open' ? 'Close the case' : one.state === 'closed' ? 'Open it again' : 'Take it up'
              }}</BButton>
            </div>
          </form>
        </section>
      </div>
    </div>
  </template>
</template>

<style>
.lead-case {
  font-size: 1.06rem;
}
.case-certainty {
  font-size: 0.9rem;
  font-weight: normal;
  margin-left: 0.4rem;
}
</style>
