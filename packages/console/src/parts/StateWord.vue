<script setup lang="ts">
import { computed } from 'vue'
import { plain, SIGNS, toneOf } from '../state/words'

/** A state as shape, word and colour together. */
const { state } = defineProps<{ state: string }>()
const tone = computed(() => toneOf(state))
</script>

<template>
  <span :class="`state tone-${tone}`"><span aria-hidden="true">{{ SIGNS[tone] }}</span> {{ plain(state) }}</span>
</template>

<style>
.state {
  white-space: nowrap;
}
</style>
