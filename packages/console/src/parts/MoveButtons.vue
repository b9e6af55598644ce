<script setup lang="ts">
import { BButton } from 'bootstrap-vue-next'

/** Moves one of a list up or down, by keys as well as by hand. */
const { name, first, last } = defineProps<{ name: string; first: boolean; last: boolean }>()
const emit = defineEmits<{ move: [-1 | 1] }>()
</script>

<template>
  <BButton
    size="sm"
    variant="outline-primary"
    :disabled="first"
    :aria-label="`Move ${name} up`"
    @click="emit('move', -1)"
    >↑</BButton
  >
  <BButton
    size="sm"
    variant="outline-primary"
    :disabled="last"
    :aria-label="`Move ${name} down`"
    @click="emit('move', 1)"
    >↓</BButton
  >
</template>
