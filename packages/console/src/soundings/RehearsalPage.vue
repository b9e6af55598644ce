<script setup lang="ts">
import { computed, onMounted } from 'vue'
import ConfirmAct from '../parts/ConfirmAct.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import PageHead from '../parts/PageHead.vue'
import StateWord from '../parts/StateWord.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { count } from '../state/words'
import RehearsalChip from './RehearsalChip.vue'

/** A course as its test learner meets it: the published work with what came of it; for who looks, drafts as well, and its traces can be cleared. */
const { course: ref } = defineProps<{ course: string }>()
const { data: course, error: courseError } = useCall('showCourse', () => ({ params: { course: ref } }))
const { data: rehearsal, error, refetch } = useCall('showRehearsal', () => ({ params: { course: ref } }))
// That something was opened is told to nobody, so what was read before may be old.
onMounted(() => void refetch())
const { act, actError, busy } = useActing()
const shown = computed(() => rehearsal.value?.items.filter((one) => one.state === 'published') ?? [])
const hidden = computed(() => rehearsal.value?.items.filter((one) => one.state === 'draft') ?? [])
const clear = () => act(() => call('clearTestLearner', { params: { course: ref } }))
</script>

<template>
  <ErrorNote :error="courseError ?? error"><RouterLink to="/courses">Your courses</RouterLink></ErrorNote>
  <template v-if="course && rehearsal">
    <PageHead
      :title="`${course.code} ${course.title}`"
      :back="{ to: `/courses/${course.id}`, text: `${course.code} as you see it` }"
    >
      <template #chip><RehearsalChip /></template>
      <template #under>as {{ rehearsal.testLearner.fullName }}</template>
      <ConfirmAct
        v-if="rehearsal.traces > 0"
        text="Clear its traces"
        :question="`${count(rehearsal.traces, 'trace')} of the test learner: visits are taken away, scores stay in the trail but are not used.`"
        :disabled="busy"
        @done="clear"
      />
    </PageHead>
    <ErrorNote :error="actError" />
    <section class="panel table-wrap">
      <p v-if="shown.length === 0" class="mb-0">
        Learners see no work here yet. Publish an assignment, and it is shown here as they see it.
      </p>
      <table v-else class="grid-table">
        <thead>
          <tr>
            <th>Work</th>
            <th>Tool</th>
            <th class="number">Opened</th>
            <th>Last</th>
            <th class="number">Result</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in shown" :key="one.assignment.id">
            <td class="wide">
              <RouterLink :to="`/courses/${course.id}/assignments/${one.assignment.id}/work?as=test_learner`">{{
                one.assignment.title
              }}</RouterLink>
              <div v-if="one.refusesTestLearners" class="tone-look">
                ▲ {{ one.tool.name }} takes no test learners.
                <RouterLink :to="`/courses/${course.id}/assignments/${one.assignment.id}?sound=pilot`"
                  >Sound it with a pilot</RouterLink
                >
              </div>
            </td>
            <td>
              {{ one.tool.name }}
              <span v-if="one.tool.state !== 'enabled'"><StateWord :state="one.tool.state" /></span>
            </td>
            <td class="number">{{ one.launches === 0 ? 'never' : count(one.launches, 'time') }}</td>
            <td><MomentText v-if="one.lastAt" :at="one.lastAt" relative /><span v-else class="quiet">–</span></td>
            <td class="number">
              <template v-if="one.points !== null">{{ one.points }} of {{ one.outOf }}</template
              ><span v-else class="quiet">none yet, of {{ one.outOf }}</span>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <p v-if="hidden.length > 0" class="quiet mt-3">
      Learners do not see {{ count(hidden.length, 'draft') }}:
      <template v-for="(one, i) in hidden" :key="one.assignment.id"
        ><template v-if="i > 0">, </template
        ><RouterLink :to="`/courses/${course.id}/assignments/${one.assignment.id}`">{{
          one.assignment.title
        }}</RouterLink></template
      >.
    </p>
  </template>
</template>
