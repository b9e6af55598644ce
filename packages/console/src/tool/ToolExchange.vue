<script setup lang="ts">
import type { Tool } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import CopyValue from '../parts/CopyValue.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { useCopying } from '../state/copying'
import { sheetText } from './sheet-text'

/** What each end needs from the other, every value with its copy button. */
const { tool } = defineProps<{ tool: Tool }>()
const params = computed(() => ({ params: { tool: tool.id } }))
const { data: sheet, error } = useCall('showExchangeSheet', params)
const { act, actError, busy } = useActing()
const secret = ref<string>()
const { said, copy } = useCopying('Open the sheet and copy it by hand')
const reveal = () => act(async () => (secret.value = (await call('revealSecret', params.value)).sharedSecret))
</script>

<template>
  <section v-if="sheet" class="panel">
    <div class="d-flex gap-2 align-items-baseline flex-wrap">
      <h2 class="flex-grow-1">Exchange sheet</h2>
      <BButton size="sm" variant="outline-primary" @click="copy(sheetText(sheet.toolNeeds))">{{
        said || 'Copy all as text'
      }}</BButton>
      <RouterLink class="btn btn-sm btn-outline-primary" :to="`/tools/${tool.slug}/sheet`">Print or mail</RouterLink>
      <a class="btn btn-sm btn-outline-primary" :href="`/api/tools/${tool.slug}/exchange-sheet`" target="_blank"
        >JSON</a
      >
    </div>
    <ErrorNote :error="error ?? actError" />
    <h3 class="quiet">What the tool’s end needs from us</h3>
    <dl class="sheet-lines">
      <template v-for="line in sheet.toolNeeds" :key="line.label + line.value"
        ><dt>{{ line.label }}</dt>
        <dd><CopyValue :value="line.value" :label="line.label" /></dd
      ></template>
    </dl>
    <h3 class="quiet">What we hold from the tool</h3>
    <dl class="sheet-lines">
      <template v-for="line in sheet.weHold" :key="line.label + line.value">
        <dt>{{ line.label }}</dt>
        <dd v-if="line.secret && secret === undefined" class="copy-value">
          <span class="mono">{{ line.value }}</span
          ><BButton size="sm" class="py-0" variant="outline-primary" :disabled="busy" @click="reveal"
            >Show; this is audited</BButton
          >
        </dd>
        <dd v-else><CopyValue :value="line.secret ? secret! : line.value" :label="line.label" /></dd>
      </template>
    </dl>
  </section>
</template>
