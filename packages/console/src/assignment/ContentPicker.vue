<script setup lang="ts">
import type { Picking, Tool } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { computed, ref, watch } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import ToolStage from '../parts/ToolStage.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { count } from '../state/words'

/** A tool's own picker, opened in place. What comes back is kept by the service at once, so closing the page loses nothing. */
const { course, tool, purpose, multiple, assignment, openAtOnce } = defineProps<{
  course: string
  tool: Pick<Tool, 'slug' | 'name'>
  purpose: Picking['purpose']
  multiple: boolean
  assignment?: string | undefined
  /** Opens it without being asked. */
  openAtOnce?: boolean
}>()
const emit = defineEmits<{ take: [string, number[]]; arrived: [Picking] }>()
const { act, actError, busy } = useActing()
const id = ref('')
const chosen = ref<number[]>([])
const { data } = useCall('showPicking', () => (id.value ? { params: { course, picking: id.value } } : undefined))
const picking = computed(() => (data.value?.id === id.value ? data.value : undefined))

const open = () =>
  act(async () => {
    const made = await call('openPicker', {
      params: { course },
      body: { tool: tool.slug, purpose, multiple, ...(assignment && { assignment }) },
    })
    id.value = made.id
  })
if (openAtOnce) void open()
async function leave() {
  const left = id.value
  id.value = ''
  await call('leavePicking', { params: { course, picking: left } }).catch(() => undefined)
}
watch(
  () => picking.value?.state,
  () => {
    if (picking.value?.state !== 'answered') return
    chosen.value = picking.value.items.map((_, i) => i)
    emit('arrived', picking.value)
    if (picking.value.items.length === 1 || !multiple) emit('take', picking.value.id, [0])
  },
)
watch(
  () => tool.slug,
  () => (id.value = ''),
)
</script>

<template>
  <div class="content-picker">
    <ErrorNote :error="actError" />
    <BButton v-if="!picking || picking.state !== 'open'" size="sm" variant="primary" :disabled="busy" @click="open">{{
      picking?.state === 'answered' ? `Choose again in ${tool.name}` : `Choose in ${tool.name}`
    }}</BButton>
    <template v-if="picking">
      <div v-if="picking.state === 'open'" class="mt-2" aria-live="polite">
        <p v-if="picking.code" class="note-bad">
          <strong>What {{ tool.name }} sent back was refused: {{ picking.sentence }}</strong>
          Choose again below, or open the picker again.
          <RouterLink v-if="picking.wireEntryId" :to="`/wire/${picking.wireEntryId}`">The message</RouterLink>
        </p>
        <ToolStage
          :link="picking.id"
          target="frame"
          :name="`Choose in ${tool.name}`"
          :page="picking.openAt"
          :low="true"
        />
        <div class="d-flex gap-3 mt-2">
          <a :href="picking.windowAt" target="_blank" rel="noopener">Open it in a window instead</a>
          <button class="plain" type="button" @click="leave">Leave the picker</button>
        </div>
      </div>
      <div v-else aria-live="polite" class="mt-2">
        <p v-if="picking.state === 'empty'" class="note-look mb-2">
          {{ tool.name }} came back without a choice.
          <template v-if="picking.said">It says: “{{ picking.said }}”</template>
        </p>
        <p v-if="picking.state === 'failed'" class="note-bad mb-2">
          {{ tool.name }} could not hand anything over.
          <template v-if="picking.said">It says: “{{ picking.said }}”</template>
        </p>
        <ul v-if="picking.problems.length > 0" class="note-look mb-2">
          <li v-for="one in picking.problems" :key="one.place">
            {{ one.title || `Item ${one.place + 1}` }}: {{ one.sentence }}
          </li>
        </ul>
        <div v-if="picking.state === 'answered' && multiple && picking.items.length > 1" class="panel">
          <h3>{{ count(picking.items.length, 'item') }} came back</h3>
          <label v-for="(item, i) in picking.items" :key="i" class="form-check"
            ><input v-model="chosen" class="form-check-input" type="checkbox" :value="i" /> {{ item.title || item.url }}
            <span class="quiet"
              >{{ item.kind.replace('_', ' ')
              }}<template v-if="item.column?.points"> · {{ item.column.points }} points</template></span
            ></label
          >
          <BButton
            size="sm"
            variant="primary"
            class="mt-2"
            :disabled="chosen.length === 0"
            @click="emit('take', picking.id, chosen)"
            >Take {{ chosen.length }}</BButton
          >
        </div>
      </div>
    </template>
  </div>
</template>
