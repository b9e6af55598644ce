<script setup lang="ts">
import type { SweepScope } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { computed, reactive, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import StateWord from '../parts/StateWord.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { useNextPage } from '../state/next-page'
import { count } from '../state/words'
import SweepSchedules from './SweepSchedules.vue'

/** The last sweeps, and how a new one begins: at once, or again and again. */
const goOn = useNextPage()
const { data: sweeps, error } = useCall('listSweeps', { query: { limit: 6 } })
const { data: courses } = useCall('listCourses', { query: { limit: 200 } })
const { data: tools } = useCall('listTools', { query: { limit: 200 } })
const { act, actError, busy } = useActing()
const wanted = reactive({ course: '', tool: '', term: '' })
const making = ref(false)
const terms = computed(() => [...new Set((courses.value?.items ?? []).map((one) => one.term).filter(Boolean))].sort())
const scope = computed<SweepScope>(() => ({
  ...(wanted.course && { course: wanted.course }),
  ...(wanted.tool && { tool: wanted.tool }),
  ...(wanted.term && { term: wanted.term }),
}))
const manner = ref<'plain' | 'deep' | 'browser'>('plain')
const sounded = computed(() => ({
  depth: manner.value === 'plain' ? ('plain' as const) : ('deep' as const),
  follower: manner.value === 'browser' ? ('browser' as const) : ('http' as const),
}))
const start = () =>
  act(async () => {
    const body = { ...scope.value, ...sounded.value, drafts: false }
    await goOn(`/sweeps/${(await call('startSweep', { body })).id}`)
  })
</script>

<template>
  <section class="panel mb-3">
    <div class="d-flex justify-content-between gap-2 flex-wrap mb-2">
      <h2 class="mb-0">Sweeps</h2>
      <form class="d-flex gap-2 flex-wrap" @submit.prevent="start">
        <select v-model="wanted.course" class="form-select form-select-sm w-auto" aria-label="Course of the sweep">
          <option value="">all courses</option>
          <option v-for="one in courses?.items" :key="one.id" :value="one.id">{{ one.code }}</option>
        </select>
        <select v-model="wanted.tool" class="form-select form-select-sm w-auto" aria-label="Tool of the sweep">
          <option value="">all tools</option>
          <option v-for="one in tools?.items" :key="one.id" :value="one.slug">{{ one.name }}</option>
        </select>
        <select
          v-if="terms.length > 0"
          v-model="wanted.term"
          class="form-select form-select-sm w-auto"
          aria-label="Term of the sweep"
        >
          <option value="">all terms</option>
          <option v-for="one in terms" :key="one">{{ one }}</option>
        </select>
        <select v-model="manner" class="form-select form-select-sm w-auto" aria-label="How each link is sounded">
          <option value="plain">the plain way</option>
          <option value="deep">in depth</option>
          <option value="browser">in depth, by browser</option>
        </select>
        <BButton type="submit" size="sm" variant="primary" :disabled="busy">Sweep now</BButton>
        <BButton size="sm" variant="outline-primary" :aria-expanded="making" @click="making = !making"
          >On schedule</BButton
        >
      </form>
    </div>
    <ErrorNote :error="error ?? actError" />
    <SweepSchedules v-if="making" :scope="{ ...scope, ...sounded }" class="mb-3" />
    <p v-if="sweeps?.items.length === 0" class="quiet mb-0">
      None yet. A sweep sounds every link of a course, a tool or a term, and says what has changed since the last one.
    </p>
    <div v-else-if="sweeps" class="table-wrap">
      <table class="grid-table">
        <thead>
          <tr>
            <th>Scope</th>
            <th>When</th>
            <th>State</th>
            <th class="number">Links</th>
            <th>Found</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in sweeps.items" :key="one.id">
            <td>
              <RouterLink :to="`/sweeps/${one.id}`">{{ one.title }}</RouterLink>
              <span v-if="one.scheduled" class="quiet"> on schedule</span>
            </td>
            <td><MomentText :at="one.startedAt" /></td>
            <td><StateWord :state="one.state" /></td>
            <td class="number">{{ one.state === 'done' ? one.links : `${one.done} of ${one.links}` }}</td>
            <td>
              <span v-if="one.changes.newly_broken > 0" class="tone-bad"
                >✕ {{ one.changes.newly_broken }} newly broken
              </span>
              <span v-else-if="one.verdicts.fail > 0" class="tone-bad">✕ {{ one.verdicts.fail }} broken </span>
              <span v-if="one.changes.fixed > 0" class="tone-good">● {{ one.changes.fixed }} fixed </span>
              <span v-if="one.verdicts.warn > 0" class="tone-look">▲ {{ one.verdicts.warn }} to look at </span>
              <span v-if="one.verdicts.fail === 0 && one.state === 'done'" class="tone-good"
                >● {{ count(one.verdicts.pass, 'link') }} proven</span
              >
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>
