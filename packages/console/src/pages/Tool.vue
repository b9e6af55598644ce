<script setup lang="ts">
import type { ToolCheck } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import ConnectionList from '../parts/ConnectionList.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import PageHead from '../parts/PageHead.vue'
import StateWord from '../parts/StateWord.vue'
import WireTable from '../parts/WireTable.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { useNextPage } from '../state/next-page'
import { isAdministrator } from '../state/session'
import { count, FEATURE_WORDS, PLACE_WORDS, SEES } from '../state/words'
import ToolApproval from '../tool/ToolApproval.vue'
import ToolDeployments from '../tool/ToolDeployments.vue'
import ToolEnding from '../tool/ToolEnding.vue'
import ToolMove from '../tool/ToolMove.vue'
import ToolExchange from '../tool/ToolExchange.vue'
import ToolKeys from '../tool/ToolKeys.vue'
import ToolContent from '../tool/ToolContent.vue'
import ToolReach from '../tool/ToolReach.vue'

const { tool: slug } = defineProps<{ tool: string }>()
const params = computed(() => ({ params: { tool: slug } }))
const { data: tool, error } = useCall('showTool', params)
const mine = computed(() => isAdministrator.value || tool.value?.course !== null)
const { data: wire } = useCall('listWire', () => (tool.value ? { query: { tool: slug, limit: 8 } } : undefined))
const check = ref<ToolCheck>()
const { act, actError, busy } = useActing()
const runCheck = () => act(async () => (check.value = await call('checkTool', params.value)))
const FIRST = {
  none: 'may be opened by everybody at once',
  course: 'an instructor opens it first, once a course',
  link: 'an instructor opens each link first',
}
const route = useRoute()
const goOn = useNextPage()
/** Who registered it for a course goes on there. */
function approved() {
  const next = route.query['next']
  if (typeof next === 'string') void goOn(`/courses/${next}/assignments/new?tool=${slug}&pick=1`)
}
const changeable = computed(() => tool.value && !['retired', 'deleted'].includes(tool.value.state))
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
        <BButton size="sm" variant="outline-primary" :disabled="busy" @click="runCheck">{{
          busy ? 'Checking …' : 'Check the tool’s end'
        }}</BButton>
        <RouterLink v-if="changeable" class="btn btn-sm btn-outline-primary" :to="`/tools/${tool.slug}/change`"
          >Change</RouterLink
        >
        <ToolMove v-if="changeable && isAdministrator" :tool="tool" />
        <ToolEnding :tool="tool" />
      </template>
    </PageHead>
    <ErrorNote :error="actError" />
    <p v-if="tool.replacedBy" class="note-look">
      Its links moved to <RouterLink :to="`/tools/${tool.replacedBy.slug}`">{{ tool.replacedBy.name }}</RouterLink>.
    </p>
    <p v-if="tool.lookAlikes.length > 0" class="note-look">
      Almost the same name:
      <template v-for="(one, i) in tool.lookAlikes" :key="one.id"
        >{{ i > 0 ? ', ' : '' }}<RouterLink :to="`/tools/${one.slug}`">{{ one.name }}</RouterLink></template
      >. Make sure that courses choose the right one.
    </p>
    <ToolApproval
      v-if="tool.state === 'waiting' || tool.proposal"
      :key="tool.revision"
      :tool="tool"
      @approved="approved"
    />
    <section v-if="check" class="panel mb-3" aria-live="polite">
      <h2>The tool’s end: <StateWord :state="check.verdict" /></h2>
      <table class="grid-table">
        <tbody>
          <tr v-for="one in check.findings" :key="one.check + one.statement">
            <td><StateWord :state="one.verdict" /></td>
            <td class="text-nowrap">{{ one.check }}</td>
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
        <ToolExchange v-if="mine" :tool="tool" />
        <ToolContent
          :key="`content ${tool.id} ${tool.revision}`"
          :tool="tool"
          :can-change="mine && changeable === true"
        />
        <ToolReach :key="`${tool.id} ${tool.revision}`" :tool="tool" />
        <ToolDeployments v-if="mine && tool.version === '1.3'" :tool="tool" />
        <ToolKeys v-if="mine" :tool="tool" />
        <section class="panel">
          <h2>On the wire</h2>
          <WireTable v-if="wire" :entries="wire.items" empty="Nothing has been sent or received yet." />
          <RouterLink v-if="wire?.next" :to="`/wire?tool=${tool.slug}`">All its entries</RouterLink>
        </section>
      </div>
      <section class="panel">
        <h2>In use</h2>
        <p v-if="tool.description">{{ tool.description }}</p>
        <dl class="facts">
          <dt>Used by</dt>
          <dd>
            {{ count(tool.assignments, 'assignment') }}, {{ count(tool.menuEntries, 'menu entry', 'menu entries') }} and
            {{ count(tool.unitItems, 'link in a unit', 'links in units') }}, in
            {{ count(tool.courses, 'course') }}
          </dd>
          <dt>Last launch</dt>
          <dd><MomentText :at="tool.lastLaunchAt" relative /></dd>
          <dt>Last score</dt>
          <dd><MomentText :at="tool.lastScoreAt" relative /></dd>
          <dt>Refused, 7 days</dt>
          <dd :class="tool.refusals ? 'tone-bad' : ''">{{ tool.refusals ? `✕ ${tool.refusals} messages` : 'none' }}</dd>
          <dt>Can</dt>
          <dd>{{ tool.features.map((one) => FEATURE_WORDS[one]).join(', ') || 'be opened; returns no scores' }}</dd>
          <dt>Meant for</dt>
          <dd>{{ tool.placements.map((one) => PLACE_WORDS[one.place]).join(', ') || 'no place' }}</dd>
          <dt>First entry</dt>
          <dd>{{ FIRST[tool.firstEntry] }}</dd>
          <dt>Personal data it sees</dt>
          <dd>{{ SEES[tool.disclosure] }}</dd>
          <dt>Opens in</dt>
          <dd>{{ tool.documentTarget === 'frame' ? 'a frame' : 'a window' }}</dd>
          <template v-if="tool.scopes.length > 0">
            <dt>Granted</dt>
            <dd>
              <div v-for="one in tool.scopes" :key="one" class="mono">{{ one.replace(/^.*\/spec\//, '') }}</div>
            </dd>
          </template>
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
    <ConnectionList :tool="tool.id" />
  </template>
</template>
