<script setup lang="ts">
import DOMPurify from 'dompurify'
import { computed } from 'vue'
import ToolStage from './ToolStage.vue'

/** Rich text as it is read, cleaned once more on its way out. Tool links in it are shown where they stand. */
const { html } = defineProps<{ html: string; course: string }>()

interface Piece {
  html?: string
  tool?: { id: string; show: string; title: string }
}
const asMarkup = new XMLSerializer()
const pieces = computed((): Piece[] => {
  const clean = DOMPurify.sanitize(html, {
    ADD_ATTR: ['data-tool', 'data-show', 'target'],
    FORBID_TAGS: ['style', 'form', 'input', 'iframe', 'svg', 'math'],
  })
  const page = new DOMParser().parseFromString(clean, 'text/html')
  const all: Piece[] = []
  let text = ''
  const flush = () => {
    if (text.trim() !== '') all.push({ html: text })
    text = ''
  }
  for (const node of page.body.childNodes) {
    const id = node instanceof HTMLElement ? node.dataset['tool'] : undefined
    if (node instanceof HTMLElement && id) {
      flush()
      all.push({ tool: { id, show: node.dataset['show'] ?? 'link', title: node.textContent.trim() || 'Tool content' } })
    } else text += node instanceof HTMLElement ? node.outerHTML : asMarkup.serializeToString(node)
  }
  flush()
  return all
})
</script>

<template>
  <div class="rich-text">
    <template v-for="(piece, i) in pieces" :key="i">
      <!-- eslint-disable-next-line vue/no-v-html -- cleaned by the service when it was kept, and by DOMPurify just now -->
      <div v-if="piece.html" v-html="piece.html"></div>
      <div v-else-if="piece.tool" class="mb-3">
        <ToolStage
          v-if="piece.tool.show === 'frame'"
          :link="piece.tool.id"
          target="frame"
          :name="piece.tool.title"
          :low="true"
        />
        <ToolStage
          v-else-if="piece.tool.show === 'window'"
          :link="piece.tool.id"
          target="window"
          :name="piece.tool.title"
        />
        <RouterLink v-else :to="`/courses/${course}/items/${piece.tool.id}`">{{ piece.tool.title }}</RouterLink>
        <div class="quiet small">Returns no score.</div>
      </div>
    </template>
  </div>
</template>
