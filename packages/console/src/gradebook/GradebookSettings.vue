<script setup lang="ts">
import type { Gradebook } from '@bathyscribe/contract'
import { ref, watch } from 'vue'
import CategoryList from '../course/CategoryList.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'

/** How points are shown and totalled. No score changes by it. */
const { course, settings, canChange } = defineProps<{
  course: string
  settings: Gradebook['settings']
  canChange: boolean
}>()
const { act, actError, busy } = useActing()
const decimals = ref(0)
const missing = ref(false)
const saved = ref(false)
watch(
  () => settings,
  (now) => {
    decimals.value = now.shownDecimals
    missing.value = now.missingCounts
  },
  { immediate: true },
)
async function save() {
  saved.value = await act(() =>
    call('changeGradebook', {
      params: { course },
      body: { shownDecimals: decimals.value, missingCounts: missing.value },
    }),
  )
}
</script>

<template>
  <form class="panel gradebook-settings" @submit.prevent="save">
    <ErrorNote :error="actError" />
    <fieldset :disabled="!canChange || busy">
      <label class="d-block mb-3"
        >Decimals shown, rounded half up. What was sent and what it became stay exact.
        <select v-model="decimals" class="form-select form-select-sm w-auto">
          <option v-for="n in [0, 1, 2, 3, 4]" :key="n" :value="n">{{ n }}</option>
        </select></label
      >
      <label class="form-check mb-3"
        ><input v-model="missing" class="form-check-input" type="checkbox" /> What has no score is zero earned.
        Otherwise it is left out of the total until it has one.</label
      >
      <button v-if="canChange" class="btn btn-primary btn-sm mt-2">Save</button>
      <span v-if="saved" class="tone-good ms-2" role="status">● saved</span>
    </fieldset>
  </form>
  <CategoryList class="gradebook-settings mt-3" :course="course" :can-change="canChange" />
</template>

<style>
.gradebook-settings {
  max-width: 52rem;
}
</style>
