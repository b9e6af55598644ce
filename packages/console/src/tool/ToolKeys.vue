<script setup lang="ts">
import type { Tool } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput, BFormSelect } from 'bootstrap-vue-next'
import { computed, reactive, ref } from 'vue'
import ConfirmAct from '../parts/ConfirmAct.vue'
import CopyValue from '../parts/CopyValue.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'

/** Secrets and keys of a tool over time: their use is counted, so that one knows when the old one may go. */
const { tool } = defineProps<{ tool: Tool }>()
const params = computed(() => ({ tool: tool.id }))
const { data: keys, error } = useCall('listToolKeys', () => ({ params: params.value }))
const { act, actError, busy } = useActing()
const rotating = ref(false)
const made = ref('')
// A field for numbers that was typed into holds text.
const wanted = reactive<{ secret: string; overlapHours: number | string; launchesWith: 'new' | 'old' }>({
  secret: '',
  overlapHours: 72,
  launchesWith: 'new',
})

async function rotate() {
  const { secret, overlapHours, launchesWith } = wanted
  await act(async () => {
    const body = { overlapHours: Number(overlapHours), launchesWith, ...(secret && { sharedSecret: secret }) }
    made.value = (await call('rotateSecret', { params: params.value, body })).sharedSecret ?? ''
    rotating.value = false
    wanted.secret = ''
  })
}
const end = (id: string) => act(() => call('endSecret', { params: { ...params.value, id } }))
const readKeyset = () => act(() => call('readToolKeyset', { params: params.value }))
const ROLES = { current: 'signs launches', next: 'taken; signs once the tool uses it', previous: 'still taken' }
</script>

<template>
  <section v-if="keys && (keys.secrets.length > 0 || keys.keyset)" class="panel">
    <div class="d-flex gap-2 align-items-baseline">
      <h2 class="flex-grow-1">Keys over time</h2>
      <BButton
        v-if="keys.secrets.length > 0"
        size="sm"
        variant="outline-primary"
        :aria-expanded="rotating"
        @click="rotating = !rotating"
        >Rotate the secret …</BButton
      >
      <BButton v-if="keys.keyset?.address" size="sm" variant="outline-primary" :disabled="busy" @click="readKeyset"
        >Read the keyset now</BButton
      >
    </div>
    <ErrorNote :error="error ?? actError" />
    <p v-if="made" class="note-look">
      <CopyValue :value="made" label="the new secret" />Enter it at the tool’s end; it is shown this once.
    </p>
    <form v-if="rotating" class="d-grid gap-2 mb-3" @submit.prevent="rotate">
      <BFormGroup label="New secret" label-for="new-secret" description="Leave it empty to have one made here."
        ><BFormInput id="new-secret" v-model.trim="wanted.secret" class="mono" maxlength="255" autocomplete="off"
      /></BFormGroup>
      <BFormGroup label="The old one is taken for, hours" label-for="overlap"
        ><BFormInput id="overlap" v-model="wanted.overlapHours" type="number" min="0" max="2160" required
      /></BFormGroup>
      <BFormGroup label="Launches are signed with" label-for="launches-with"
        ><BFormSelect
          id="launches-with"
          v-model="wanted.launchesWith"
          :options="[
            { value: 'new', text: 'the new one at once' },
            { value: 'old', text: 'the old one, until the tool first uses the new one' },
          ]"
      /></BFormGroup>
      <BButton type="submit" size="sm" variant="primary" :disabled="busy">Bring it in</BButton>
    </form>
    <table v-if="keys.secrets.length > 0" class="grid-table">
      <thead>
        <tr>
          <th>Secret</th>
          <th>Set</th>
          <th>Ends</th>
          <th class="number">Uses</th>
          <th>Last use</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in keys.secrets" :key="one.id">
          <td>
            {{ one.role }}
            <div class="quiet">{{ ROLES[one.role] }}</div>
          </td>
          <td><MomentText :at="one.setAt" /></td>
          <td>
            <MomentText :at="one.endsAt" />
            <ConfirmAct
              v-if="one.role !== 'current'"
              text="End it now"
              :question="`It was used ${one.uses} times. Messages signed with it are refused from now on.`"
              @done="end(one.id)"
            />
          </td>
          <td class="number">{{ one.uses }}</td>
          <td><MomentText :at="one.lastUsedAt" /></td>
        </tr>
      </tbody>
    </table>
    <template v-if="keys.keyset">
      <h3 class="quiet mt-2">The tool’s own keys</h3>
      <p v-if="keys.keyset.failure" class="note-bad">
        The keyset could not be read: {{ keys.keyset.failure }}. Keys read before go on being used.
      </p>
      <p class="quiet">
        <template v-if="keys.keyset.address"
          >Read {{ keys.keyset.reads }} times, last <MomentText :at="keys.keyset.readAt" />.</template
        ><template v-else>Pasted here; nothing is fetched.</template>
      </p>
      <div v-for="one in keys.keyset.keys" :key="one.kid">
        <span class="mono">{{ one.kid }}</span>
        <span class="quiet"
          >{{ one.bits }} bits, used {{ one.uses }} times<template v-if="one.lastUsedAt"
            >, last <MomentText :at="one.lastUsedAt" /></template
        ></span>
      </div>
    </template>
  </section>
</template>
