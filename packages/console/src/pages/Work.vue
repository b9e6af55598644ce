<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import MissingScore from '../cases/MissingScore.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import StateWord from '../parts/StateWord.vue'
import PageHead from '../parts/PageHead.vue'
import RichText from '../parts/RichText.vue'
import ToolStage from '../parts/ToolStage.vue'
import RehearsalChip from '../soundings/RehearsalChip.vue'
import { useCall } from '../state/api'
import { currentSession } from '../state/session'
import { courseMoment } from '../state/moments'

/** An assignment as a learner meets it: the tool in a frame or a window, and the own result, which arrives by itself. */
const { course, assignment } = defineProps<{ course: string; assignment: string }>()
const route = useRoute()
const rehearsing = computed(() => route.query['as'] === 'test_learner')
const { data: work, error } = useCall('showWork', () => ({ params: { assignment } }))
const { data: rehearsal } = useCall('showRehearsal', () => (rehearsing.value ? { params: { course } } : undefined))
const rehearsed = computed(() => rehearsal.value?.items.find((one) => one.assignment.id === work.value?.id))
const first = computed(() => route.query['first'] === '1')
/** Published a moment ago, it is sounded as soon as it leads somewhere. */
const soundsNext = computed(() => route.query['sound'] === 'next')
const dates = computed(() => {
  const one = work.value
  const said = (word: string, at: string | null | undefined) =>
    at ? [`${word} ${courseMoment(at, one!.course.timeZone)}`] : []
  return [...said('opens', one?.opensAt), ...said('due', one?.dueAt), ...said('closes', one?.closesAt)]
})
</script>

<template>
  <ErrorNote :error="error"><RouterLink to="/courses">Your courses</RouterLink></ErrorNote>
  <template v-if="work">
    <PageHead
      :title="work.title"
      :back="
        rehearsing
          ? { to: `/courses/${course}/assignments/${assignment}`, text: `${work.title} as you see it` }
          : { to: `/courses/${course}`, text: `${work.course.code} ${work.course.title}` }
      "
    >
      <template v-if="rehearsing" #chip><RehearsalChip /></template>
      <template #under
        ><template v-if="work.counted">{{ work.points }} points</template
        ><template v-else>not part of the total</template
        ><template v-if="work.category"> · {{ work.category }}</template
        ><template v-if="rehearsing">
          · <RouterLink :to="`/courses/${course}/rehearsal`">Rehearsal of the whole course</RouterLink></template
        ></template
      >
      <div v-if="!rehearsing" class="own-result" aria-live="polite">
        <template v-if="work.result"
          ><strong v-if="work.result.shown !== null">{{ work.result.shown }} of {{ work.points }}</strong
          ><StateWord v-else :state="work.result.state" />
          <div class="quiet">
            <template v-if="work.result.overridden">set by your instructor, </template>
            <template v-else-if="work.result.sent !== null"
              >{{ work.result.sent }} of {{ work.result.sentOutOf }},
            </template>
            <template v-if="work.result.shown !== null && work.result.state === 'waiting'"
              >a newer try waits,
            </template>
            <MomentText v-if="work.result.at" :at="work.result.at" />
          </div>
        </template>
        <span v-else class="quiet">No result yet</span>
      </div>
      <div v-else-if="rehearsed" class="own-result" aria-live="polite">
        <strong v-if="rehearsed.points !== null">{{ rehearsed.points }} of {{ rehearsed.outOf }}</strong>
        <span v-else class="quiet">No result of the test learner yet</span>
      </div>
    </PageHead>
    <p v-if="!rehearsing && work.reviewable">
      <a :href="`/lti/review/${work.id}/${currentSession?.person.id}`" target="_blank" rel="noopener"
        >Look at what you handed in</a
      >
    </p>
    <blockquote v-if="!rehearsing && work.result?.comment" class="note-good">
      <div class="quiet">With your result came:</div>
      <span class="comment-text">{{ work.result.comment }}</span>
    </blockquote>
    <p v-if="dates.length > 0 || work.attempts !== null" class="quiet">
      {{ dates.join(' · ')
      }}<template v-if="work.attempts !== null"> · handed in {{ work.handedIn }} of {{ work.attempts }} times</template>
    </p>
    <MissingScore v-if="!rehearsing && work.reportable" :assignment="work.id" />
    <RichText v-if="work.instructions" :html="work.instructions" :course="course" />
    <p v-if="first" class="note-look">
      {{ work.toolName }} asks here what this link should open. Choose it now, before learners come.
      <RouterLink :to="`/courses/${course}/assignments/${assignment}${soundsNext ? '?sound=now' : ''}`"
        >Done: back to the assignment</RouterLink
      >
    </p>
    <p v-if="!work.openable" class="note-look">
      <template v-if="work.obstacle">{{ work.obstacle }}</template>
      <template v-else
        >{{ work.toolName }} cannot be opened just now. Ask your instructor; nothing you did is lost.</template
      >
    </p>
    <ToolStage
      v-else
      :link="work.id"
      :target="work.documentTarget"
      :name="work.toolName"
      :query="rehearsing ? 'as=test_learner' : ''"
      ><template #opened
        >It is open in another window. Your result appears here by itself when {{ work.toolName }} sends it.</template
      ></ToolStage
    >
  </template>
</template>

<style>
.comment-text {
  white-space: pre-line;
}
.own-result {
  text-align: right;
}
.own-result strong {
  font-size: 1.3rem;
}
</style>
