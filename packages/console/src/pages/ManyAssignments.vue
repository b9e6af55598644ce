<script setup lang="ts">
import type { TableAnswer } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormSelect } from 'bootstrap-vue-next'
import { computed, reactive, ref } from 'vue'
import ContentPicker from '../assignment/ContentPicker.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import PageHead from '../parts/PageHead.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { useCourseTools } from '../state/course-tools'
import { useDebouncedCall } from '../state/debounced-call'
import { useNextPage } from '../state/next-page'
import { count } from '../state/words'

/** Many assignments at once: from a table that is typed or pasted, or from one picker answer with many items. */
const { course: courseId } = defineProps<{ course: string }>()
const goOn = useNextPage()
const { data: course } = useCall('showCourse', () => ({ params: { course: courseId } }))
const { tools, toolOptions } = useCourseTools(() => courseId, { text: 'Choose a tool' })
const { data: outline } = useCall('showOutline', () => ({ params: { course: courseId } }))
const table = ref('')
const wanted = reactive({ tool: '', category: null as string | null, unit: null as string | null })
const tool = computed(() => tools.value.find((one) => one.slug === wanted.tool))
const EXAMPLE = 'title\tpoints\tdue\tunit\nBends\t10\t2026-12-01\tWeek 14\nHitches\t10\t2026-12-08\tWeek 15'

const question = () => ({
  table: table.value,
  ...(wanted.tool && { tool: wanted.tool }),
  ...(wanted.category && { category: wanted.category }),
  ...(wanted.unit && { unit: outline.value?.units.find((one) => one.id === wanted.unit)?.title }),
})
const input = () => ({ params: { course: courseId }, body: question() })
const {
  answer,
  error: readError,
  now,
} = useDebouncedCall<TableAnswer>({
  on: [table, () => ({ ...wanted })],
  waitMs: 300,
  isEmpty: () => table.value.trim() === '',
  ask: () => call('checkTable', input()),
})
const { act, actError, busy } = useActing()
const make = () => act(() => now(() => call('makeTable', input()), true))
async function take(picking: string, items: number[]) {
  const body = { picking, items, category: wanted.category, unit: wanted.unit }
  if (await act(() => call('takePicked', { params: { course: courseId }, body })))
    await goOn(`/courses/${courseId}/assignments`)
}
const ACTS = { make: 'new', change: 'changes', keep: 'stays', refuse: 'refused' }
</script>

<template>
  <PageHead
    title="Many assignments at once"
    :back="{ to: `/courses/${courseId}`, text: course ? `${course.code} ${course.title}` : 'Course' }"
  />
  <ErrorNote :error="actError ?? readError" />
  <section class="panel mb-3">
    <div class="row g-3">
      <BFormGroup class="col-md-4" label="Tool, for rows that name none" label-for="many-tool"
        ><BFormSelect id="many-tool" v-model="wanted.tool" :options="toolOptions"
      /></BFormGroup>
      <BFormGroup class="col-md-4" label="Category, for rows that name none" label-for="many-category"
        ><BFormSelect
          id="many-category"
          v-model="wanted.category"
          :options="[
            { value: null, text: 'None' },
            ...(course?.categories ?? []).map((one) => ({ value: one.name, text: one.name })),
          ]"
      /></BFormGroup>
      <BFormGroup class="col-md-4" label="Unit, for rows that name none" label-for="many-unit"
        ><BFormSelect
          id="many-unit"
          v-model="wanted.unit"
          :options="[
            { value: null, text: 'None' },
            ...(outline?.units ?? []).map((one) => ({ value: one.id, text: one.title })),
          ]"
      /></BFormGroup>
    </div>
    <div v-if="tool?.features.includes('picker')" class="mt-3">
      <h2>Out of the tool’s picker</h2>
      <ContentPicker :course="courseId" :tool="tool" purpose="assignment" :multiple="true" @take="take" />
    </div>
  </section>
  <section class="panel">
    <label for="table"><h2 class="mb-1">From a table</h2></label>
    <p class="quiet">
      Paste cells out of a spreadsheet, or CSV. Heads: title, points, tool, category, unit, opens, due, closes,
      attempts, opens in, address, groups, publish, custom.name, key. A row’s key makes it safe to send the table again:
      what is there is changed where it differs.
      <button class="plain" type="button" @click="table = EXAMPLE">Begin with an example</button>
    </p>
    <textarea
      id="table"
      v-model="table"
      class="form-control mono"
      rows="8"
      spellcheck="false"
      :placeholder="EXAMPLE"
    ></textarea>
    <template v-if="answer">
      <div class="d-flex gap-3 align-items-center my-3" role="status">
        <strong v-if="answer.done" class="tone-good"
          >● Done: {{ count(answer.makes, 'assignment') }} made, {{ answer.changes }} changed, {{ answer.keeps }} as
          they were.</strong
        >
        <template v-else>
          <span
            >{{ answer.makes }} new · {{ answer.changes }} changed · {{ answer.keeps }} as they are<template
              v-if="answer.refuses > 0"
            >
              · <span class="tone-bad">✕ {{ answer.refuses }} refused</span></template
            ></span
          >
          <BButton
            variant="primary"
            :disabled="busy || answer.refuses > 0 || answer.makes + answer.changes === 0"
            @click="make"
            >{{ busy ? 'Making …' : `Make ${answer.makes + answer.changes} in one go` }}</BButton
          >
        </template>
        <RouterLink v-if="answer.done" :to="`/courses/${courseId}/assignments`">The course’s assignments</RouterLink>
      </div>
      <p v-if="answer.unknownColumns.length > 0" class="note-look">
        ▲ Not read: {{ answer.unknownColumns.join(', ') }}
      </p>
      <div class="table-wrap">
        <table class="grid-table">
          <thead>
            <tr>
              <th>Line</th>
              <th></th>
              <th>Title</th>
              <th>Tool</th>
              <th class="number">Points</th>
              <th>Findings</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="row in answer.rows" :key="row.line">
              <td class="number">{{ row.line }}</td>
              <td>{{ ACTS[row.act] }}</td>
              <td>
                <RouterLink v-if="row.assignment" :to="`/courses/${courseId}/assignments/${row.assignment.id}`">{{
                  row.title
                }}</RouterLink>
                <template v-else>{{ row.title }}</template>
              </td>
              <td>{{ row.tool ?? '–' }}</td>
              <td class="number">{{ row.points ?? '–' }}</td>
              <td>
                <div v-for="one in row.problems" :key="one.column + one.message" class="tone-bad">
                  ✕ {{ one.column }}: {{ one.message }}
                </div>
                <div v-for="one in row.changes" :key="one.field">
                  {{ one.field }}: <s class="quiet">{{ one.now || 'nothing' }}</s> {{ one.wanted || 'nothing' }}
                </div>
                <div
                  v-for="one in row.remarks.filter((each) => each.verdict === 'warn')"
                  :key="one.rule"
                  class="tone-look"
                >
                  ▲ {{ one.statement }}
                </div>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
  </section>
</template>
