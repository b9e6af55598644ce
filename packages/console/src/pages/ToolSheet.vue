<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import ErrorNote from '../parts/ErrorNote.vue'
import { useCall } from '../state/api'
import { sheetText } from '../tool/sheet-text'

/** The exchange sheet as a page of its own, to be printed or mailed. Secrets are never on it. */
const { tool: slug } = defineProps<{ tool: string }>()
const params = computed(() => ({ params: { tool: slug } }))
const { data: tool } = useCall('showTool', params)
const { data: sheet, error } = useCall('showExchangeSheet', params)
const mail = computed(() =>
  sheet.value && tool.value
    ? `mailto:?subject=${encodeURIComponent(`LTI: ${tool.value.name}`)}&body=${encodeURIComponent(sheetText(sheet.value.toolNeeds))}`
    : undefined,
)
const print = () => window.print()
</script>

<template>
  <ErrorNote :error="error" />
  <article v-if="tool && sheet" class="paper">
    <p class="no-print d-flex gap-3">
      <RouterLink :to="`/tools/${tool.slug}`">Back to {{ tool.name }}</RouterLink>
      <button class="plain" type="button" @click="print">Print</button>
      <a :href="mail">Mail what the tool’s end needs</a>
      <a :href="`/api/tools/${tool.slug}/exchange-sheet`" target="_blank">As JSON</a>
    </p>
    <h1>{{ tool.name }}: exchange sheet</h1>
    <p class="quiet">
      LTI {{ tool.version }}, {{ tool.course ? `for ${tool.course.code}` : 'for the whole institution' }}
    </p>
    <h2>What the tool’s end needs from us</h2>
    <dl class="sheet-lines">
      <template v-for="line in sheet.toolNeeds" :key="line.label + line.value"
        ><dt>{{ line.label }}</dt>
        <dd class="mono">{{ line.value }}</dd></template
      >
    </dl>
    <h2>What we hold from the tool</h2>
    <dl class="sheet-lines">
      <template v-for="line in sheet.weHold" :key="line.label + line.value"
        ><dt>{{ line.label }}</dt>
        <dd class="mono">{{ line.value }}</dd></template
      >
    </dl>
  </article>
</template>

<style>
.paper {
  max-width: 50rem;
}
</style>
