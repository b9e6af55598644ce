<script setup lang="ts">
import type { Mark } from '@bathyscribe/contract'
import MarkShape from '../parts/MarkShape.vue'
import { MARK_WORDS } from '../state/words'
import MomentText from '../parts/MomentText.vue'

/** The proof, large and upright, each mark with the evidence that lights or breaks it. */
const { marks } = defineProps<{ marks: Mark[] }>()

function linkOf({ kind, id }: NonNullable<Mark['evidence']>): string | undefined {
  if (kind === 'wire') return `/wire/${id}`
  if (kind === 'sounding') return `/soundings/${id}`
  return kind === 'registration' ? `/tools/${id}` : undefined
}
const NOUNS = { wire: 'wire entry', sounding: 'sounding', registration: 'registration', assignment: 'this assignment' }
</script>

<template>
  <ol class="upright">
    <li v-for="mark in marks" :key="mark.name">
      <MarkShape :state="mark.state" :size="26" />
      <div>
        <strong class="name">{{ mark.name }}</strong> <span class="quiet">{{ MARK_WORDS[mark.state] }}</span>
        <div class="statement">{{ mark.statement }}</div>
        <div v-if="mark.change" class="small change">
          Changed <MomentText :at="mark.change.at" /><template v-if="mark.change.by">
            by <bdi>{{ mark.change.by }}</bdi></template
          >
        </div>
        <div v-if="mark.evidence" class="quiet small">
          <template v-if="mark.change">Proven before: </template><MomentText :at="mark.evidence.at" /><template
            v-if="mark.evidence.person"
            >, <bdi>{{ mark.evidence.person }}</bdi></template
          >,
          <RouterLink v-if="linkOf(mark.evidence)" :to="linkOf(mark.evidence)!"
            >{{ NOUNS[mark.evidence.kind]
            }}{{ mark.evidence.kind === 'wire' ? ` ${mark.evidence.id}` : '' }}</RouterLink
          >
          <template v-else>{{ NOUNS[mark.evidence.kind] }}</template>
        </div>
      </div>
    </li>
  </ol>
</template>

<style>
.upright {
  list-style: none;
  margin: 0;
  padding: 0;
}
.upright li {
  display: grid;
  grid-template-columns: 26px 1fr;
  gap: 0.8rem;
  padding-bottom: 0.9rem;
  position: relative;
}
.upright li:not(:last-child)::before {
  content: '';
  position: absolute;
  left: 12px;
  top: 26px;
  bottom: 0;
  width: 2px;
  background: var(--line);
}
.upright .name {
  text-transform: capitalize;
}
.upright .change {
  color: var(--tide);
}
.upright .statement {
  overflow-wrap: anywhere;
}
</style>
