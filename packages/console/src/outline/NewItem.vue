<script setup lang="ts">
import type { Unit } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import ContentPicker from '../assignment/ContentPicker.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import RichEditor from '../parts/RichEditor.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { useCourseTools } from '../state/course-tools'
import { NO_SCORES } from '../state/words'

/** Makes something new in a unit, in its place. */
const { course, unit } = defineProps<{ course: string; unit: Unit }>()
const emit = defineEmits<{ close: [] }>()
const { act, actError, busy } = useActing()
const KINDS = [
  { kind: 'page', text: 'A page of text' },
  { kind: 'tool_link', text: 'A tool, without score' },
  { kind: 'file', text: 'A file' },
  { kind: 'address', text: 'A web address' },
  { kind: 'heading', text: 'A heading' },
  { kind: 'assignment', text: 'An assignment that is there' },
] as const
type Kind = (typeof KINDS)[number]['kind']
const kind = ref<Kind>('page')
const [title, body, address, toolSlug, file, assignment] = [ref(''), ref(''), ref(''), ref(''), ref(''), ref('')]
const published = ref(true)
const { tools, toolOptions } = useCourseTools(() => course, { text: 'Choose a tool', disabled: true })
const { data: files } = useCall('listFiles', () => ({ params: { course } }))
const { data: outline } = useCall('showOutline', () => ({ params: { course } }))
const tool = computed(() => tools.value.find((one) => one.slug === toolSlug.value))

type Choice = { value: string; text: string; disabled?: boolean }
const fileOptions = computed((): Choice[] => [
  { value: '', text: 'Choose a file', disabled: true },
  ...(files.value?.items ?? []).map((one) => ({ value: one.id, text: one.name })),
])
const looseOptions = computed((): Choice[] => [
  { value: '', text: outline.value?.loose.length ? 'Choose one' : 'Every assignment is in a unit', disabled: true },
  ...(outline.value?.loose ?? []).map((one) => ({ value: one.assignment?.id ?? '', text: one.title })),
])

async function add() {
  const common = { title: title.value, published: published.value }
  const parts = {
    page: { ...common, body: body.value },
    heading: common,
    address: { ...common, title: title.value || address.value, address: address.value },
    file: { ...common, file: file.value },
    tool_link: { ...common, tool: toolSlug.value },
    assignment: { assignment: assignment.value },
  }[kind.value]
  if (await act(() => call('addUnitItem', { params: { course }, body: { kind: kind.value, unit: unit.id, ...parts } })))
    emit('close')
}
const takePicked = (picking: string, items: number[]) =>
  act(async () => {
    for (const item of items)
      await call('addUnitItem', {
        params: { course },
        body: { kind: 'tool_link', unit: unit.id, published: published.value, content: { picking, item } },
      })
    emit('close')
  })
</script>

<template>
  <form class="new-item d-grid gap-2" @submit.prevent="add">
    <ErrorNote :error="actError" />
    <div class="d-flex gap-2 flex-wrap">
      <RouterLink class="btn btn-sm btn-primary" :to="`/courses/${course}/assignments/new?unit=${unit.id}`"
        >New assignment here</RouterLink
      >
      <BButton
        v-for="one in KINDS"
        :key="one.kind"
        size="sm"
        :variant="kind === one.kind ? 'secondary' : 'outline-primary'"
        :aria-pressed="kind === one.kind"
        @click="kind = one.kind"
        >{{ one.text }}</BButton
      >
    </div>
    <BFormGroup v-if="kind !== 'assignment'" label="Title" :label-for="`title-${unit.id}`"
      ><BFormInput
        :id="`title-${unit.id}`"
        v-model="title"
        maxlength="200"
        :required="kind === 'page' || kind === 'heading'"
    /></BFormGroup>
    <RichEditor v-if="kind === 'page'" :id="`body-${unit.id}`" v-model="body" label="Text" />
    <BFormGroup v-if="kind === 'address'" label="Address" :label-for="`address-${unit.id}`"
      ><BFormInput :id="`address-${unit.id}`" v-model.trim="address" class="mono" required placeholder="https://…"
    /></BFormGroup>
    <BFormGroup v-if="kind === 'file'" label="File" :label-for="`file-${unit.id}`">
      <select :id="`file-${unit.id}`" v-model="file" class="form-select" required>
        <option v-for="one in fileOptions" :key="one.value" :value="one.value" :disabled="one.disabled">
          {{ one.text }}
        </option>
      </select>
      <div class="form-text">
        Files are uploaded under <RouterLink :to="`/courses/${course}/things`">Files and groups</RouterLink>.
      </div>
    </BFormGroup>
    <BFormGroup v-if="kind === 'assignment'" label="Assignment that is in no unit" :label-for="`assignment-${unit.id}`"
      ><select :id="`assignment-${unit.id}`" v-model="assignment" class="form-select" required>
        <option v-for="one in looseOptions" :key="one.value" :value="one.value" :disabled="one.disabled">
          {{ one.text }}
        </option>
      </select></BFormGroup
    >
    <template v-if="kind === 'tool_link'">
      <p class="note-look mb-0">▲ {{ NO_SCORES }}</p>
      <BFormGroup label="Tool" :label-for="`tool-${unit.id}`"
        ><select :id="`tool-${unit.id}`" v-model="toolSlug" class="form-select" required>
          <option v-for="one in toolOptions" :key="one.value" :value="one.value" :disabled="one.disabled">
            {{ one.text }}
          </option>
        </select></BFormGroup
      >
      <ContentPicker
        v-if="tool?.features.includes('picker')"
        :course="course"
        :tool="tool"
        purpose="unit"
        :multiple="true"
        @take="takePicked"
      />
    </template>
    <label class="form-check"
      ><input v-model="published" class="form-check-input" type="checkbox" /> Learners see it at once, when its unit is
      published</label
    >
    <div class="d-flex gap-2">
      <BButton type="submit" size="sm" variant="primary" :disabled="busy">Put it here</BButton>
      <BButton size="sm" variant="outline-primary" @click="emit('close')">Cancel</BButton>
    </div>
  </form>
</template>

<style>
.new-item {
  background: color-mix(in srgb, var(--sea-soft) 35%, transparent);
  border: 1px solid var(--line);
  border-radius: 0.4rem;
  padding: 0.8rem;
  margin-top: 0.6rem;
}
</style>
