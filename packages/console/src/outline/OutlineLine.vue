<script setup lang="ts">
import type { UnitItem } from '@bathyscribe/contract'
import { computed } from 'vue'
import ProofLine from '../parts/ProofLine.vue'
import StateWord from '../parts/StateWord.vue'
import { courseMoment } from '../state/moments'
import { sizeWords } from '../state/words'

/** One item of the outline: what it is, where it leads, when it is due, and for whom teaches how far it is proven. */
const { item, course, zone, teaching } = defineProps<{
  item: UnitItem
  course: string
  /** The course’s time zone. */
  zone: string
  teaching: boolean
}>()
const KINDS: Record<UnitItem['kind'], string> = {
  assignment: 'Assignment', tool_link: 'Tool, no score', page: 'Page', file: 'File', address: 'Web address', heading: '',
} // oxfmt-ignore
const to = computed(() =>
  item.assignment ? `/courses/${course}/assignments/${item.assignment.id}` : `/courses/${course}/items/${item.id}`,
)
</script>

<template>
  <h3 v-if="item.kind === 'heading'" class="outline-heading">{{ item.title }}</h3>
  <div v-else class="outline-line" :class="{ faint: !item.published }">
    <span class="outline-kind" :class="{ graded: item.kind === 'assignment' && item.assignment?.counted }">{{
      item.kind === 'assignment' && !item.assignment?.counted ? 'Not in total' : KINDS[item.kind]
    }}</span>
    <div class="flex-grow-1">
      <a v-if="item.kind === 'address'" :href="item.address ?? ''" target="_blank" rel="noopener noreferrer">{{
        item.title
      }}</a>
      <a
        v-else-if="item.kind === 'file' && item.file"
        :href="`/api/courses/${course}/files/${item.file.id}/content`"
        target="_blank"
        >{{ item.title }}</a
      >
      <RouterLink v-else :to="to">{{ item.title }}</RouterLink>
      <span class="quiet">
        <template v-if="item.assignment">
          <template v-if="item.assignment.counted">{{ item.assignment.points }} points</template>
          <template v-if="item.assignment.dueAt"> · due {{ courseMoment(item.assignment.dueAt, zone) }}</template>
        </template>
        <template v-else-if="item.tool">{{ item.tool.name }}</template>
        <template v-else-if="item.file">{{ sizeWords(item.file.bytes) }}</template>
        <template v-if="teaching && item.assignment && item.tool"> · {{ item.tool.name }}</template>
        <template v-if="teaching && item.pinned"> · pinned</template>
      </span>
    </div>
    <template v-if="teaching">
      <ProofLine v-if="item.assignment && item.assignment.proof.length > 0" :marks="item.assignment.proof" />
      <StateWord v-if="!item.published" state="draft" />
    </template>
    <span v-else-if="item.assignment" class="outline-own">
      <template v-if="item.assignment.result !== null"
        >{{ item.assignment.result }} of {{ item.assignment.points }}</template
      >
      <span v-else class="quiet">{{ item.assignment.opened ? 'opened, no score yet' : 'not opened yet' }}</span>
    </span>
  </div>
</template>

<style>
.outline-heading {
  margin: 0.5rem 0 0.1rem;
  color: var(--quiet);
}
.outline-line {
  display: flex;
  gap: 0.8rem;
  align-items: baseline;
}
.outline-line.faint a {
  color: var(--quiet);
}
.outline-kind {
  flex: 0 0 6.6rem;
  font-size: 0.82rem;
  color: var(--quiet);
}
.outline-kind.graded {
  color: inherit;
  font-weight: 600;
}
</style>
