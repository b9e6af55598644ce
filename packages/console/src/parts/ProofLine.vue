<script setup lang="ts">
import type { Mark } from '@bathyscribe/contract'
import { computed } from 'vue'
import MarkShape from './MarkShape.vue'
import { MARK_WORDS } from '../state/words'

/** The proof line: six marks on one line, the same everywhere. */
const { marks } = defineProps<{ marks: readonly Pick<Mark, 'name' | 'state' | 'statement'>[] }>()
const spoken = computed(() => marks.map((mark) => `${mark.name}: ${MARK_WORDS[mark.state]}`).join(', '))
</script>

<template>
  <span
    class="proof-line"
    role="img"
    :aria-label="`Proof: ${spoken}`"
    :title="marks.map((mark) => `${mark.name}: ${mark.statement}`).join('\n')"
  >
    <MarkShape v-for="mark in marks" :key="mark.name" :state="mark.state" />
  </span>
</template>

<style>
.proof-line {
  display: inline-flex;
  gap: 0.28rem;
  align-items: center;
  position: relative;
  white-space: nowrap;
}
.proof-line::before {
  content: '';
  position: absolute;
  left: 0.3rem;
  right: 0.3rem;
  top: 50%;
  height: 1px;
  background: var(--line);
}
.proof-line svg {
  position: relative;
}
</style>
