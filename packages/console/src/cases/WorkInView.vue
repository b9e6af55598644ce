<script setup lang="ts">
import { GROUP_OF, WORK_GROUPS, type WorkGroup } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import StateWord from '../parts/StateWord.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { count } from '../state/words'
import { caseAddress } from './address'
import ReminderList from './ReminderList.vue'

/** Where the learners of an assignment stand, group by group, and what can be done with a group. */
const { assignment, course } = defineProps<{ assignment: string; course: string }>()
const SHOWN = 10
const WORDS: Record<WorkGroup, string> = {
  never_opened: 'never opened',
  opened: 'opened',
  at_work: 'at work',
  handed_in: 'handed in',
  waiting: 'waiting to be graded',
  graded: 'graded',
  trouble: 'in trouble',
  exempt: 'exempt',
}
const { data: standing, error } = useCall('showStanding', () => ({ params: { assignment } }))
const inGroup = (group: WorkGroup) => standing.value?.items.filter((one) => GROUP_OF[one.state] === group) ?? []
const groups = computed(() =>
  WORK_GROUPS.map((name) => ({ name, size: inGroup(name).length })).filter(({ size }) => size > 0),
)
const open = ref<WorkGroup>()
const all = ref(false)
const listed = computed(() => (open.value ? inGroup(open.value) : []))
const shown = computed(() => listed.value.slice(0, all.value ? undefined : SHOWN))
const { act, actError, busy } = useActing()
const text = ref('')
const done = ref('')
function choose(group: WorkGroup) {
  open.value = open.value === group ? undefined : group
  all.value = false
  done.value = ''
}
const write = () =>
  act(async () => {
    const body = { people: listed.value.map((one) => one.person.id), by: 'page', subject: standing.value!.assignment.title, text: text.value } as const
    const answer = await call('writeToLearners', { params: { assignment }, body })
    done.value = `Written to ${count(answer.written.length, 'learner')}.`
    text.value = ''
  }) // oxfmt-ignore
</script>

<template>
  <ErrorNote :error="error" />
  <section v-if="standing && standing.items.length > 0" class="panel">
    <h2>Learners</h2>
    <div class="d-flex gap-2 flex-wrap" role="group" aria-label="Where they stand">
      <BButton
        v-for="one in groups"
        :key="one.name"
        size="sm"
        variant="outline-primary"
        :pressed="open === one.name"
        @click="choose(one.name)"
        ><strong>{{ one.size }}</strong> {{ WORDS[one.name] }}</BButton
      >
    </div>
    <p v-if="standing.more" class="quiet mt-2 mb-0">There are more learners than are counted here.</p>
    <ReminderList v-if="open === 'never_opened'" :assignment="assignment" :course="course" class="mt-3" />
    <div v-else-if="open" class="mt-3">
      <div v-for="one in shown" :key="one.person.id" class="refusal d-flex gap-2 flex-wrap align-items-baseline">
        <RouterLink :to="caseAddress(course, assignment, one.person.id)"
          ><bdi>{{ one.person.fullName }}</bdi></RouterLink
        >
        <span v-if="one.points !== null">{{ one.points }} of {{ standing.outOf }}</span>
        <StateWord v-else :state="one.state" />
        <span class="quiet flex-grow-1">
          <template v-if="one.since"><MomentText :at="one.since" relative /></template
          ><template v-if="one.activity"> · the tool says {{ one.activity }}</template
          ><template v-if="one.late"> · late</template>
        </span>
        <a
          v-if="standing.reviewable && (open === 'waiting' || open === 'handed_in' || open === 'graded')"
          :href="`/lti/review/${assignment}/${one.person.id}`"
          target="_blank"
          rel="noopener"
          :aria-label="`Open the submission of ${one.person.fullName}`"
          >Open the submission</a
        >
      </div>
      <BButton v-if="listed.length > SHOWN && !all" size="sm" variant="link" class="px-0" @click="all = true"
        >Show all {{ listed.length }}</BButton
      >
      <form class="d-grid gap-2 mt-3" @submit.prevent="write">
        <label class="d-grid gap-1"
          >Write to {{ listed.length === 1 ? 'this learner' : `these ${listed.length}` }}, on their pages
          <textarea v-model="text" class="form-control form-control-sm" rows="2" maxlength="8000" />
        </label>
        <div>
          <BButton type="submit" size="sm" variant="outline-primary" :disabled="busy || text.trim() === ''"
            >Write to them</BButton
          >
        </div>
      </form>
    </div>
    <ErrorNote :error="actError" />
    <p v-if="done" class="note-good mt-2 mb-0" role="status">{{ done }}</p>
  </section>
</template>
