<script setup lang="ts">
import type { Gradebook } from '@bathyscribe/contract'
import { ref, watch } from 'vue'
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
const weights = ref<Record<string, string>>({})
const saved = ref(false)
watch(
  () => settings,
  (now) => {
    decimals.value = now.shownDecimals
    missing.value = now.missingCounts
    weights.value = Object.fromEntries(now.weights.map((one) => [one.name, one.weight ?? '']))
  },
  { immediate: true },
)
async function save() {
  saved.value = await act(() =>
    call('changeGradebook', {
      params: { course },
      body: {
        shownDecimals: decimals.value,
        missingCounts: missing.value,
        weights: Object.fromEntries(
          Object.entries(weights.value).map(([name, text]) => [name, String(text).trim() || null]),
        ),
      },
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
        ><input v-model="missing" class="form-check-input" type="checkbox" /> What has no score counts as nothing
        earned. Otherwise it is left out of the total until it has one.</label
      >
      <h2>Categories</h2>
      <p class="quiet">
        Without any percent, points are added up. With them, each category counts by what was earned of what it is out
        of; categories without a percent are left out.
      </p>
      <p v-if="settings.weights.length === 0" class="quiet">The course has no categories.</p>
      <label v-for="one in settings.weights" :key="one.id" class="d-flex gap-2 align-items-center mb-2"
        ><span class="flex-grow-1">{{ one.name }}</span
        ><input
          v-model="weights[one.name]"
          class="form-control form-control-sm"
          inputmode="decimal"
          :aria-label="`Percent of ${one.name}`"
        />
        %</label
      >
      <button v-if="canChange" class="btn btn-primary btn-sm mt-2">Save</button>
      <span v-if="saved" class="tone-good ms-2" role="status">● saved</span>
    </fieldset>
  </form>
</template>

<style>
.gradebook-settings {
  max-width: 40rem;
}
.gradebook-settings input[inputmode] {
  width: 6rem;
  text-align: right;
}
</style>
