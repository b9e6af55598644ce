<script setup lang="ts">
import { computed } from 'vue'

/** Scores per hour over the last day: one bar an hour, the count above the tallest. */
const { hours } = defineProps<{ hours: { hour: string; scores: number }[] }>()
const WIDTH = 14
const HEIGHT = 64
const most = computed(() => Math.max(1, ...hours.map((one) => one.scores)))
const total = computed(() => hours.reduce((sum, one) => sum + one.scores, 0))
const clock = (iso: string) => `${String(new Date(iso).getHours()).padStart(2, '0')}:00`
</script>

<template>
  <svg
    class="hour-bars"
    :viewBox="`0 0 ${hours.length * WIDTH} ${HEIGHT + 30}`"
    role="img"
    :aria-label="`${total} scores in the last 24 hours, at most ${most} in one hour`"
  >
    <line x1="0" :x2="hours.length * WIDTH" :y1="HEIGHT + 12" :y2="HEIGHT + 12" stroke="var(--line)" />
    <g v-for="(one, i) in hours" :key="one.hour">
      <title>{{ clock(one.hour) }}: {{ one.scores }} scores</title>
      <rect
        :x="i * WIDTH + 2"
        :y="12 + HEIGHT - (one.scores / most) * HEIGHT"
        :width="WIDTH - 4"
        :height="(one.scores / most) * HEIGHT"
        fill="var(--sea)"
        rx="1"
      />
      <text v-if="one.scores > 0 && one.scores === most" :x="i * WIDTH + WIDTH / 2" y="9" text-anchor="middle">
        {{ one.scores }}
      </text>
      <text
        v-if="i % 6 === 5"
        :x="i * WIDTH + WIDTH / 2"
        :y="HEIGHT + 25"
        :text-anchor="i === hours.length - 1 ? 'end' : 'middle'"
      >
        {{ clock(one.hour) }}
      </text>
    </g>
  </svg>
</template>

<style>
.hour-bars {
  width: 100%;
  max-width: 28rem;
}
.hour-bars text {
  font-size: 9px;
  fill: var(--quiet);
}
</style>
