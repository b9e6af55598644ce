<script setup lang="ts">
import type { ToolCheck } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import ConfirmAct from '../parts/ConfirmAct.vue'
import CopyValue from '../parts/CopyValue.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import PageHead from '../parts/PageHead.vue'
import StateWord from '../parts/StateWord.vue'
import WireTable from '../parts/WireTable.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { isAdministrator } from '../state/session'
import { SEES } from '../state/words'

const { tool: slug } = defineProps<{ tool: string }>()
const params = computed(() => ({ params: { tool: slug } }))
const { data: tool, error } = useCall('showTool', params)
const mine = computed(() => isAdministrator.value || tool.value?.course !== null)
const { data: sheet } = useCall('showExchangeSheet', () => (tool.value && mine.value ? params.value : undefined))
const { data: wire } = useCall('listWire', () => (tool.value ? { query: { tool: slug, limit: 8 } } : undefined))
const secret = ref<string>()
const check = ref<ToolCheck>()
const { act, actError, busy } = useActing()

const setState = (state: 'enabled' | 'suspended' | 'retired') =>
  act(() => call('setToolState', { ...params.value, body: { state } }))
const runCheck = () => act(async () => (check.value = await call('checkTool', params.value)))
const reveal = () => act(async () => (secret.value = (await call('revealSecret', params.value)).sharedSecret))
const asText = computed(() => (sheet.value?.toolNeeds ?? []).map((line) => `${line.label}: ${line.value}`).join('\n'))
</script>

<template>
  <ErrorNote :error="error" />
  <template v-if="tool">
    <PageHead :title="tool.name" :back="{ to: '/tools', text: 'Tools' }">
      <template #under
        >LTI {{ tool.version }} · {{ tool.course ? `${tool.course.code} only` : 'whole institution' }} ·
        <StateWord :state="tool.state"
      /></template>
      <template v-if="mine">
        <BButton size="sm" variant="outline-primary" :disabled="busy" @click="runCheck">Check the tool’s end</BButton>
        <RouterLink
          v-if="tool.state !== 'retired'"
          class="btn btn-sm btn-outline-primary"
          :to="`/tools/${tool.slug}/change`"
          >Change</RouterLink
        >
        <BButton
          v-if="tool.state === 'draft' || tool.state === 'suspended'"
          size="sm"
          variant="primary"
          :disabled="busy"
          @click="setState('enabled')"
          >Enable</BButton
        >
        <ConfirmAct
          v-if="tool.state === 'enabled'"
          text="Suspend"
          :question="`Launches of ${tool.assignments} assignments in ${tool.courses} courses are refused until you enable it again. Scores of work already done are still taken.`"
          @done="setState('suspended')"
        />
        <ConfirmAct
          v-if="tool.state !== 'retired'"
          text="Retire"
          :question="`This is for good. ${tool.assignments} assignments in ${tool.courses} courses can no longer be opened; their scores and wire entries are kept.`"
          @done="setState('retired')"
        />
      </template>
    </PageHead>
    <ErrorNote :error="actError" />
    <section v-if="check" class="panel mb-3" aria-live="polite">
      <h2>The tool’s end: <StateWord :state="check.verdict" /></h2>
      <table class="grid-table">
        <tbody>
          <tr v-for="one in check.findings" :key="one.check">
            <td><StateWord :state="one.verdict" /></td>
            <td>{{ one.check }}</td>
            <td>
              {{ one.statement }}
              <div v-if="one.remedy" class="quiet">→ {{ one.remedy }}</div>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <div class="two">
      <div class="d-grid gap-3">
        <section v-if="sheet" class="panel">
          <h2>Exchange sheet</h2>
          <h3 class="quiet">What the tool’s end needs from us</h3>
          <dl class="sheet-lines">
            <template v-for="line in sheet.toolNeeds" :key="line.label"
              ><dt>{{ line.label }}</dt>
              <dd><CopyValue :value="line.value" :label="line.label" /></dd
            ></template>
          </dl>
          <details class="mb-3">
            <summary>All of it as text</summary>
            <pre class="mono mt-2 mb-1">{{ asText }}</pre>
          </details>
          <h3 class="quiet">What we hold from the tool</h3>
          <dl class="sheet-lines">
            <template v-for="line in sheet.weHold" :key="line.label">
              <dt>{{ line.label }}</dt>
              <dd v-if="line.secret && secret === undefined" class="copy-value">
                <span class="mono">{{ line.value }}</span><BButton
                  size="sm"
                  class="py-0"
                  variant="outline-primary"
                  :disabled="busy"
                  @click="reveal"
                  >Show; this is audited</BButton
                >
              </dd>
              <dd v-else><CopyValue :value="line.secret ? secret! : line.value" :label="line.label" /></dd>
            </template>
          </dl>
        </section>
        <section class="panel">
          <h2>On the wire</h2>
          <WireTable v-if="wire" :entries="wire.items" empty="Nothing has been sent or received yet." />
          <RouterLink v-if="wire?.next" :to="`/wire?tool=${tool.slug}`">All its entries</RouterLink>
        </section>
      </div>
      <section class="panel">
        <h2>In use</h2>
        <dl class="facts">
          <dt>Used by</dt>
          <dd>{{ tool.assignments }} assignments in {{ tool.courses }} courses</dd>
          <dt>Last launch</dt>
          <dd><MomentText :at="tool.lastLaunchAt" relative /></dd>
          <dt>Last score</dt>
          <dd><MomentText :at="tool.lastScoreAt" relative /></dd>
          <dt>Refused, 7 days</dt>
          <dd :class="tool.refusals ? 'tone-bad' : ''">{{ tool.refusals ? `✕ ${tool.refusals} messages` : 'none' }}</dd>
          <dt>Secret set</dt>
          <dd><MomentText :at="tool.secretSetAt" relative /></dd>
          <dt>Sees of people</dt>
          <dd>{{ SEES[tool.disclosure] }}</dd>
          <dt>Opens in</dt>
          <dd>{{ tool.documentTarget === 'frame' ? 'a frame' : 'a window' }}</dd>
          <dt>Custom parameters</dt>
          <dd>
            <span v-if="Object.keys(tool.customParameters).length === 0">none</span>
            <div v-for="(value, name) in tool.customParameters" :key="name" class="mono">{{ name }}={{ value }}</div>
          </dd>
          <dt>Soundings send</dt>
          <dd>
            <span v-if="Object.keys(tool.soundingParameters).length === 0">nothing more</span>
            <div v-for="(value, name) in tool.soundingParameters" :key="name" class="mono">{{ name }}={{ value }}</div>
          </dd>
          <dt v-if="tool.note">Note</dt>
          <dd v-if="tool.note">{{ tool.note }}</dd>
        </dl>
      </section>
    </div>
  </template>
</template>
