<script setup lang="ts">
import type { Course, UnitItem } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import OutlineLine from '../outline/OutlineLine.vue'
import UnitCard from '../outline/UnitCard.vue'
import WelcomePanel from '../outline/WelcomePanel.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'

/** The course's units and what stands in them, as instructors arrange it: by dragging or by keys. */
const { course, canChange } = defineProps<{ course: Course; canChange: boolean }>()
const params = computed(() => ({ course: course.id }))
const { data: outline, error } = useCall('showOutline', () => ({ params: params.value }))
const { act, actError, busy } = useActing()
const lifted = ref('')
const said = ref('')
const title = ref('')

type Order = { unit: string; items: string[] }[]
const order = (): Order =>
  (outline.value?.units ?? []).map((one) => ({ unit: one.id, items: one.items.map((item) => item.id) }))
const keep = async (units: Order, saying: string) => {
  if (await act(() => call('orderOutline', { params: params.value, body: { units } }))) said.value = saying
}
/** @param before an item of the unit; null for its end */
function drop(unit: string, before: string | null) {
  const id = lifted.value
  lifted.value = ''
  if (!id || id === before) return
  const units = order().map((one) => ({ ...one, items: one.items.filter((item) => item !== id) }))
  const target = units.find((one) => one.unit === unit)!
  target.items.splice(before === null ? target.items.length : target.items.indexOf(before), 0, id)
  void keep(units, 'Moved.')
}
function move(unit: string, item: UnitItem, by: -1 | 1) {
  const units = order()
  const at = units.findIndex((one) => one.unit === unit)
  const from = units[at]!.items
  const place = from.indexOf(item.id)
  from.splice(place, 1)
  const inside = place + by >= 0 && place + by <= from.length
  if (inside) from.splice(place + by, 0, item.id)
  else if (by < 0) units[at - 1]!.items.push(item.id)
  else units[at + 1]!.items.unshift(item.id)
  const now = units.find((one) => one.items.includes(item.id))!
  void keep(
    units,
    `${item.title} is number ${now.items.indexOf(item.id) + 1} of ${outline.value?.units.find((one) => one.id === now.unit)?.title ?? 'its unit'} now.`,
  )
}
function moveUnit(id: string, by: -1 | 1) {
  const units = order()
  const at = units.findIndex((one) => one.unit === id)
  const [one] = units.splice(at, 1)
  units.splice(at + by, 0, one!)
  void keep(units, 'The unit was moved.')
}
async function addUnit() {
  if (await act(() => call('addUnit', { params: params.value, body: { title: title.value } }))) title.value = ''
}
</script>

<template>
  <ErrorNote :error="error ?? actError" />
  <span class="visually-hidden" role="status">{{ said }}</span>
  <template v-if="outline">
    <WelcomePanel :course="course.id" :outline="outline" :can-change="canChange" />
    <div class="d-grid gap-3" data-outline>
      <p v-if="outline.units.length === 0" class="panel mb-0">
        The course has no units yet.
        {{ canChange ? 'Make the first one below; assignments, pages, files and tools belong in units.' : '' }}
      </p>
      <UnitCard
        v-for="(unit, i) in outline.units"
        :key="unit.id"
        :unit="unit"
        :course="course.id"
        :zone="course.timeZone"
        :can-change="canChange"
        :first="i === 0"
        :last="i === outline.units.length - 1"
        @lift="lifted = $event"
        @drop="drop(unit.id, $event)"
        @move="(item, by) => move(unit.id, item, by)"
        @move-unit="moveUnit(unit.id, $event)"
      />
      <form v-if="canChange" class="d-flex gap-2" @submit.prevent="addUnit">
        <input
          v-model.trim="title"
          class="form-control form-control-sm w-auto flex-grow-1"
          aria-label="Title of a new unit"
          placeholder="Title of a new unit, such as Week 4"
          required
          maxlength="200"
        />
        <BButton type="submit" size="sm" variant="outline-primary" :disabled="busy">Make a unit</BButton>
      </form>
      <section v-if="outline.loose.length > 0" class="panel">
        <h2>Assignments in no unit</h2>
        <ol class="unit-items">
          <li v-for="item in outline.loose" :key="item.id">
            <div class="flex-grow-1">
              <OutlineLine :item="item" :course="course.id" :zone="course.timeZone" :teaching="true" />
            </div>
          </li>
        </ol>
      </section>
    </div>
  </template>
</template>
