<script setup lang="ts">
import { computed } from 'vue'

/** A moment in the person's own zone, with the zone on hover; a relative time only beside it. */
const { at, relative } = defineProps<{ at: string | null; relative?: boolean }>()

const zone = Intl.DateTimeFormat().resolvedOptions().timeZone
const date = computed(() => (at === null ? undefined : new Date(at)))
const two = (n: number) => String(n).padStart(2, '0')
const text = computed(() => {
  const d = date.value
  return d
    ? `${d.getFullYear()}-${two(d.getMonth() + 1)}-${two(d.getDate())} ${two(d.getHours())}:${two(d.getMinutes())}`
    : '–'
})
const ago = computed(() => {
  if (!relative || !date.value) return ''
  const seconds = Math.round((date.value.getTime() - Date.now()) / 1000)
  const format = new Intl.RelativeTimeFormat('en', { numeric: 'auto' })
  if (Math.abs(seconds) < 90) return format.format(seconds, 'second')
  if (Math.abs(seconds) < 5400) return format.format(Math.round(seconds / 60), 'minute')
  return Math.abs(seconds) < 129_600
    ? format.format(Math.round(seconds / 3600), 'hour')
    : format.format(Math.round(seconds / 86_400), 'day')
})
</script>

<template>
  <time v-if="date" class="moment" :datetime="at!" :title="`${date.toLocaleString()} (${zone})`"
    ><span class="moment-date">{{ text }}</span><span v-if="ago" class="quiet">, {{ ago }}</span></time
  >
  <span v-else class="quiet">–</span>
</template>

<style>
.moment-date {
  white-space: nowrap;
}
.moment {
  font-variant-numeric: tabular-nums;
}
</style>
