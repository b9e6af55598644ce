<script setup lang="ts">
/** Forward and back through a list that is paged by cursor. */
const { next, depth } = defineProps<{ next: string | null; depth: number }>()
const emit = defineEmits<{ forward: [string]; back: [] }>()
</script>

<template>
  <div v-if="next || depth > 0" class="d-flex gap-2 mt-3">
    <button class="btn btn-sm btn-outline-primary" type="button" :disabled="depth === 0" @click="emit('back')">
      Newer
    </button>
    <button class="btn btn-sm btn-outline-primary" type="button" :disabled="!next" @click="emit('forward', next!)">
      Older
    </button>
  </div>
</template>
