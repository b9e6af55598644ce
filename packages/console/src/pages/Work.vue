<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import PageHead from '../parts/PageHead.vue'
import { useCall } from '../state/api'

/** An assignment as a learner meets it: the tool in a frame or a window, and the own result, which arrives by itself. */
const { course, assignment } = defineProps<{ course: string; assignment: string }>()
const route = useRoute()
const rehearsing = computed(() => route.query['as'] === 'test_learner')
const { data: work, error } = useCall('showWork', () => ({ params: { assignment } }))
const query = computed(() => (rehearsing.value ? '?as=test_learner' : ''))
const opened = ref(false)
const windowAddress = computed(
  () => `/lti/launch/${work.value?.id}?target=window${rehearsing.value ? '&as=test_learner' : ''}`,
)
const fills = ref(false)
</script>

<template>
  <p v-if="rehearsing" class="note-look d-flex gap-3" role="status">
    <span>You rehearse as the course’s test learner. Nothing done here touches real learners’ numbers.</span>
    <RouterLink class="ms-auto" :to="`/courses/${course}/assignments/${assignment}`">Leave the rehearsal</RouterLink>
  </p>
  <ErrorNote :error="error"><RouterLink to="/courses">Your courses</RouterLink></ErrorNote>
  <template v-if="work">
    <PageHead
      :title="work.title"
      :back="{ to: `/courses/${course}`, text: `${work.course.code} ${work.course.title}` }"
    >
      <template #under
        >{{ work.points }} points<template v-if="work.category"> · {{ work.category }}</template></template
      >
      <div v-if="!rehearsing" class="own-result" aria-live="polite">
        <template v-if="work.result"
          ><strong>{{ work.result.shown }} of {{ work.points }}</strong>
          <div class="quiet">{{ work.result.fraction }} of 1, <MomentText :at="work.result.at" /></div
        ></template>
        <span v-else class="quiet">No result yet</span>
      </div>
    </PageHead>
    <p class="instructions">{{ work.instructions }}</p>
    <p v-if="!work.openable" class="note-look">
      {{ work.toolName }} cannot be opened just now. Ask your instructor; nothing you did is lost.
    </p>
    <template v-else-if="work.documentTarget === 'frame'">
      <div class="stage-frame" :class="{ fills }">
        <div class="stage-bar">
          <span>{{ work.toolName }}</span><button class="plain" type="button" @click="fills = !fills">
            {{ fills ? 'Back to the page' : 'Fill the window' }}
          </button>
        </div>
        <iframe
          :src="`/lti/stage/${work.id}${query}`"
          :title="`${work.toolName}: ${work.title}`"
          allow="fullscreen"
        ></iframe>
      </div>
    </template>
    <template v-else>
      <a class="btn btn-primary" :href="windowAddress" target="_blank" rel="opener" @click="opened = true"
        >Open {{ work.toolName }} in a window</a
      >
      <p v-if="opened" class="quiet mt-3">
        It is open in another window. Your result appears here by itself when {{ work.toolName }} sends it.
      </p>
    </template>
  </template>
</template>

<style>
.own-result {
  text-align: right;
}
.own-result strong {
  font-size: 1.3rem;
}
.stage-frame.fills {
  position: fixed;
  inset: 0;
  z-index: 1000;
  height: auto;
  border-radius: 0;
}
.stage-bar {
  display: flex;
  justify-content: space-between;
  padding: 0.3rem 0.8rem;
  border-bottom: 1px solid var(--line);
}
</style>
