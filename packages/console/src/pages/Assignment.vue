<script setup lang="ts">
import { BButton } from 'bootstrap-vue-next'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import ProofUpright from '../assignment/ProofUpright.vue'
import ConfirmAct from '../parts/ConfirmAct.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import PageHead from '../parts/PageHead.vue'
import StateWord from '../parts/StateWord.vue'
import WireTable from '../parts/WireTable.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { isAdministrator } from '../state/session'
import Work from './Work.vue'

const { course: courseId, assignment: id } = defineProps<{ course: string; assignment: string }>()
const router = useRouter()
const { data: course, error: courseError } = useCall('showCourse', () => ({ params: { course: courseId } }))
const teaching = computed(
  () => isAdministrator.value || course.value?.myRole === 'instructor' || course.value?.myRole === 'teaching_assistant',
)
const canChange = computed(() => isAdministrator.value || course.value?.myRole === 'instructor')
const params = computed(() => ({ params: { assignment: id } }))
const { data: one, error } = useCall('showAssignment', () => (teaching.value ? params.value : undefined))
const { data: soundings } = useCall('listSoundings', () =>
  teaching.value ? { query: { assignment: id, limit: 5 } } : undefined,
)
const { data: wire } = useCall('listWire', () => (teaching.value ? { query: { assignment: id, limit: 8 } } : undefined))
const { act, actError, busy } = useActing()

const publish = () => act(() => call('publishAssignment', params.value))
const unpublish = () => act(() => call('unpublishAssignment', { ...params.value, body: { keepScores: true } }))
const sound = () => act(async () => router.push(`/soundings/${(await call('runSounding', params.value)).id}`))
</script>

<template>
  <ErrorNote :error="courseError ?? error"><RouterLink to="/courses">Your courses</RouterLink></ErrorNote>
  <Work v-if="course && !teaching" :course="courseId" :assignment="id" />
  <template v-else-if="course && one">
    <PageHead :title="one.title" :back="{ to: `/courses/${course.id}`, text: `${course.code} ${course.title}` }">
      <template #under
        ><StateWord :state="one.state" /> · {{ one.points }} points · {{ one.category?.name ?? 'no category' }} ·
        {{ one.tool.name }}</template
      >
      <RouterLink class="btn btn-sm btn-outline-primary" :to="`/courses/${course.id}/assignments/${one.id}/work`"
        >Open it as yourself</RouterLink
      >
      <RouterLink
        class="btn btn-sm btn-outline-primary"
        :to="`/courses/${course.id}/assignments/${one.id}/work?as=test_learner`"
        >Rehearse</RouterLink
      >
      <RouterLink
        v-if="canChange"
        class="btn btn-sm btn-outline-primary"
        :to="`/courses/${course.id}/assignments/${one.id}/change`"
        >Change</RouterLink
      >
      <ConfirmAct
        v-if="canChange && one.state === 'published'"
        text="Unpublish"
        :question="`Learners no longer see it. ${one.scores} scores received so far are kept.`"
        @done="unpublish"
      />
      <BButton v-if="canChange && one.state === 'draft'" size="sm" variant="primary" :disabled="busy" @click="publish"
        >Publish</BButton
      >
      <BButton
        size="sm"
        :variant="one.state === 'draft' ? 'outline-primary' : 'primary'"
        :disabled="busy"
        @click="sound"
        >Run a sounding</BButton
      >
    </PageHead>
    <ErrorNote :error="actError" />
    <p v-if="one.firstEntry.needed && !one.firstEntry.at" class="note-look">
      ▲ Waiting for first entry: {{ one.tool.name }} wants an instructor to open it before learners may.
      <RouterLink :to="`/courses/${course.id}/assignments/${one.id}/work`">Open it now</RouterLink>
    </p>
    <div class="two">
      <div class="d-grid gap-3">
        <section class="panel">
          <h2>As a learner meets it</h2>
          <p class="instructions">{{ one.instructions || 'No instructions.' }}</p>
          <dl class="facts mb-0">
            <dt>Opens in</dt>
            <dd>{{ one.documentTarget === 'frame' ? 'a frame in the page' : 'a window of its own' }}</dd>
            <dt>Leads to</dt>
            <dd class="mono">{{ one.effectiveLaunchUrl ?? '–' }}</dd>
            <dt>Custom parameters</dt>
            <dd>
              <span v-if="Object.keys(one.customParameters).length === 0">none</span>
              <div v-for="(value, name) in one.customParameters" :key="name" class="mono">{{ name }}={{ value }}</div>
            </dd>
            <dt>Short name</dt>
            <dd class="mono">{{ course.code.replaceAll(' ', '-') }}/{{ one.slug }}</dd>
          </dl>
        </section>
        <section v-if="one.preflight.length > 0" class="panel">
          <h2>Preflight</h2>
          <div v-for="remark in one.preflight" :key="remark.rule" class="refusal">
            <StateWord :state="remark.verdict" /> {{ remark.statement }} <span class="quiet">{{ remark.remedy }}</span>
          </div>
        </section>
        <section class="panel">
          <h2>Soundings</h2>
          <p v-if="soundings?.items.length === 0" class="quiet mb-0">
            None yet. A sounding takes the assignment down its whole way by itself.
          </p>
          <div v-for="run in soundings?.items" :key="run.id" class="refusal">
            <StateWord :state="run.verdict ?? run.state" />
            <RouterLink :to="`/soundings/${run.id}`"><MomentText :at="run.startedAt" relative /></RouterLink>
            <span class="quiet">{{ run.cause }}</span>
          </div>
        </section>
        <section class="panel">
          <h2>On the wire</h2>
          <WireTable v-if="wire" :entries="wire.items" empty="Nothing has been sent or received yet." />
          <RouterLink v-if="wire?.next" :to="`/wire?assignment=${one.id}`">All its entries</RouterLink>
        </section>
      </div>
      <section class="panel">
        <h2>Proof</h2>
        <ProofUpright :marks="one.proof" />
        <RouterLink :to="`/courses/${course.id}/gradebook`">Gradebook: {{ one.scores }} scores received</RouterLink>
      </section>
    </div>
  </template>
</template>
