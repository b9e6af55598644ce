<script setup lang="ts">
import type { Tool } from '@bathyscribe/contract'
import { BButton, BFormSelect, BModal } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import RemarkNotes from '../parts/RemarkNotes.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { isAdministrator } from '../state/session'
import { count } from '../state/words'

/** Suspending, retiring, replacing, deleting: each says first what hangs on the registration. */
const { tool } = defineProps<{ tool: Tool }>()
const params = computed(() => ({ tool: tool.id }))
const asking = ref<'' | 'suspend' | 'retire' | 'delete' | 'replace'>('')
const { data: impact } = useCall('showToolImpact', () => (asking.value ? { params: params.value } : undefined))
const { data: tools } = useCall('listTools', () =>
  asking.value === 'replace' ? { query: { state: 'enabled' as const, limit: 200 } } : undefined,
)
const scoresToo = ref(tool.scoresWhileSuspended)
const other = ref('')
const others = computed(() =>
  (tools.value?.items ?? [])
    .filter((one) => one.id !== tool.id)
    .map((one) => ({ value: one.id, text: `${one.name} (LTI ${one.version})` })),
)
const course = ref('')
const replacement = computed(() => ({ with: other.value, ...(course.value && { course: course.value }) }))
const { data: preview } = useCall('previewReplacement', () =>
  asking.value === 'replace' && other.value ? { params: params.value, body: replacement.value } : undefined,
)
const barred = computed(() => preview.value?.remarks.some((one) => one.verdict === 'fail') ?? true)
const { data: past } = useCall('listReplacements', () => (isAdministrator.value ? { params: params.value } : undefined))
const undoable = computed(() => past.value?.items.filter((one) => one.undoneAt === null) ?? [])
const takeBack = (id: string) => act(() => call('undoReplacement', { params: { ...params.value, id } }))
const { act, actError, busy } = useActing()
const open = computed({ get: () => asking.value !== '', set: (value) => (asking.value = value ? asking.value : '') })

const setState = (state: 'enabled' | 'suspended' | 'retired') =>
  act(() =>
    call('setToolState', {
      params: params.value,
      body: { state, ...(state === 'suspended' && { scoresWhileSuspended: scoresToo.value }) },
    }),
  )
const RUN = {
  suspend: () => setState('suspended'),
  retire: () => setState('retired'),
  delete: () => act(() => call('deleteTool', { params: params.value })),
  replace: () => act(() => call('replaceTool', { params: params.value, body: replacement.value })),
}
const restore = () => act(() => call('restoreTool', { params: params.value }))
async function run() {
  if (asking.value) await RUN[asking.value]()
}
const WORDS = { '': '', suspend: 'Suspend', retire: 'Retire', delete: 'Delete', replace: 'Replace' } as const
</script>

<template>
  <BButton
    v-if="tool.state === 'draft' || tool.state === 'suspended'"
    size="sm"
    variant="primary"
    :disabled="busy"
    @click="setState('enabled')"
    >Enable</BButton
  >
  <BButton v-if="tool.state === 'deleted'" size="sm" variant="primary" :disabled="busy" @click="restore"
    >Bring it back</BButton
  >
  <template v-else>
    <BButton v-if="tool.state === 'enabled'" size="sm" variant="outline-danger" @click="asking = 'suspend'"
      >Suspend …</BButton
    >
    <template v-if="tool.state !== 'retired' && tool.state !== 'waiting'">
      <BButton v-if="isAdministrator" size="sm" variant="outline-danger" @click="asking = 'replace'">Replace …</BButton>
      <BButton size="sm" variant="outline-danger" @click="asking = 'retire'">Retire …</BButton>
    </template>
    <BButton size="sm" variant="outline-danger" @click="asking = 'delete'">Delete …</BButton>
  </template>
  <BModal
    v-model="open"
    :title="`${WORDS[asking]} ${tool.name}?`"
    :ok-title="WORDS[asking]"
    ok-variant="danger"
    cancel-title="Cancel"
    :ok-disabled="busy || (asking === 'replace' && (!other || barred))"
    @ok="run"
  >
    <p v-if="impact">
      {{ count(impact.published, 'published assignment') }},
      {{ count(impact.assignments - impact.published, 'draft') }} and
      {{ count(impact.menuEntries, 'menu entry', 'menu entries') }} depend on it<template
        v-if="impact.courses.length > 0"
        >, in {{ impact.courses.map((one) => one.code).join(', ') }}</template
      >. {{ impact.scores }} results are in gradebooks; they stay whatever happens.
    </p>
    <div v-if="asking === 'suspend'" class="form-check">
      <input id="scores-too" v-model="scoresToo" class="form-check-input" type="checkbox" />
      <label class="form-check-label" for="scores-too">Scores of work already done are still taken</label>
    </div>
    <p v-if="asking === 'retire'">This is for good. Its links can no longer be opened.</p>
    <p v-if="asking === 'delete' && impact">
      Its links can no longer be opened. It can be restored for {{ impact.undoDays }} days.
    </p>
    <template v-if="asking === 'replace'">
      <label for="replace-with">Every link moves to</label>
      <BFormSelect id="replace-with" v-model="other" :options="others" />
      <label for="replace-course" class="mt-2">Of</label>
      <BFormSelect
        id="replace-course"
        v-model="course"
        :options="[
          { value: '', text: 'all courses; this registration is then retired' },
          ...(impact?.courses ?? []).map((one) => ({
            value: one.id,
            text: `${one.code} only; this registration stays`,
          })),
        ]"
      />
      <template v-if="preview">
        <p class="mt-3 mb-1">
          {{
            count(
              preview.courses.reduce((n, one) => n + one.assignments + one.menuEntries + one.unitItems, 0),
              'link',
            )
          }}
          would move. Scores stay; everything has to be proven again. It can be taken back.
        </p>
        <RemarkNotes :remarks="preview.remarks" />
      </template>
    </template>
  </BModal>
  <ErrorNote :error="actError" />
  <div v-for="one in undoable" :key="one.id" class="quiet w-100">
    {{ count(one.still, 'link') }} of {{ one.course?.code ?? 'all courses' }} moved from
    <RouterLink :to="`/tools/${one.from.slug}`">{{ one.from.name }}</RouterLink> to
    <RouterLink :to="`/tools/${one.to.slug}`">{{ one.to.name }}</RouterLink>, <MomentText :at="one.at" relative />.
    <button class="plain" type="button" :disabled="busy" @click="takeBack(one.id)">Take that back</button>
  </div>
</template>
