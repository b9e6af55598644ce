<script setup lang="ts">
import { computed, useTemplateRef, watch } from 'vue'
import { tell } from '../state/api'

/** What went wrong, why, and what to do; nothing when there is no error. */
const { error } = defineProps<{ error: unknown }>()
const told = computed(() => (error ? tell(error) : undefined))
const note = useTemplateRef<HTMLElement>('note')
// Not every browser says whether somebody acted.
const { userActivation } = navigator as { userActivation?: UserActivation }
// What came of an act is shown to who acted, even at the end of a long form; what fails by itself moves nobody's page.
watch(note, (element) => {
  if (element && (userActivation?.isActive ?? true)) element.scrollIntoView({ block: 'nearest' })
})
</script>

<template>
  <div v-if="told" ref="note" class="note-bad mb-3" role="alert">
    <strong>{{ told.sentence }}</strong>
    <ul v-if="told.faults.length > 0" class="mb-1">
      <li v-for="fault in told.faults" :key="fault.path + fault.message">{{ fault.path }}: {{ fault.message }}</li>
    </ul>
    <div>{{ told.hint }} <slot /></div>
  </div>
</template>
