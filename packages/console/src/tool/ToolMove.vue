<script setup lang="ts">
import { ADDRESS_WORDS, type Tool } from '@bathyscribe/contract'
import { BButton, BFormInput, BFormSelect, BModal } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import RemarkNotes from '../parts/RemarkNotes.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { count } from '../state/words'

/** When a tool's domain moves: its addresses and those of its links follow, looked at first, and taken back. */
const { tool } = defineProps<{ tool: Tool }>()
const params = computed(() => ({ tool: tool.id }))
const home = computed(() => {
  const address = tool.launchUrl ?? tool.initiationUrl ?? ''
  return URL.canParse(address) ? new URL(address).origin : ''
})
const open = ref(false)
const from = ref('')
const to = ref('')
const course = ref('')
const wanted = computed(() => ({ from: from.value, to: to.value, ...(course.value && { course: course.value }) }))
const isAsked = computed(() => open.value && URL.canParse(from.value) && URL.canParse(to.value))
const { data: impact } = useCall('showToolImpact', () => (open.value ? { params: params.value } : undefined))
const { data: preview, error } = useCall('previewAddressMove', () =>
  isAsked.value ? { params: params.value, body: wanted.value } : undefined,
)
const seen = computed(() => (isAsked.value && !error.value ? preview.value : undefined))
const pairs = computed(() => [
  ...(seen.value?.registration ?? []).map((one) => ({
    ...one,
    where: `the registration, ${ADDRESS_WORDS[one.field] ?? one.field}`,
  })),
  ...(seen.value?.links ?? []).map((one) => ({ ...one, where: `${one.course.code}, ${one.title}` })),
])
const SHOWN = 8
const inAll = computed(() => (seen.value ? seen.value.registration.length + seen.value.addresses : 0))
const barred = computed(() => seen.value?.remarks.some((one) => one.verdict === 'fail') ?? true)
const { data: past } = useCall('listAddressMoves', () => ({ params: params.value }))
const undoable = computed(() => past.value?.items.filter((one) => one.undoneAt === null) ?? [])
const { act, actError, busy } = useActing()
function begin() {
  from.value = home.value
  to.value = ''
  open.value = true
}
const run = () => act(() => call('moveAddresses', { params: params.value, body: wanted.value }))
const takeBack = (id: string) => act(() => call('undoAddressMove', { params: { ...params.value, id } }))
</script>

<template>
  <BButton size="sm" variant="outline-primary" @click="begin">Move addresses …</BButton>
  <BModal
    v-model="open"
    size="lg"
    :title="`Move the addresses of ${tool.name}?`"
    ok-title="Move them"
    cancel-title="Cancel"
    :ok-disabled="busy || barred"
    @ok="run"
  >
    <p>
      When a tool’s domain moves, its links follow in one act. Links and scores stay; what was proven at an old address
      has to be proven again.
    </p>
    <label for="move-from">What begins with</label>
    <BFormInput id="move-from" v-model.trim="from" type="url" inputmode="url" />
    <label for="move-to" class="mt-2">is to begin with</label>
    <BFormInput id="move-to" v-model.trim="to" type="url" inputmode="url" placeholder="https://" />
    <label for="move-course" class="mt-2">Of</label>
    <BFormSelect
      id="move-course"
      v-model="course"
      :options="[
        { value: '', text: 'the registration and all courses' },
        ...(impact?.courses ?? []).map((one) => ({ value: one.id, text: `${one.code} only; the registration stays` })),
      ]"
    />
    <ErrorNote class="mt-3" :error="isAsked ? error : undefined" />
    <div v-if="seen" class="mt-3">
      <p v-if="inAll > 0" class="mb-1">
        {{ count(inAll, 'address', 'addresses') }} would move<template v-if="seen.courses.length > 0"
          >, in {{ seen.courses.map((one) => one.course.code).join(', ') }}</template
        >. It can be taken back.
      </p>
      <table v-if="pairs.length > 0" class="table table-sm">
        <thead>
          <tr>
            <th scope="col">Where</th>
            <th scope="col">Then</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(one, i) in pairs.slice(0, SHOWN)" :key="i">
            <td>{{ one.where }}</td>
            <td class="text-break font-monospace small">{{ one.after }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="inAll > SHOWN" class="quiet">and {{ inAll - SHOWN }} more</p>
      <p v-if="seen.staying > 0" class="quiet">
        {{ count(seen.staying, 'address', 'addresses') }} of links begin otherwise and would stay.
      </p>
      <RemarkNotes :remarks="seen.remarks" />
    </div>
  </BModal>
  <ErrorNote :error="actError" />
  <div v-for="one in undoable" :key="one.id" class="quiet w-100">
    {{ count(one.addresses, 'address', 'addresses') }} of {{ one.course?.code ?? 'all courses' }} moved from
    {{ one.from }} to {{ one.to }}, <MomentText :at="one.at" relative />.
    <button class="plain" type="button" :disabled="busy" @click="takeBack(one.id)">Take that back</button>
  </div>
</template>
