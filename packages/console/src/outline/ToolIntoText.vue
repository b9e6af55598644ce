<script setup lang="ts">
import { BButton, BFormGroup, BFormSelect } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import ContentPicker from '../assignment/ContentPicker.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'
import { useCourseTools } from '../state/course-tools'

/** Tool content for running text: embedded, linked, or opened in a window. It says plainly that nothing of it is scored. */
const { course } = defineProps<{ course: string }>()
const emit = defineEmits<{ placed: [string, 'frame' | 'link' | 'window', string]; close: [] }>()
const { act, actError, busy } = useActing()
const { tools, toolOptions } = useCourseTools(() => course, { text: 'Choose a tool', disabled: true })
const slug = ref('')
const show = ref<'frame' | 'link' | 'window'>('frame')
const tool = computed(() => tools.value.find((one) => one.slug === slug.value))
const place = (body: Record<string, unknown>) =>
  act(async () => {
    const link = await call('addUnitItem', {
      params: { course },
      body: { kind: 'tool_link', unit: null, published: true, ...body },
    })
    emit('placed', link.id, show.value, link.title)
  })
</script>

<template>
  <div class="new-item d-grid gap-2">
    <ErrorNote :error="actError" />
    <p class="note-look mb-0">
      ▲ A tool in running text returns no score.
      <RouterLink :to="`/courses/${course}/assignments/new${slug ? `?tool=${slug}` : ''}`"
        >Make an assignment of it instead</RouterLink
      >
    </p>
    <div class="row g-2">
      <BFormGroup class="col-md-6" label="Tool" label-for="text-tool"
        ><BFormSelect id="text-tool" v-model="slug" :options="toolOptions"
      /></BFormGroup>
      <BFormGroup class="col-md-6" label="Shown" label-for="text-show"
        ><BFormSelect
          id="text-show"
          v-model="show"
          :options="[
            { value: 'frame', text: 'In the text' },
            { value: 'link', text: 'As a link' },
            { value: 'window', text: 'In a window of its own' },
          ]"
      /></BFormGroup>
    </div>
    <ContentPicker
      v-if="tool?.features.includes('picker')"
      :course="course"
      :tool="tool"
      purpose="text"
      :multiple="false"
      @take="(picking, items) => place({ content: { picking, item: items[0] } })"
    />
    <div class="d-flex gap-2">
      <BButton size="sm" variant="primary" :disabled="busy || !slug" @click="place({ tool: slug })"
        >Put the tool’s front page here</BButton
      >
      <BButton size="sm" variant="outline-primary" @click="emit('close')">Cancel</BButton>
    </div>
  </div>
</template>
