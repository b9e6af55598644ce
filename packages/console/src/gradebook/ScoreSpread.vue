<script setup lang="ts">
import { computed } from 'vue'

/** How results are spread over a column: ten equal steps from nothing to all, one more for what is above; mean and middle beside. */
const { points, outOf } = defineProps<{ points: number[]; outOf: number }>()
const WIDTH = 34
const HEIGHT = 90
const whole = computed(() => (outOf > 0 ? outOf : Math.max(1, ...points)))
const bars = computed(() => {
  const counts = Array.from({ length: points.some((one) => one > whole.value) ? 11 : 10 }, () => 0)
  for (const one of points) {
    const step = one > whole.value ? 10 : Math.min(9, Math.floor((one / whole.value) * 10))
    counts[step]! += 1
  }
  return counts
})
const most = computed(() => Math.max(1, ...bars.value))
const mean = computed(() => points.reduce((sum, one) => sum + one, 0) / points.length)
const median = computed(() => {
  const sorted = [...points].sort((a, b) => a - b)
  const half = sorted.length >> 1
  return sorted.length % 2 ? sorted[half]! : (sorted[half - 1]! + sorted[half]!) / 2
})
const edge = (step: number) => Number(((whole.value * step) / 10).toFixed(2))
const label = (step: number) => (step === 10 ? `above ${edge(10)}` : `${edge(step)} to ${edge(step + 1)}`)
const near = (value: number) => value.toFixed(1)
</script>

<template>
  <p v-if="points.length === 0" class="quiet">There are no results to draw yet.</p>
  <figure v-else class="spread">
    <svg
      :viewBox="`0 0 ${bars.length * WIDTH + 8} ${HEIGHT + 34}`"
      role="img"
      :aria-label="`${points.length} results, mean ${near(mean)}, median ${near(median)} of ${outOf}`"
    >
      <g v-for="(count, step) in bars" :key="step">
        <title>{{ label(step) }}: {{ count }}</title>
        <rect
          :x="step * WIDTH + 5"
          :y="14 + HEIGHT - (count / most) * HEIGHT"
          :width="WIDTH - 4"
          :height="(count / most) * HEIGHT"
          :fill="step === 10 ? 'var(--brass)' : 'var(--sea)'"
          rx="2"
        />
        <text
          v-if="count > 0"
          :x="step * WIDTH + WIDTH / 2 + 3"
          :y="10 + HEIGHT - (count / most) * HEIGHT"
          text-anchor="middle"
        >
          {{ count }}
        </text>
        <text :x="step * WIDTH + 4" :y="HEIGHT + 28" :text-anchor="step === 0 ? 'start' : 'middle'">
          {{ step % 2 === 0 ? edge(step) : '' }}
        </text>
      </g>
      <line x1="4" :x2="bars.length * WIDTH + 4" :y1="HEIGHT + 14" :y2="HEIGHT + 14" stroke="var(--line)" />
    </svg>
    <figcaption class="quiet">
      {{ points.length }} results of {{ outOf }} · mean {{ near(mean) }} · median {{ near(median) }}
    </figcaption>
  </figure>
</template>

<style>
.spread {
  margin: 0;
}
.spread svg {
  width: 100%;
}
.spread text {
  font-size: 10px;
  fill: var(--quiet);
}
</style>
