<script setup lang="ts">
import type { GradebookCategory } from '@bathyscribe/contract'
import { BButton, BModal } from 'bootstrap-vue-next'
import { computed, ref, watch } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MoveButtons from '../parts/MoveButtons.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'

/** The categories of a gradebook: made, renamed, weighed, moved and taken away at any time. */
const { course, canChange } = defineProps<{ course: string; canChange: boolean }>()
const { act, actError, busy } = useActing()
const { data, error } = useCall('listCategories', () => ({ params: { course } }))
const items = computed(() => data.value?.items ?? [])
const typed = ref<Record<string, { name: string; weight: string }>>({})
watch(
  items,
  (now) => {
    typed.value = Object.fromEntries(now.map((one) => [one.id, { name: one.name, weight: one.weight ?? '' }]))
  },
  { immediate: true },
)
const fresh = ref('')
const leaving = ref<GradebookCategory>()
const moveTo = ref('none')
const sum = computed(() => items.value.reduce((all, one) => all + Number(one.weight ?? 0), 0))
const at = (id: string) => ({ params: { course, category: id } })

const add = () =>
  act(async () => {
    await call('addCategory', { params: { course }, body: { name: fresh.value } })
    fresh.value = ''
  })
function save(one: GradebookCategory) {
  const { name, weight } = typed.value[one.id]!
  const percent = weight.trim().replace(',', '.') || null
  if (name === one.name && percent === one.weight) return
  void act(() => call('changeCategory', { ...at(one.id), body: { name, weight: percent } }))
}
const move = (index: number, by: -1 | 1) =>
  act(() => call('changeCategory', { ...at(items.value[index]!.id), body: { position: index + 1 + by } }))
const remove = (one: GradebookCategory, target?: string) =>
  act(() => call('removeCategory', { ...at(one.id), query: target === undefined ? {} : { moveTo: target } }))
function begin(one: GradebookCategory) {
  moveTo.value = 'none'
  if (one.assignments > 0) leaving.value = one
  else void remove(one)
}
</script>

<template>
  <section class="panel">
    <h2>Categories</h2>
    <ErrorNote :error="actError ?? error" />
    <p class="quiet">
      Without any percent, points are added up. With them, each category’s part is what was earned of its maximum;
      categories without a percent are left out.
    </p>
    <p v-if="data && items.length === 0" class="quiet">The course has no categories yet.</p>
    <table v-if="items.length > 0" class="grid-table mb-2">
      <thead>
        <tr>
          <th>Name</th>
          <th>Percent</th>
          <th>Assignments</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(one, index) in items" :key="one.id">
          <td>
            <input
              v-if="canChange && typed[one.id]"
              v-model="typed[one.id]!.name"
              class="form-control form-control-sm"
              maxlength="80"
              :aria-label="`Name of ${one.name}`"
              @change="save(one)"
            /><template v-else>{{ one.name }}</template>
          </td>
          <td class="category-percent">
            <input
              v-if="canChange && typed[one.id]"
              v-model="typed[one.id]!.weight"
              class="form-control form-control-sm number"
              inputmode="decimal"
              :aria-label="`Percent of ${one.name}`"
              @change="save(one)"
            /><template v-else>{{ one.weight ?? '–' }}</template>
          </td>
          <td class="number">{{ one.assignments }}</td>
          <td class="text-end text-nowrap">
            <template v-if="canChange">
              <MoveButtons
                :name="one.name"
                :first="index === 0"
                :last="index === items.length - 1"
                @move="(by) => move(index, by)"
              />
              <BButton size="sm" variant="outline-danger" class="ms-1" :disabled="busy" @click="begin(one)"
                >Take away <span class="visually-hidden">{{ one.name }}</span></BButton
              >
            </template>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="sum > 0 && sum !== 100" class="tone-look">▲ The percents come to {{ sum }}: each has its share of that.</p>
    <form v-if="canChange" class="d-flex gap-2" @submit.prevent="add">
      <input
        v-model="fresh"
        class="form-control form-control-sm w-auto"
        required
        maxlength="80"
        placeholder="Reports"
        aria-label="Name of a new category"
      />
      <BButton type="submit" size="sm" variant="outline-primary" :disabled="busy">Add a category</BButton>
    </form>
    <BModal
      :model-value="leaving !== undefined"
      :title="`Take ${leaving?.name} away?`"
      ok-title="Take it away"
      ok-variant="danger"
      cancel-title="Cancel"
      @ok="leaving && remove(leaving, moveTo)"
      @update:model-value="(shown) => shown || (leaving = undefined)"
    >
      <label
        >{{ leaving?.assignments }} assignments are in it. They go to
        <select v-model="moveTo" class="form-select form-select-sm">
          <option value="none">no category</option>
          <option v-for="one in items.filter((other) => other.id !== leaving?.id)" :key="one.id" :value="one.id">
            {{ one.name }}
          </option>
        </select></label
      >
    </BModal>
  </section>
</template>

<style>
.category-percent {
  width: 7rem;
}
</style>
