<script setup lang="ts">
/** What speaks against an act, or is to be known before it. */
const { remarks } = defineProps<{ remarks: readonly { verdict: 'warn' | 'fail'; statement: string }[] }>()
</script>

<template>
  <div v-for="one in remarks" :key="one.statement" :class="one.verdict === 'fail' ? 'note-bad' : 'note-look'">
    <span aria-hidden="true">{{ one.verdict === 'fail' ? '✕' : '▲' }}</span> {{ one.statement }}
  </div>
</template>
