<script setup lang="ts">
import { ref } from 'vue'

/** A value that goes to the other end, with its copy button. */
const { value, label } = defineProps<{ value: string; label: string }>()
const copied = ref<'' | 'Copied' | 'Select and copy it by hand'>('')

async function copy() {
  try {
    await navigator.clipboard.writeText(value)
    copied.value = 'Copied'
  } catch {
    copied.value = 'Select and copy it by hand'
  }
  setTimeout(() => (copied.value = ''), 2500)
}
</script>

<template>
  <span class="copy-value">
    <span class="mono">{{ value }}</span>
    <button type="button" class="btn btn-sm btn-outline-primary py-0" :aria-label="`Copy ${label}`" @click="copy">
      {{ copied || 'Copy' }}
    </button>
    <span class="visually-hidden" role="status">{{ copied }}</span>
  </span>
</template>

<style>
.copy-value {
  display: flex;
  gap: 0.7rem;
  align-items: baseline;
  justify-content: space-between;
}
</style>
