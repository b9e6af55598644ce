<script setup lang="ts">
import type { MergePreview, Twin } from '@bathyscribe/contract'
import { BModal } from 'bootstrap-vue-next'
import { ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import ResultChanges from './ResultChanges.vue'

/** Columns that tools made beside ours for the same work, with the offer to merge them. */
const { course, canChange } = defineProps<{ course: string; canChange: boolean }>()
const { data: twins } = useCall('listTwins', () => ({ params: { course } }))
const { act, actError, busy } = useActing()
const asked = ref<Twin>()
const preview = ref<MergePreview>()
const merged = ref<MergePreview>()
const WHY: Record<Twin['reasons'][number], string> = {
  same_link: 'it belongs to the same link',
  same_resource: 'the tool calls both the same resource',
  same_title_and_points: 'title and points are the same',
  same_people: 'the same people have scores in both',
}
const input = (twin: Twin) => ({ params: { assignment: twin.made.id }, body: { into: twin.ours.id } })

async function look(twin: Twin) {
  preview.value = undefined
  asked.value = twin
  await act(async () => (preview.value = await call('previewMerge', input(twin))))
}
async function merge() {
  const twin = asked.value!
  await act(async () => (merged.value = await call('mergeColumn', input(twin))))
  asked.value = undefined
}
async function undo() {
  const id = merged.value!.made.id
  if (await act(() => call('unmergeColumn', { params: { assignment: id } }))) merged.value = undefined
}
</script>

<template>
  <ErrorNote :error="actError" />
  <p v-if="merged" class="note-good d-flex gap-3" role="status">
    <span
      >“{{ merged.made.title }}” is merged into “{{ merged.ours.title }}”: {{ merged.kept }} entries kept,
      {{ merged.changes.length }} results changed.</span
    ><button class="btn btn-sm btn-outline-primary ms-auto" type="button" :disabled="busy" @click="undo">
      Take it back
    </button>
  </p>
  <p v-for="twin in twins?.items" :key="`${twin.made.id} ${twin.ours.id}`" class="note-look d-flex gap-3">
    <span
      >▲ {{ twin.tool.name }} made a column “{{ twin.made.title }}” ({{ twin.made.scored }} scored) beside “{{
        twin.ours.title
      }}” ({{ twin.ours.scored }} scored) for the same work: {{ twin.reasons.map((one) => WHY[one]).join('; ') }}.</span
    >
    <button
      v-if="canChange"
      class="btn btn-sm btn-outline-primary ms-auto flex-shrink-0"
      type="button"
      :disabled="busy"
      @click="look(twin)"
    >
      Merge …
    </button>
  </p>
  <BModal
    :model-value="asked !== undefined"
    title="Merge two columns"
    ok-title="Merge"
    cancel-title="Leave them"
    :ok-disabled="preview === undefined"
    size="lg"
    @ok="merge"
    @hide="asked = undefined"
  >
    <template v-if="preview">
      <p>
        All {{ preview.kept }} scores of both are kept in one trail, in “{{ preview.ours.title }}”. What
        {{ asked?.tool.name }} still sends to its own column arrives there, too. It can be taken back.
      </p>
      <ResultChanges :changes="preview.changes" :stays="preview.stays" />
    </template>
    <p v-else>Reading both trails …</p>
  </BModal>
</template>
