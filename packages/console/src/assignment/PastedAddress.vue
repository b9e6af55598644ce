<script setup lang="ts">
import type { AddressAnswer } from '@bathyscribe/contract'
import { BFormGroup, BFormInput } from 'bootstrap-vue-next'
import { ref, watch } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { call } from '../state/api'
import { useDebouncedCall } from '../state/debounced-call'

/** An address copied out of a tool: whose session is in it, what is left without, and whose tool it is. */
const { course, tool } = defineProps<{ course: string; tool: string }>()
const address = defineModel<string>({ required: true })
const emit = defineEmits<{ tool: [string] }>()
const text = ref(address.value)
const keep = ref<string[]>([])
const drop = ref<string[]>([])
const isEmpty = () => text.value.trim() === ''
const { answer: read, error } = useDebouncedCall<AddressAnswer>({
  on: [text, keep, drop],
  waitMs: 200,
  isEmpty,
  ask: () =>
    call('readAddress', { params: { course }, body: { address: text.value, keep: keep.value, drop: drop.value } }),
})
watch(read, (answer) => {
  if (!answer) return
  address.value = answer.cleaned
  if (answer.tools.length === 1 && tool === '') emit('tool', answer.tools[0]!.slug)
})
// What cannot be read is taken as it was typed: the form says what is wrong with it.
watch([error, text], () => {
  if (isEmpty()) address.value = ''
  else if (error.value !== undefined) address.value = text.value
})
watch(address, (value) => {
  if (value !== (read.value?.cleaned ?? '') && value !== text.value) text.value = value
})
function toggle(name: string, kept: boolean) {
  keep.value = keep.value.filter((one) => one !== name)
  drop.value = drop.value.filter((one) => one !== name)
  if (kept) drop.value = [...drop.value, name]
  else keep.value = [...keep.value, name]
}
</script>

<template>
  <div>
    <BFormGroup
      label="Launch address"
      label-for="url"
      description="Only if this content has an address of its own: paste it from your browser. Otherwise the tool’s is used."
    >
      <BFormInput
        id="url"
        v-model="text"
        class="mono"
        spellcheck="false"
        placeholder="the tool’s own"
        maxlength="4000"
      />
    </BFormGroup>
    <ErrorNote v-if="error" :error="error" />
    <div
      v-if="read && (read.parameters.length > 0 || read.remarks.length > 0)"
      class="address-read mt-2"
      aria-live="polite"
    >
      <p v-if="read.cleaned !== read.original" class="note-look mb-2">
        ▲ It carried your own session. Without it: <span class="mono">{{ read.cleaned }}</span>
      </p>
      <p v-for="remark in read.remarks" :key="remark" class="quiet mb-1">{{ remark }}</p>
      <table v-if="read.parameters.length > 0" class="grid-table">
        <thead>
          <tr>
            <th>Parameter</th>
            <th>Value</th>
            <th>Why</th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(one, i) in read.parameters" :key="i" :class="{ gone: !one.kept }">
            <td class="mono">{{ one.name }}</td>
            <td class="mono">{{ one.value.slice(0, 60) }}</td>
            <td><span v-if="one.verdict === 'session'" class="tone-look">▲</span> {{ one.reason }}</td>
            <td>
              <button class="plain" type="button" @click="toggle(one.name, one.kept)">
                {{ one.kept ? 'Take it out' : 'Keep it' }}
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="read && read.tools.length === 0" class="tone-look mb-0 mt-1">
      ▲ No tool of this course is known at that address.
    </p>
    <p v-else-if="read && read.tools.length > 1" class="tone-look mb-0 mt-1">
      ▲ Several tools are at that address: {{ read.tools.map((one) => one.name).join(', ') }}. Choose the right one.
    </p>
    <p v-else-if="read && read.tools[0] && tool !== '' && read.tools[0].slug !== tool" class="tone-look mb-0 mt-1">
      ▲ It belongs to {{ read.tools[0].name }}.
      <button class="plain" type="button" @click="emit('tool', read.tools[0].slug)">Use that tool</button>
    </p>
  </div>
</template>

<style>
.address-read .gone td:not(:last-child) {
  text-decoration: line-through;
  color: var(--quiet);
}
</style>
