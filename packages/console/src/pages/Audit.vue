<script setup lang="ts">
import { BButton } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import AuditTable from '../parts/AuditTable.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MoreRows from '../parts/MoreRows.vue'
import PageHead from '../parts/PageHead.vue'
import { useActing } from '../state/acting'
import { useAddressFilter } from '../state/address-filter'
import { call, useCall } from '../state/api'
import { useSearched } from '../state/debounced-call'
import { usePaging } from '../state/paging'
import { saveTable } from '../state/save-file'

/** What was changed by whom: looked through by words, person, course and day, and taken along as a table. */
const paging = usePaging()
const { filter, isFiltered, clear } = useAddressFilter(
  ['search', 'person', 'course', 'since', 'until'] as const,
  paging.reset,
)
const words = useSearched(computed({ get: () => filter.search, set: (text) => (filter.search = text) }))
const who = useSearched(computed({ get: () => filter.person, set: (text) => (filter.person = text) }))
const { data: courses } = useCall('listCourses', { query: { limit: 200 } })
/** Days are those of whoever looks; the last one is in it whole. */
const dayOf = (day: string, add: number) => {
  const at = new Date(`${day}T00:00:00`)
  at.setDate(at.getDate() + add)
  return at.toISOString()
}
const asked = computed(() => ({
  ...(words.value.trim() && { search: words.value.trim() }),
  ...(who.value.trim() && { person: who.value.trim() }),
  ...(filter.course && { course: filter.course }),
  ...(filter.since && { since: dayOf(filter.since, 0) }),
  ...(filter.until && { until: dayOf(filter.until, 1) }),
}))
const { data, error } = useCall(
  'listAudit',
  computed(() => ({ query: { ...asked.value, cursor: paging.cursor.value, limit: 40 } })),
)
const { act, actError, busy } = useActing()
const said = ref('')
const save = () =>
  act(async () => {
    const report = await call('reportAudit', { query: asked.value })
    saveTable(report.name, report.text)
    said.value = `${report.rows} entries saved${report.more ? ', the newest; narrow it down for the older ones' : ''}.`
  })
</script>

<template>
  <PageHead title="Audit"
    ><template #under>What was changed by whom, newest first</template>
    <BButton size="sm" variant="outline-primary" :disabled="busy" @click="save">Save as CSV</BButton></PageHead
  >
  <form class="d-flex gap-2 flex-wrap mb-3 align-items-center" @submit.prevent>
    <input
      v-model="filter.search"
      class="form-control form-control-sm w-auto"
      type="search"
      placeholder="Act or subject"
      aria-label="Act or subject"
    />
    <input
      v-model="filter.person"
      class="form-control form-control-sm w-auto"
      placeholder="User name"
      aria-label="By whom: user name"
      autocomplete="off"
    />
    <select v-model="filter.course" class="form-select form-select-sm w-auto" aria-label="Course">
      <option value="">all courses</option>
      <option v-for="course in courses?.items" :key="course.id" :value="course.id">{{ course.code }}</option>
    </select>
    <label class="d-flex gap-2 align-items-center"
      >from <input v-model="filter.since" class="form-control form-control-sm w-auto" type="date"
    /></label>
    <label class="d-flex gap-2 align-items-center"
      >to <input v-model="filter.until" class="form-control form-control-sm w-auto" type="date"
    /></label>
    <button v-if="isFiltered" class="plain" type="button" @click="clear">Show everything</button>
    <span class="tone-good" role="status">{{ said }}</span>
  </form>
  <ErrorNote :error="error ?? actError" />
  <section v-if="data && !error" class="panel table-wrap">
    <AuditTable :entries="data.items" :empty="isFiltered ? 'Nothing like that was done.' : 'Nothing was done yet.'" />
    <MoreRows :next="data.next" :depth="paging.depth.value" @forward="paging.forward" @back="paging.back" />
  </section>
</template>
