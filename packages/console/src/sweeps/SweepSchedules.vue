<script setup lang="ts">
import type { SweepScope } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { reactive } from 'vue'
import ConfirmAct from '../parts/ConfirmAct.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'

/** Sweeps that begin by themselves. */
const { scope } = defineProps<{ scope: SweepScope & { depth: 'plain' | 'deep'; follower: 'http' | 'browser' } }>()
const { data: schedules, refetch } = useCall('listSweepSchedules', {})
const { data: mail } = useCall('showMailDigest', {})
const { act, actError, busy } = useActing()
const wanted = reactive({ every: 'day' as 'day' | 'week', hour: 2, mail: false })
const add = () => act(() => call('createSweepSchedule', { body: { ...scope, ...wanted } }).then(refetch))
const HOURS = Array.from({ length: 24 }, (_, hour) => hour)
</script>

<template>
  <div class="schedules">
    <form class="d-flex gap-2 flex-wrap align-items-center" @submit.prevent="add">
      <span>Sweep what is chosen above</span>
      <select v-model="wanted.every" class="form-select form-select-sm w-auto" aria-label="How often">
        <option value="day">every night</option>
        <option value="week">on Mondays</option>
      </select>
      <select v-model.number="wanted.hour" class="form-select form-select-sm w-auto" aria-label="Hour, UTC">
        <option v-for="hour in HOURS" :key="hour" :value="hour">{{ String(hour).padStart(2, '0') }}:00 UTC</option>
      </select>
      <label v-if="mail?.on && mail.to" class="form-check mb-0"
        ><input v-model="wanted.mail" class="form-check-input" type="checkbox" /> mail me what is newly broken</label
      >
      <BButton type="submit" size="sm" variant="primary" :disabled="busy">Schedule it</BButton>
    </form>
    <ErrorNote :error="actError" />
    <table v-if="schedules && schedules.items.length > 0" class="grid-table mt-2">
      <thead>
        <tr>
          <th>Scope</th>
          <th>Next</th>
          <th>Last</th>
          <th>As</th>
          <th><span class="visually-hidden">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in schedules.items" :key="one.id">
          <td>{{ one.title }}<span v-if="one.mail" class="quiet"> · by mail when newly broken</span></td>
          <td><MomentText :at="one.nextAt" /></td>
          <td>
            <RouterLink v-if="one.lastSweep" :to="`/sweeps/${one.lastSweep}`">its sweep</RouterLink
            ><span v-else class="quiet">not yet</span>
          </td>
          <td>{{ one.by.fullName }}</td>
          <td>
            <ConfirmAct
              text="End"
              question="It sweeps no more; the sweeps that there are stay."
              @done="act(() => call('removeSweepSchedule', { params: { id: one.id } }).then(() => refetch()))"
            />
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style>
.schedules {
  background: var(--rail);
  padding: 0.8rem;
  border-radius: 0.3rem;
}
</style>
