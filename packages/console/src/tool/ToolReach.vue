<script setup lang="ts">
import type { Tool } from '@bathyscribe/contract'
import { BButton, BFormSelect } from 'bootstrap-vue-next'
import { computed, reactive, ref, watch } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { isAdministrator } from '../state/session'
import { PLACE_WORDS, SEES_OPTIONS } from '../state/words'

/** Where a tool shows in a course, and what it would be sent of a person there; for administrators also to which courses it is offered. */
const { tool } = defineProps<{ tool: Tool }>()
const { data: courses } = useCall('listCourses', { query: { limit: 200 } })
const at = reactive({
  course: tool.course?.id ?? '',
  role: 'learner' as 'learner' | 'instructor',
  person: '',
  disclosure: tool.disclosure,
})
const courseOptions = computed(() =>
  (courses.value?.items ?? []).map((one) => ({ value: one.id, text: `${one.code} ${one.title}` })),
)
watch(courseOptions, (options) => {
  if (!at.course) at.course = options[0]?.value ?? ''
})
const params = computed(() => ({ tool: tool.id }))
const { data: places, error } = useCall('showToolPlaces', () =>
  at.course ? { params: params.value, query: { course: at.course, role: at.role } } : undefined,
)
const { data: members } = useCall('listMembers', () =>
  at.course ? { params: { course: at.course }, query: { limit: 200 } } : undefined,
)
const personOptions = computed(() => [
  { value: '', text: 'the first learner' },
  ...(members.value?.items ?? []).map((one) => ({ value: one.person.id, text: one.person.fullName })),
])
watch(
  () => at.course,
  () => (at.person = ''),
)
const { data: preview, error: previewError } = useCall('previewIdentity', () =>
  at.course
    ? {
        params: params.value,
        query: { course: at.course, disclosure: at.disclosure, ...(at.person && { person: at.person }) },
      }
    : undefined,
)

const { act, actError, busy } = useActing()
const keepLimit = () =>
  act(() => call('changeTool', { params: params.value, body: { revision: tool.revision, disclosure: at.disclosure } }))
const offer = ref(tool.offer)
const named = ref(tool.offeredTo.map((one) => one.id))
const keepOffer = () =>
  act(() =>
    call('offerTool', {
      params: params.value,
      body: { revision: tool.revision, offer: offer.value, courses: offer.value === 'named' ? named.value : [] },
    }),
  )
</script>

<template>
  <section class="panel">
    <h2>Where it shows, and what it sees</h2>
    <ErrorNote :error="error ?? previewError ?? actError" />
    <div class="d-flex gap-2 flex-wrap mb-2">
      <BFormSelect v-model="at.course" size="sm" class="w-auto" aria-label="In the course" :options="courseOptions" />
      <BFormSelect
        v-model="at.role"
        size="sm"
        class="w-auto"
        aria-label="To whom"
        :options="[
          { value: 'learner', text: 'to learners' },
          { value: 'instructor', text: 'to instructors' },
        ]"
      />
    </div>
    <table v-if="places" class="grid-table mb-3">
      <tbody>
        <tr v-for="one in places.items" :key="one.place">
          <td class="text-nowrap">
            <span :class="one.shows ? 'tone-good' : 'tone-quiet'"
              ><span aria-hidden="true">{{ one.shows ? '●' : '○' }}</span>
              {{ one.shows ? 'shows' : 'does not show' }}</span
            >
          </td>
          <td class="text-nowrap">{{ PLACE_WORDS[one.place] }}</td>
          <td>{{ one.label ? `“${one.label}”. ` : '' }}{{ one.reason }}</td>
        </tr>
      </tbody>
    </table>
    <div class="d-flex gap-2 flex-wrap mb-2 align-items-baseline">
      <label for="preview-person">Sent of</label>
      <BFormSelect id="preview-person" v-model="at.person" size="sm" class="w-auto" :options="personOptions" />
      <label for="preview-limit">under the limit</label>
      <BFormSelect id="preview-limit" v-model="at.disclosure" size="sm" class="w-auto" :options="SEES_OPTIONS" />
      <BButton v-if="at.disclosure !== tool.disclosure" size="sm" variant="primary" :disabled="busy" @click="keepLimit"
        >Save</BButton
      >
    </div>
    <template v-if="preview">
      <table class="grid-table">
        <tbody>
          <tr v-for="one in preview.sent" :key="one.name">
            <td class="mono text-nowrap">{{ one.name }}</td>
            <td class="mono">{{ one.value }}</td>
          </tr>
          <tr v-for="one in preview.custom" :key="`custom ${one.name}`">
            <td class="mono text-nowrap">custom {{ one.name }}</td>
            <td class="mono">
              {{ one.sent || '(empty)' }} <span v-if="one.sent !== one.given" class="quiet">from {{ one.given }}</span>
            </td>
          </tr>
        </tbody>
      </table>
      <p class="quiet mt-2 mb-0">
        Of {{ preview.person.fullName }}, kept back: {{ preview.keptBack.join(', ') || 'nothing' }}.
      </p>
    </template>
    <template v-if="isAdministrator && !tool.course">
      <h3 class="quiet mt-3">Offered to</h3>
      <div class="d-flex gap-2 flex-wrap align-items-baseline">
        <BFormSelect
          v-model="offer"
          size="sm"
          class="w-auto"
          aria-label="Offered to"
          :options="[
            { value: 'all', text: 'all courses' },
            { value: 'named', text: 'these courses' },
            { value: 'none', text: 'no further course' },
          ]"
        />
        <BButton size="sm" variant="outline-primary" :disabled="busy" @click="keepOffer">Save</BButton>
      </div>
      <fieldset v-if="offer === 'named'" class="mt-2">
        <legend class="visually-hidden">Courses</legend>
        <div v-for="one in courseOptions" :key="one.value" class="form-check">
          <input
            :id="`offer-${one.value}`"
            v-model="named"
            class="form-check-input"
            type="checkbox"
            :value="one.value"
          />
          <label class="form-check-label" :for="`offer-${one.value}`">{{ one.text }}</label>
        </div>
      </fieldset>
    </template>
  </section>
</template>
