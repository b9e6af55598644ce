<script setup lang="ts">
import { computed } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MoreRows from '../parts/MoreRows.vue'
import PageHead from '../parts/PageHead.vue'
import WireTable from '../parts/WireTable.vue'
import { useAddressFilter } from '../state/address-filter'
import { useCall } from '../state/api'
import { usePaging } from '../state/paging'
import { isAdministrator } from '../state/session'

const paging = usePaging()
const { filter, isFiltered, clear } = useAddressFilter(
  ['tool', 'course', 'assignment', 'person', 'kind', 'outcome', 'search'] as const,
  paging.reset,
)
const { data: tools } = useCall('listTools', { query: { limit: 200 } })
const { data: courses } = useCall('listCourses', { query: { limit: 200 } })
const { data, error } = useCall(
  'listWire',
  computed(() => ({ query: { ...(filter as object), cursor: paging.cursor.value, limit: 30 } })),
)
</script>

<template>
  <PageHead title="Wire"
    ><template #under>Every message as it crossed the wire, secrets masked</template>
    <RouterLink class="btn btn-sm btn-outline-primary" to="/wire/explain">Explain a message</RouterLink>
    <RouterLink v-if="isAdministrator" class="btn btn-sm btn-outline-primary" to="/wire/causes">Causes</RouterLink>
    <RouterLink class="btn btn-sm btn-outline-primary" to="/wire/story">Open a saved story</RouterLink></PageHead
  >
  <div class="d-flex gap-2 flex-wrap mb-3">
    <select v-model="filter.tool" class="form-select form-select-sm w-auto" aria-label="Tool">
      <option value="">all tools</option>
      <option v-for="tool in tools?.items" :key="tool.id" :value="tool.slug">{{ tool.name }}</option>
    </select>
    <select v-model="filter.course" class="form-select form-select-sm w-auto" aria-label="Course">
      <option value="">all courses</option>
      <option v-for="course in courses?.items" :key="course.id" :value="course.id">{{ course.code }}</option>
    </select>
    <select v-model="filter.kind" class="form-select form-select-sm w-auto" aria-label="Kind">
      <option value="">all kinds</option>
      <option
        v-for="kind in ['login', 'launch', 'try', 'probe', 'outcome', 'token', 'registration', 'return']"
        :key="kind"
      >
        {{ kind }}
      </option>
    </select>
    <select v-model="filter.outcome" class="form-select form-select-sm w-auto" aria-label="Outcome">
      <option value="">all outcomes</option>
      <option v-for="outcome in ['accepted', 'refused', 'failed']" :key="outcome">{{ outcome }}</option>
    </select>
    <input
      v-model.lazy="filter.person"
      class="form-control form-control-sm w-auto"
      placeholder="User name"
      aria-label="Person, by user name"
    />
    <input
      v-model.lazy="filter.search"
      class="form-control form-control-sm w-auto"
      type="search"
      placeholder="Code or words"
      aria-label="Part of code or statement"
    />
    <button v-if="isFiltered" class="btn btn-sm btn-outline-primary" type="button" @click="clear">Show all</button>
  </div>
  <ErrorNote :error="error" />
  <section v-if="data" class="panel">
    <WireTable
      :entries="data.items"
      :empty="
        isFiltered
          ? 'No entry fits the filter.'
          : 'Nothing has crossed the wire yet. Open an assignment or run a sounding.'
      "
    />
    <MoreRows :next="data.next" :depth="paging.depth.value" @forward="paging.forward" @back="paging.back" />
  </section>
</template>
