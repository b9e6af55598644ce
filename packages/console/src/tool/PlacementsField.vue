<script setup lang="ts">
import type { NewTool } from '@bathyscribe/contract'
import { BFormInput, BFormSelect } from 'bootstrap-vue-next'
import { PLACE_WORDS } from '../state/words'

/** Where links of the tool may stand: each place with its label, who sees it, and frame or window. */
type Placements = NonNullable<NewTool['placements']>
type Place = Placements[number]['place']
const places = defineModel<Placements>({ required: true })
const PLACES = Object.keys(PLACE_WORDS) as Place[]
const at = (place: Place) => places.value.find((one) => one.place === place)

function toggle(place: Place) {
  places.value = at(place) ? places.value.filter((one) => one.place !== place) : [...places.value, { place }]
}
function change(place: Place, part: Partial<Placements[number]>) {
  places.value = places.value.map((one) => (one.place === place ? { ...one, ...part } : one))
}
</script>

<template>
  <fieldset>
    <legend class="fs-6">Where it may show</legend>
    <div v-for="place in PLACES" :key="place" class="mb-1">
      <div class="form-check">
        <input
          :id="`place-${place}`"
          class="form-check-input"
          type="checkbox"
          :checked="at(place) !== undefined"
          @change="toggle(place)"
        />
        <label class="form-check-label" :for="`place-${place}`">{{ PLACE_WORDS[place] }}</label>
      </div>
      <div v-if="at(place)" class="d-flex gap-1 ms-4">
        <BFormInput
          size="sm"
          :model-value="at(place)!.label ?? ''"
          placeholder="Label: the tool’s name"
          :aria-label="`Label at ${PLACE_WORDS[place]}`"
          maxlength="120"
          @update:model-value="change(place, { label: String($event) || null })"
        />
        <BFormSelect
          size="sm"
          :model-value="at(place)!.audience ?? 'everyone'"
          :aria-label="`Who sees it at ${PLACE_WORDS[place]}`"
          :options="[
            { value: 'everyone', text: 'everyone' },
            { value: 'instructors', text: 'instructors' },
          ]"
          @update:model-value="change(place, { audience: $event as 'everyone' })"
        />
        <BFormSelect
          size="sm"
          :model-value="at(place)!.target ?? 'frame'"
          :aria-label="`Opens in, at ${PLACE_WORDS[place]}`"
          :options="['frame', 'window']"
          @update:model-value="change(place, { target: $event as 'frame' })"
        />
      </div>
    </div>
  </fieldset>
</template>
