<script setup lang="ts">
import { WATCHED_WAIT_MINUTES } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { computed, reactive } from 'vue'
import { useRoute } from 'vue-router'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'

/** How a sounding is to go when it is not to go as usual, and its beginning. */
const { assignment, course } = defineProps<{ assignment: string; course: string }>()
const emit = defineEmits<{ begun: [string] }>()
const route = useRoute()
const { act, actError, busy } = useActing()
const wanted = reactive({
  depth: 'deep' as 'plain' | 'deep',
  follower: 'http' as 'http' | 'browser',
  as: route.query['sound'] === 'pilot' ? 'pilot' : 'test_learner',
  pilot: '',
  consented: false,
  waitMinutes: WATCHED_WAIT_MINUTES,
})
const { data: members } = useCall('listMembers', () =>
  wanted.as === 'pilot' ? { params: { course }, query: { limit: 200 } } : undefined,
)
const learners = computed(
  () => members.value?.items.filter((one) => one.role === 'learner' && one.state === 'active') ?? [],
)
const ready = computed(() => wanted.as === 'test_learner' || (wanted.pilot !== '' && wanted.consented))
const start = () =>
  act(async () => {
    const { depth, follower, waitMinutes } = wanted
    const body = {
      depth,
      follower,
      waitMinutes,
      ...(wanted.as === 'pilot' && { pilot: wanted.pilot, consented: wanted.consented }),
    }
    emit('begun', (await call('runSounding', { params: { assignment }, body })).id)
  })
</script>

<template>
  <form class="panel" @submit.prevent="start">
    <h2>A sounding, with options</h2>
    <div class="run-fields">
      <label
        >How far
        <select v-model="wanted.depth" class="form-select form-select-sm">
          <option value="deep">all the way, twice</option>
          <option value="plain">launch, score, gradebook</option>
        </select>
      </label>
      <label
        >Followed by
        <select v-model="wanted.follower" class="form-select form-select-sm">
          <option value="http">the service itself</option>
          <option value="browser">a real browser, with pictures</option>
        </select>
      </label>
      <label
        >Goes as
        <select v-model="wanted.as" class="form-select form-select-sm">
          <option value="test_learner">the test learner</option>
          <option value="pilot">a learner who has agreed</option>
        </select>
      </label>
      <label
        >Waits for a person
        <select v-model.number="wanted.waitMinutes" class="form-select form-select-sm">
          <option :value="0">not at all</option>
          <option :value="5">5 minutes at most</option>
          <option :value="15">15 minutes at most</option>
          <option :value="60">an hour at most</option>
        </select>
      </label>
      <template v-if="wanted.as === 'pilot'">
        <label
          >Pilot
          <select v-model="wanted.pilot" class="form-select form-select-sm" required>
            <option value="" disabled>choose a learner</option>
            <option v-for="one in learners" :key="one.person.id" :value="one.person.id">
              {{ one.person.fullName }}
            </option>
          </select>
        </label>
        <label class="form-check align-self-end"
          ><input v-model="wanted.consented" class="form-check-input" type="checkbox" required /> The learner knows of
          it and agreed; scores that it leaves are set aside.</label
        >
      </template>
    </div>
    <p class="quiet">
      All the way means a second visit, roster, picker and review besides. Whatever it leaves is set aside; nobody’s
      numbers change.
    </p>
    <ErrorNote :error="actError" />
    <BButton type="submit" size="sm" variant="primary" :disabled="busy || !ready">Begin</BButton>
  </form>
</template>

<style>
.run-fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(16rem, 1fr));
  gap: 0.6rem 1.2rem;
  margin-bottom: 0.8rem;
}
</style>
