<script setup lang="ts">
import { HAND_ON, HAND_ON_WORDS, type HandOn } from '@bathyscribe/contract'
import { computed, ref, watch } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import StateWord from '../parts/StateWord.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { isAdministrator } from '../state/session'

/** What the records office has of a course, and handing on what it has not. */
const { course, canChange } = defineProps<{ course: string; canChange: boolean }>()
const { data: view, error } = useCall('showHandOn', () => ({ params: { course } }))
const { data: office } = useCall('showRecordsOffice', () => (isAdministrator.value ? {} : undefined))
const { act, actError, busy } = useActing()
const said = ref('')
const unsent = computed(
  () => view.value?.columns.reduce((sum, one) => sum + (one.mode === 'never' ? 0 : one.unsent), 0) ?? 0,
)

async function send(again: boolean, columns?: string[]) {
  await act(async () => {
    const { queued, unchanged } = await call('handOn', {
      params: { course },
      body: { again, ...(columns && { columns }) },
    })
    said.value = `${queued} to hand on, now under way; ${unchanged} unchanged.`
  })
}
const setMode = (id: string, mode: string) =>
  act(() => call('setHandOn', { params: { assignment: id }, body: { mode: mode as HandOn } }))

const form = ref({ url: '', tokenUrl: '', clientId: '', clientSecret: '', everyMinutes: '60', paused: false })
watch(
  () => office.value?.office,
  (now) => {
    if (now)
      form.value = {
        url: now.url,
        tokenUrl: now.tokenUrl,
        clientId: now.clientId,
        clientSecret: '',
        everyMinutes: String(now.everyMinutes ?? ''),
        paused: now.paused,
      }
  },
  { immediate: true },
)
const saveOffice = () =>
  act(() => {
    const { clientSecret, everyMinutes, ...rest } = form.value
    return call('setRecordsOffice', {
      body: {
        ...rest,
        everyMinutes: everyMinutes.trim() ? Number(everyMinutes) : null,
        ...(clientSecret && { clientSecret }),
      },
    })
  })
async function download() {
  await act(async () => {
    const { fileName, zip } = await call('exportResults', { params: { course } })
    const link = document.createElement('a')
    link.href = `data:application/zip;base64,${zip}`
    link.download = fileName
    link.click()
  })
}
</script>

<template>
  <ErrorNote :error="error ?? actError" />
  <template v-if="view">
    <p v-if="!view.office" class="note-look">
      ▲ There is no records office yet: results stay here. An administrator can set one; the archive can be handed over
      by hand.
    </p>
    <p v-else-if="view.paused" class="note-look">▲ The records office is paused: nothing is handed on for now.</p>
    <p v-if="said" class="note-good" role="status">{{ said }}</p>
    <div class="d-flex gap-2 mb-3">
      <button
        v-if="canChange && view.office"
        class="btn btn-primary btn-sm"
        type="button"
        :disabled="busy || unsent === 0"
        @click="send(false)"
      >
        Hand on {{ unsent }} new or changed {{ unsent === 1 ? 'result' : 'results' }}
      </button>
      <button
        v-if="canChange && view.office && view.trouble.some((one) => one.state === 'refused')"
        class="btn btn-outline-primary btn-sm"
        type="button"
        :disabled="busy"
        @click="send(true)"
      >
        Hand on refused ones again, too
      </button>
      <button class="btn btn-outline-primary btn-sm ms-auto" type="button" :disabled="busy" @click="download">
        OneRoster archive
      </button>
    </div>
    <div class="panel table-responsive mb-3">
      <table class="table table-sm mb-0">
        <thead>
          <tr>
            <th scope="col">Column</th>
            <th scope="col">Handed on</th>
            <th scope="col" class="text-end">Results</th>
            <th scope="col" class="text-end">Accepted</th>
            <th scope="col" class="text-end">Waiting</th>
            <th scope="col" class="text-end">Refused</th>
            <th scope="col" class="text-end">Not handed on</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in view.columns" :key="one.id">
            <th scope="row" class="fw-normal">{{ one.title }}</th>
            <td>
              <select
                v-if="canChange"
                class="form-select form-select-sm w-auto"
                :value="one.mode"
                :aria-label="`When ${one.title} is handed on`"
                @change="setMode(one.id, ($event.target as HTMLSelectElement).value)"
              >
                <option v-for="mode in HAND_ON" :key="mode" :value="mode">{{ HAND_ON_WORDS[mode] }}</option></select
              ><template v-else>{{ HAND_ON_WORDS[one.mode] }}</template>
            </td>
            <td class="text-end">{{ one.results }}</td>
            <td class="text-end">{{ one.accepted }}</td>
            <td class="text-end">{{ one.waiting }}</td>
            <td class="text-end">
              <span :class="{ 'tone-bad': one.refused > 0 }">{{ one.refused }}</span>
            </td>
            <td class="text-end">{{ one.unsent }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <section v-if="view.trouble.length > 0" class="panel mb-3">
      <h2>Not accepted</h2>
      <ul class="list-unstyled mb-0">
        <li v-for="one in view.trouble" :key="`${one.person.id} ${one.column.id}`">
          <StateWord :state="one.state" /> <bdi>{{ one.person.fullName }}</bdi>, {{ one.column.title }}:
          {{ one.answer }}
          <span class="quiet"
            >{{ one.tries }} tries<template v-if="one.nextAt">, next <MomentText :at="one.nextAt" /></template
          ></span>
        </li>
      </ul>
    </section>
  </template>
  <details v-if="isAdministrator" class="panel office-form">
    <summary>The records office</summary>
    <p class="quiet mt-2">
      A student information system that takes results by OneRoster 1.2 REST. Saving asks it for a token, to see that it
      answers.
    </p>
    <form class="d-grid gap-2" @submit.prevent="saveOffice">
      <label>Address <input v-model="form.url" class="form-control form-control-sm" type="url" required /></label>
      <label
        >Token address <input v-model="form.tokenUrl" class="form-control form-control-sm" type="url" required
      /></label>
      <label>Client ID <input v-model="form.clientId" class="form-control form-control-sm" required /></label>
      <label
        >Client secret; the one held stays unless given
        <input v-model="form.clientSecret" class="form-control form-control-sm" type="password" autocomplete="off"
      /></label>
      <label
        >Minutes between scheduled runs; empty for never
        <input v-model="form.everyMinutes" class="form-control form-control-sm w-auto" inputmode="numeric"
      /></label>
      <label class="form-check"><input v-model="form.paused" class="form-check-input" type="checkbox" /> Paused</label>
      <div><button class="btn btn-primary btn-sm" :disabled="busy">Save</button></div>
    </form>
  </details>
</template>

<style>
.office-form {
  max-width: 40rem;
}
</style>
