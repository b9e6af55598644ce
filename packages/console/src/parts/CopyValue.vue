<script setup lang="ts">
import { useCopying } from '../state/copying'

/** A value that goes to the other end, with its copy button. */
const { value, label } = defineProps<{ value: string; label: string }>()
const { said, copy } = useCopying('Select and copy it by hand')
</script>

<template>
  <span class="copy-value">
    <span class="mono">{{ value }}</span>
    <button
      type="button"
      class="btn btn-sm btn-outline-primary py-0"
      :aria-label="`Copy ${label}`"
      @click="copy(value)"
    >
      {{ said || 'Copy' }}
    </button>
    <span class="visually-hidden" role="status">{{ said }}</span>
  </span>
</template>

<style>
.copy-value {
  display: flex;
  gap: 0.7rem;
  align-items: baseline;
  justify-content: space-between;
}
.copy-value button {
  flex: none;
}
</style>
