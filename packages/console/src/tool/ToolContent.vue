<script setup lang="ts">
import type { Tool } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput, BFormTextarea } from 'bootstrap-vue-next'
import { ref, watch } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import RichEditor from '../parts/RichEditor.vue'
import RichText from '../parts/RichText.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'
import { FRAME_PERMISSION_WORDS, inFrame } from '../state/words'

/** What is kept with a registration for those who make assignments of it: its picker, words for learners, titles that it insists on. */
const { tool, canChange } = defineProps<{ tool: Tool; canChange: boolean }>()
const { act, actError, busy } = useActing()
const editing = ref(false)
const pickerUrl = ref('')
const learnerText = ref('')
const titles = ref('')
const permissions = ref<Tool['framePermissions']>([])
watch(
  () => editing.value,
  () => {
    pickerUrl.value = tool.pickerUrl ?? ''
    learnerText.value = tool.learnerText
    titles.value = tool.exactTitles.join('\n')
    permissions.value = [...tool.framePermissions]
  },
)
async function keep() {
  const body = {
    revision: tool.revision,
    pickerUrl: pickerUrl.value || null,
    learnerText: learnerText.value,
    framePermissions: permissions.value,
    exactTitles: titles.value
      .split('\n')
      .map((one) => one.trim())
      .filter(Boolean),
  }
  if (await act(() => call('changeTool', { params: { tool: tool.id }, body }))) editing.value = false
}
const FRAMES = { unknown: 'not looked at yet', allowed: 'may be framed', refused: 'refuses frames' }
</script>

<template>
  <section class="panel">
    <div class="d-flex gap-2 align-items-baseline">
      <h2 class="flex-grow-1">Making assignments of it</h2>
      <BButton
        v-if="canChange && !editing"
        size="sm"
        variant="outline-primary"
        aria-label="Change what is kept for assignments"
        @click="editing = true"
        >Change</BButton
      >
    </div>
    <ErrorNote :error="actError" />
    <form v-if="editing" class="d-grid gap-3" @submit.prevent="keep">
      <BFormGroup
        label="Picker address"
        label-for="tool-picker"
        description="Where its picker takes requests; leave it empty when it has none."
        ><BFormInput id="tool-picker" v-model.trim="pickerUrl" class="mono" maxlength="2000"
      /></BFormGroup>
      <RichEditor
        id="tool-text"
        v-model="learnerText"
        label="Words for learners"
        description="Offered as instructions whenever an assignment on it is made."
      />
      <BFormGroup
        label="Titles it insists on"
        label-for="tool-titles"
        description="One exact title per line, for tools whose permissions depend on titles; empty for any."
        ><BFormTextarea id="tool-titles" v-model="titles" rows="2"
      /></BFormGroup>
      <fieldset>
        <legend class="fs-6">In a frame it may use</legend>
        <div v-for="(word, one) in FRAME_PERMISSION_WORDS" :key="one" class="form-check">
          <input :id="`frame-${one}`" v-model="permissions" class="form-check-input" type="checkbox" :value="one" />
          <label class="form-check-label" :for="`frame-${one}`">{{ word }}</label>
        </div>
        <p class="quiet mb-0">Pages of its own addresses only; the browser still asks each person.</p>
      </fieldset>
      <div class="d-flex gap-2">
        <BButton type="submit" size="sm" variant="primary" :disabled="busy">Save</BButton>
        <BButton size="sm" variant="outline-primary" @click="editing = false">Cancel</BButton>
      </div>
    </form>
    <dl v-else class="facts mb-0">
      <dt>Picker</dt>
      <dd>
        <span v-if="!tool.features.includes('picker')">none</span
        ><span v-else class="mono">{{ tool.pickerUrl ?? tool.launchUrl }}</span>
      </dd>
      <dt>Frames</dt>
      <dd :class="tool.framing === 'refused' ? 'tone-look' : ''">{{ FRAMES[tool.framing] }}</dd>
      <dt>In a frame it may use</dt>
      <dd>{{ inFrame(tool.framePermissions) || 'nothing of a person’s devices' }}</dd>
      <dt>Words for learners</dt>
      <dd><RichText v-if="tool.learnerText" :html="tool.learnerText" course="" /><span v-else>none</span></dd>
      <dt>Titles</dt>
      <dd>{{ tool.exactTitles.join(', ') || 'any' }}</dd>
    </dl>
  </section>
</template>
