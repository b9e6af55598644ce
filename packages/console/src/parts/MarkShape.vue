<script setup lang="ts">
import type { Mark } from '@bathyscribe/contract'

/** Filled disc: proven. Half a disc: proven under other settings. Ring: not yet. Triangle: look here. Cross: broken. */
const { state, size = 14 } = defineProps<{ state: Mark['state']; size?: number }>()
</script>

<template>
  <svg :width="size" :height="size" viewBox="0 0 16 16" aria-hidden="true" :class="`proof-mark mark-${state}`">
    <circle v-if="state === 'proven'" cx="8" cy="8" r="6" />
    <template v-else-if="state === 'changed'">
      <circle cx="8" cy="8" r="5.300" class="mark-ring" stroke-width="1.4" />
      <path d="M8 2.700a5.300 5.300 0 0 0 0 10.600z" />
    </template>
    <circle v-else-if="state === 'not_yet'" cx="8" cy="8" r="5" fill="none" stroke-width="1.6" />
    <path v-else-if="state === 'look'" d="M8 1.6 15 14H1z" />
    <template v-else>
      <circle cx="8" cy="8" r="7.500" class="mark-ground" />
      <path d="M3.500 3.500l9 9M12.500 3.500l-9 9" fill="none" stroke-width="2.600" stroke-linecap="round" />
    </template>
  </svg>
</template>

<style>
.mark-proven {
  fill: var(--moss);
}
.mark-changed {
  fill: var(--tide);
}
.mark-ring {
  fill: var(--bs-body-bg);
  stroke: var(--tide);
}
.mark-not_yet {
  stroke: var(--quiet);
}
.mark-not_yet circle {
  fill: var(--bs-body-bg);
}
.mark-look {
  fill: var(--brass);
}
.mark-broken {
  stroke: var(--brick);
}
.mark-ground {
  fill: var(--bs-body-bg);
  stroke: none;
}
</style>
