<script setup lang="ts">
import type { MenuEntry } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput, BFormSelect } from 'bootstrap-vue-next'
import { reactive } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import PairsField from '../parts/PairsField.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'

/** Changes one entry of the menu, in its place. */
const { course, entry } = defineProps<{ course: string; entry: MenuEntry }>()
const emit = defineEmits<{ close: [] }>()
const { act, actError, busy } = useActing()
const wanted = reactive({
  label: entry.label,
  launchUrl: entry.launchUrl ?? '',
  audience: entry.audience,
  documentTarget: entry.documentTarget,
  customParameters: { ...entry.customParameters },
})
async function keep() {
  const body = { revision: entry.revision, ...wanted, launchUrl: wanted.launchUrl || null }
  if (await act(() => call('changeMenuEntry', { params: { course, menuEntry: entry.id }, body }))) emit('close')
}
</script>

<template>
  <form class="d-grid gap-2" @submit.prevent="keep">
    <ErrorNote :error="actError" />
    <BFormGroup
      label="Label"
      :label-for="`label-${entry.id}`"
      description="Kept exactly as typed: some tools’ permissions depend on it."
      ><BFormInput :id="`label-${entry.id}`" v-model="wanted.label" required maxlength="120"
    /></BFormGroup>
    <div class="d-flex gap-2 flex-wrap">
      <BFormGroup label="Who sees it" :label-for="`for-${entry.id}`"
        ><BFormSelect
          :id="`for-${entry.id}`"
          v-model="wanted.audience"
          :options="[
            { value: 'everyone', text: 'Everyone' },
            { value: 'instructors', text: 'Instructors only' },
          ]"
      /></BFormGroup>
      <BFormGroup label="Opens in" :label-for="`in-${entry.id}`"
        ><BFormSelect
          :id="`in-${entry.id}`"
          v-model="wanted.documentTarget"
          :options="[
            { value: 'frame', text: 'A frame' },
            { value: 'window', text: 'A window' },
          ]"
      /></BFormGroup>
    </div>
    <BFormGroup
      label="Address"
      :label-for="`url-${entry.id}`"
      description="Leave it empty to use the registration’s own."
      ><BFormInput :id="`url-${entry.id}`" v-model.trim="wanted.launchUrl" class="mono" maxlength="2000"
    /></BFormGroup>
    <PairsField
      :id="`custom-${entry.id}`"
      v-model="wanted.customParameters"
      label="Custom parameters"
      description="Sent with its launches, one a line."
    />
    <div class="d-flex gap-2">
      <BButton type="submit" size="sm" variant="primary" :disabled="busy">Save</BButton>
      <BButton size="sm" variant="outline-primary" @click="emit('close')">Cancel</BButton>
    </div>
  </form>
</template>
