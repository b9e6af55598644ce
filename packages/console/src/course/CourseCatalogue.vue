<script setup lang="ts">
import type { CatalogueItem, Course } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput } from 'bootstrap-vue-next'
import { computed, reactive, ref, watch } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import MoreRows from '../parts/MoreRows.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { useSearched } from '../state/debounced-call'
import { usePaging } from '../state/paging'
import { FEATURE_WORDS, inFrame } from '../state/words'

/** Tools that the course may use: searched as one types, added in one act, or with the course's own key and secret. */
const { course, canChange } = defineProps<{ course: Course; canChange: boolean }>()
const params = computed(() => ({ course: course.id }))
const text = ref('')
const asked = useSearched(text)
const paging = usePaging()
watch(asked, () => paging.reset(), { flush: 'sync' })
const { data, error } = useCall('searchCatalogue', () => ({
  params: params.value,
  query: { search: asked.value.trim(), cursor: paging.cursor.value, limit: 20 },
}))
const { act, actError, busy } = useActing()
const keysFor = ref('')
const own = reactive({ consumerKey: '', sharedSecret: '' })

const can = (one: CatalogueItem) => [
  ...one.features.map((feature) => FEATURE_WORDS[feature]),
  one.framed ? 'runs in a frame' : 'opens in a window',
  ...(one.framed && one.framePermissions.length > 0 ? [`may use ${inFrame(one.framePermissions)}`] : []),
]
async function add(one: CatalogueItem) {
  const body = { tool: one.tool.id, ...(one.needsKeys && { ...own }) }
  if (await act(() => call('addCourseTool', { params: params.value, body }))) {
    keysFor.value = own.consumerKey = own.sharedSecret = ''
  }
}
const addEntry = (one: CatalogueItem) =>
  act(() => call('addMenuEntry', { params: params.value, body: { tool: one.tool.id } }))
const takeOut = (one: CatalogueItem) =>
  act(() => call('removeCourseTool', { params: { ...params.value, courseTool: one.tool.id } }))
</script>

<template>
  <section class="panel">
    <h2>Catalogue</h2>
    <input
      v-model="text"
      class="form-control form-control-sm mb-2"
      type="search"
      placeholder="Name or purpose"
      aria-label="Find a tool in the catalogue"
    />
    <ErrorNote :error="error ?? actError" />
    <template v-if="data">
      <p v-if="data.items.length === 0" class="mb-0">
        {{ asked ? 'No tool of that name is offered to this course.' : 'No tool is offered to this course yet.' }}
        <RouterLink v-if="canChange" to="/tools/register">Register one for it</RouterLink>
      </p>
      <div v-for="one in data.items" :key="one.tool.id" class="refusal">
        <div class="d-flex gap-2 align-items-baseline">
          <strong class="flex-grow-1">{{ one.tool.name }}</strong>
          <template v-if="canChange">
            <BButton
              v-if="one.added"
              size="sm"
              variant="outline-primary"
              :disabled="busy"
              :aria-label="`Put ${one.tool.name} into the menu`"
              @click="addEntry(one)"
              >Into the menu</BButton
            >
            <BButton
              v-else-if="one.needsKeys"
              size="sm"
              variant="outline-primary"
              :aria-expanded="keysFor === one.tool.id"
              :aria-label="`Add ${one.tool.name} with its own key`"
              @click="keysFor = keysFor === one.tool.id ? '' : one.tool.id"
              >Add …</BButton
            >
            <BButton
              v-else
              size="sm"
              variant="primary"
              :disabled="busy"
              :aria-label="`Add ${one.tool.name}`"
              @click="add(one)"
              >Add</BButton
            >
          </template>
        </div>
        <div>{{ one.description }}</div>
        <div class="quiet">
          LTI {{ one.version }} · {{ can(one).join(' · ')
          }}<template v-if="one.lastProvenAt"> · last proven <MomentText :at="one.lastProvenAt" /></template
          ><template v-if="one.own"> · this course’s own</template>
        </div>
        <div v-if="one.lookAlikes > 0" class="tone-look">
          ▲ {{ one.lookAlikes === 1 ? 'Another tool has' : `${one.lookAlikes} other tools have` }} almost the same name:
          make sure that it is this one.
        </div>
        <form v-if="keysFor === one.tool.id" class="d-grid gap-2 mt-2" @submit.prevent="add(one)">
          <p class="quiet mb-0">
            This tool issues key and secret for each course. Get them at its end for {{ course.code }}.
          </p>
          <BFormGroup label="Consumer key" :label-for="`key-${one.tool.id}`"
            ><BFormInput
              :id="`key-${one.tool.id}`"
              v-model.trim="own.consumerKey"
              class="mono"
              required
              autocomplete="off"
          /></BFormGroup>
          <BFormGroup label="Shared secret" :label-for="`secret-${one.tool.id}`"
            ><BFormInput
              :id="`secret-${one.tool.id}`"
              v-model.trim="own.sharedSecret"
              class="mono"
              required
              autocomplete="off"
          /></BFormGroup>
          <BButton type="submit" size="sm" variant="primary" :disabled="busy">Add it to the course</BButton>
        </form>
        <button
          v-if="canChange && one.added && !one.own && one.links === 0"
          class="plain"
          type="button"
          :disabled="busy"
          @click="takeOut(one)"
        >
          Take it out of the course
        </button>
      </div>
      <MoreRows by-name :next="data.next" :depth="paging.depth.value" @forward="paging.forward" @back="paging.back" />
    </template>
  </section>
</template>
