<script setup lang="ts">
import { BButton } from 'bootstrap-vue-next'
import { nextTick, ref, useTemplateRef } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'

/** A category is made where it is missed: in the form of an assignment, whose own keys must not send that form. */
const { course } = defineProps<{ course: string }>()
const emit = defineEmits<{ made: [string] }>()
const name = ref<string>()
const field = useTemplateRef<HTMLInputElement>('field')
const { act, actError, busy } = useActing()
async function begin() {
  name.value = ''
  await nextTick()
  field.value?.focus()
}
const make = () =>
  act(async () => {
    const wanted = name.value?.trim()
    if (!wanted) return
    await call('addCategory', { params: { course }, body: { name: wanted } })
    name.value = undefined
    emit('made', wanted)
  })
</script>

<template>
  <button v-if="name === undefined" class="plain" type="button" @click="begin">New category</button>
  <div v-else class="w-100">
    <div class="d-flex gap-2">
      <input
        ref="field"
        v-model="name"
        class="form-control form-control-sm"
        aria-label="Name of the new category"
        maxlength="80"
        @keydown.enter.prevent="make"
        @keydown.esc.prevent="name = undefined"
      />
      <BButton size="sm" variant="outline-primary" :disabled="busy || name.trim() === ''" @click="make"
        >Make it</BButton
      >
      <button class="plain" type="button" @click="name = undefined">Cancel</button>
    </div>
    <ErrorNote :error="actError" />
  </div>
</template>
