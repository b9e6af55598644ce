<script setup lang="ts">
import type { Difference } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { courseMoment } from '../state/moments'

/** What the tool says beside what was typed; taken over one by one, or all. */
const { differences, zone } = defineProps<{ differences: Difference[]; zone: string }>()
const emit = defineEmits<{ take: [Difference] }>()
const WORDS: Record<Difference['field'], string> = {
  title: 'Title',
  points: 'Points',
  opensAt: 'Opens',
  dueAt: 'Due',
  closesAt: 'Closes',
  documentTarget: 'Opens in',
}
const show = (field: Difference['field'], value: string | null) =>
  value === null
    ? 'nothing'
    : field.endsWith('At')
      ? courseMoment(value, zone)
      : field === 'documentTarget'
        ? `a ${value}`
        : value
</script>

<template>
  <div v-if="differences.length > 0" class="note-look" aria-live="polite">
    <table class="tool-says">
      <thead>
        <tr>
          <th></th>
          <th>Here</th>
          <th>The tool says</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in differences" :key="one.field">
          <th>{{ WORDS[one.field] }}</th>
          <td>{{ show(one.field, one.typed) }}</td>
          <td>
            <strong>{{ show(one.field, one.offered) }}</strong>
          </td>
          <td>
            <BButton
              size="sm"
              variant="outline-primary"
              :aria-label="`Use the tool’s value for ${WORDS[one.field].toLowerCase()}`"
              @click="emit('take', one)"
              >Use the tool’s value</BButton
            >
          </td>
        </tr>
      </tbody>
    </table>
    <BButton
      v-if="differences.length > 1"
      size="sm"
      variant="primary"
      class="mt-2"
      @click="differences.forEach((one) => emit('take', one))"
      >Use all the tool’s values</BButton
    >
  </div>
</template>

<style>
.tool-says {
  border-collapse: collapse;
}
.tool-says th,
.tool-says td {
  padding: 0.15rem 0.9rem 0.15rem 0;
  text-align: left;
}
.tool-says th {
  font-weight: 400;
  color: var(--quiet);
}
</style>
