<script setup lang="ts">
/** Forward and back through a list that is paged by cursor. */
const { next, depth, byName } = defineProps<{
  next: string | null
  depth: number
  /** Of a list that is in the order of names, not of time. */
  byName?: boolean
}>()
const emit = defineEmits<{ forward: [string]; back: [] }>()
</script>

<template>
  <div v-if="next || depth > 0" class="d-flex gap-2 mt-3">
    <button class="btn btn-sm btn-outline-primary" type="button" :disabled="depth === 0" @click="emit('back')">
      {{ byName ? 'Previous' : 'Newer' }}
    </button>
    <button class="btn btn-sm btn-outline-primary" type="button" :disabled="!next" @click="emit('forward', next!)">
      {{ byName ? 'Next' : 'Older' }}
    </button>
  </div>
</template>
