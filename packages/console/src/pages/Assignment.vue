<script setup lang="ts">
import { BButton, BDropdown, BDropdownDivider, BDropdownItemButton } from 'bootstrap-vue-next'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import PreflightPanel from '../assignment/PreflightPanel.vue'
import ProofUpright from '../assignment/ProofUpright.vue'
import ConfirmAct from '../parts/ConfirmAct.vue'
import WorkInView from '../cases/WorkInView.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import PageHead from '../parts/PageHead.vue'
import RichText from '../parts/RichText.vue'
import StateWord from '../parts/StateWord.vue'
import WireTable from '../parts/WireTable.vue'
import ExpectationPanel from '../soundings/ExpectationPanel.vue'
import RunSounding from '../soundings/RunSounding.vue'
import SoundingNow from '../soundings/SoundingNow.vue'
import { beginSounding } from '../soundings/begin'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { courseMoment } from '../state/moments'
import { useNextPage } from '../state/next-page'
import { currentSession, isAdministrator } from '../state/session'
import Work from './Work.vue'

const { course: courseId, assignment: id } = defineProps<{ course: string; assignment: string }>()
const goOn = useNextPage()
const route = useRoute()
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

const asked = (name: 'sounding' | 'sound') => (typeof route.query[name] === 'string' ? route.query[name] : undefined)
const running = computed(() => soundings.value?.items.find((run) => run.state === 'running')?.id)
/** The sounding that is shown under way: the one that was begun here, or one that runs. */
const shut = ref('')
const under = computed(() => {
  const id = asked('sounding') ?? running.value
  return id === shut.value ? undefined : id
})
const show = (sounding: string) => goOn({ query: { sounding }, replace: true })
const sound = () => act(async () => show(await beginSounding(id)))
watch(
  () => asked('sound') === 'now' && one.value !== undefined,
  (now) => now && sound(),
  { immediate: true },
)
/** @param publishUnit with it, the unit that hides it */
const publish = (publishUnit: boolean) =>
  act(async () => {
    const before = one.value?.state
    await call('publishAssignment', { ...params.value, body: { publishUnit } })
    if (before === 'draft' && currentSession.value?.platform.soundOnPublish) await show(await beginSounding(id))
  })
const unpublish = () => act(() => call('unpublishAssignment', { ...params.value, body: { keepScores: true } }))
const copy = () =>
  act(async () => goOn(`/courses/${courseId}/assignments/${(await call('copyAssignment', params.value)).id}`))
const remove = () => act(() => call('deleteAssignment', params.value))
const restore = () => act(() => call('restoreAssignment', params.value))
const accept = (rule: string, reason: string) =>
  act(() => call('acceptWarning', { ...params.value, body: { rule, reason } }))
const dates = computed(() => {
  const said = (word: string, at: string | null | undefined) =>
    at ? [`${word} ${courseMoment(at, one.value!.course.timeZone)}`] : []
  return [
    ...said('opens', one.value?.opensAt),
    ...said('due', one.value?.dueAt),
    ...said('closes', one.value?.closesAt),
  ].join(', ')
})
const choosing = ref(asked('sound') === 'pilot')
</script>

<template>
  <ErrorNote :error="courseError ?? error"><RouterLink to="/courses">Your courses</RouterLink></ErrorNote>
  <Work v-if="course && !teaching" :course="courseId" :assignment="id" />
  <template v-else-if="course && one">
    <PageHead :title="one.title" :back="{ to: `/courses/${course.id}`, text: `${course.code} ${course.title}` }">
      <template #under
        ><StateWord :state="one.state" /> · {{ one.counted ? `${one.points} points` : 'not part of the total' }} ·
        {{ one.category?.name ?? 'no category' }} · {{ one.tool.name
        }}<template v-if="one.unit"> · {{ one.unit.title }}</template></template
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
      <template v-if="canChange && one.state === 'draft'">
        <BButton
          v-if="one.unit && !one.unit.published"
          size="sm"
          variant="outline-primary"
          :disabled="busy"
          @click="publish(true)"
          >Publish with its unit</BButton
        >
        <BButton size="sm" variant="primary" :disabled="busy" @click="publish(false)">Publish</BButton>
      </template>
      <BButton
        size="sm"
        :variant="one.state === 'draft' ? 'outline-primary' : 'primary'"
        :disabled="busy || running !== undefined"
        @click="sound"
        >Run a sounding</BButton
      >
      <BDropdown text="More" size="sm" variant="outline-primary" placement="bottom-end">
        <BDropdownItemButton @click="choosing = !choosing">A sounding with options …</BDropdownItemButton>
        <template v-if="canChange">
          <BDropdownItemButton :disabled="busy" @click="copy">Copy</BDropdownItemButton>
          <BDropdownDivider />
          <ConfirmAct
            v-if="one.state === 'published'"
            item
            text="Unpublish"
            :question="`Learners no longer see it. ${one.scores} scores received so far are kept.`"
            @done="unpublish"
          />
          <ConfirmAct
            item
            text="Delete"
            :question="`“${one.title}” disappears for everybody. Its ${one.scores} scores are kept, and it can be restored for a while.`"
            @done="remove"
          />
        </template>
      </BDropdown>
    </PageHead>
    <ErrorNote :error="actError" />
    <RunSounding
      v-if="choosing"
      :assignment="one.id"
      :course="course.id"
      class="mb-3"
      @begun="(begun) => ((choosing = false), show(begun))"
    />
    <SoundingNow v-if="under" :key="under" :sounding="under" :assignment="one" @close="shut = under" />
    <p v-if="one.state === 'deleted'" class="note-bad">
      ✕ Deleted: nobody sees it, its {{ one.scores }} scores are kept.
      <button v-if="canChange" class="plain" type="button" :disabled="busy" @click="restore">Bring it back</button>
    </p>
    <p v-else-if="one.state === 'published' && one.unit && !one.unit.published" class="note-look">
      ▲ It is published, but its unit “{{ one.unit.title }}” is a draft: learners do not find it.
      <button v-if="canChange" class="plain" type="button" :disabled="busy" @click="publish(true)">
        Publish the unit
      </button>
    </p>
    <p v-else-if="one.firstEntry.needed && !one.firstEntry.at" class="note-look">
      ▲ Waiting for first entry: {{ one.tool.name }} wants an instructor to open it before learners may.
      <RouterLink :to="`/courses/${course.id}/assignments/${one.id}/work`">Open it now</RouterLink>
    </p>
    <div class="two">
      <div class="d-grid gap-3">
        <section class="panel">
          <h2>As a learner meets it</h2>
          <RichText v-if="one.instructions" :html="one.instructions" :course="course.id" />
          <p v-else class="quiet">No instructions.</p>
          <dl class="facts mb-0">
            <dt>Opens in</dt>
            <dd>{{ one.documentTarget === 'frame' ? 'a frame in the page' : 'a window of its own' }}</dd>
            <template v-if="dates"
              ><dt>When</dt>
              <dd>{{ dates }}</dd></template
            >
            <template v-if="one.attempts"
              ><dt>Attempts</dt>
              <dd>{{ one.attempts }}</dd></template
            >
            <dt>For</dt>
            <dd>
              <template v-if="!one.audience">everyone</template>
              <template v-else
                >{{
                  [
                    ...one.audience.groups.map((each) => each.name),
                    ...one.audience.people.map((each) => each.fullName),
                  ].join(', ') || 'nobody yet'
                }}
                ({{ one.audience.reached }} learners)</template
              >
            </dd>
            <template v-if="one.content"
              ><dt>Content</dt>
              <dd>
                {{ one.content.title || 'picked in the tool' }}<span class="quiet"> picked in {{ one.tool.name }}</span>
              </dd></template
            >
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
          <PreflightPanel :remarks="one.preflight" :accepts="canChange" @accept="accept" />
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
        <WorkInView v-if="one.state === 'published'" :assignment="one.id" :course="course.id" />
        <ExpectationPanel :assignment="one.id" />
        <section class="panel">
          <h2>On the wire</h2>
          <WireTable v-if="wire" :entries="wire.items" of-assignment empty="Nothing has been sent or received yet." />
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
