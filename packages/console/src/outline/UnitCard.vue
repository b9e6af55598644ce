<script setup lang="ts">
import type { Unit, UnitItem } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { ref } from 'vue'
import ConfirmAct from '../parts/ConfirmAct.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MoveButtons from '../parts/MoveButtons.vue'
import StateWord from '../parts/StateWord.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'
import { count } from '../state/words'
import NewItem from './NewItem.vue'
import OutlineLine from './OutlineLine.vue'

/** One unit as an instructor arranges it. Moving is done by the outline, which knows the others. */
const { unit, course, zone, canChange, first, last } = defineProps<{
  unit: Unit
  course: string
  zone: string
  canChange: boolean
  first: boolean
  last: boolean
}>()
const emit = defineEmits<{ lift: [string]; drop: [string | null]; move: [UnitItem, -1 | 1]; moveUnit: [-1 | 1] }>()
const { act, actError, busy } = useActing()
const adding = ref(false)
const title = ref<string | null>(null)
const open = ref('')
const arranging = ref(false)

const change = (body: Record<string, unknown>) =>
  act(() => call('changeUnit', { params: { course, unit: unit.id }, body: { revision: unit.revision, ...body } }))
async function rename() {
  if (title.value && (title.value === unit.title || (await change({ title: title.value })))) title.value = null
}
const set = (item: UnitItem, body: Record<string, unknown>) =>
  act(() =>
    call('changeUnitItem', { params: { course, unitItem: item.id }, body: { revision: item.revision, ...body } }),
  )
const publish = (item: UnitItem) =>
  act(() =>
    item.published
      ? call('unpublishAssignment', { params: { assignment: item.assignment!.id }, body: { keepScores: true } })
      : call('publishAssignment', { params: { assignment: item.assignment!.id } }),
  )
const remove = (item: UnitItem) => act(() => call('removeUnitItem', { params: { course, unitItem: item.id } }))
const removeUnit = () => act(() => call('removeUnit', { params: { course, unit: unit.id } }))
</script>

<template>
  <section
    class="panel unit-card"
    :class="{ faint: !unit.published }"
    @dragover.prevent
    @drop.prevent="emit('drop', null)"
  >
    <ErrorNote :error="actError" />
    <div class="d-flex gap-2 align-items-baseline mb-2">
      <form v-if="title !== null" class="d-flex gap-2 flex-grow-1" @submit.prevent="rename">
        <input
          v-model.trim="title"
          class="form-control form-control-sm"
          aria-label="Title of the unit"
          required
          maxlength="200"
        />
        <BButton type="submit" size="sm" variant="primary">Keep</BButton>
      </form>
      <h2 v-else class="flex-grow-1 mb-0">{{ unit.title }}</h2>
      <StateWord v-if="!unit.published" state="draft" />
      <div v-if="canChange && arranging" class="menu-acts">
        <MoveButtons :name="unit.title" :first="first" :last="last" @move="(by) => emit('moveUnit', by)" />
        <BButton
          size="sm"
          variant="outline-primary"
          :aria-label="`Rename ${unit.title}`"
          @click="title = title === null ? unit.title : null"
          >Rename</BButton
        >
        <BButton
          size="sm"
          variant="outline-primary"
          :disabled="busy"
          :aria-label="`${unit.published ? 'Hide' : 'Publish'} ${unit.title}`"
          @click="change({ published: !unit.published })"
          >{{ unit.published ? 'Hide' : 'Publish' }}</BButton
        >
        <ConfirmAct
          text="Remove"
          :question="`“${unit.title}” goes with ${count(unit.items.filter((one) => one.kind !== 'assignment').length, 'item')}. Its ${count(unit.items.filter((one) => one.kind === 'assignment').length, 'assignment')} stay, in no unit, with all scores.`"
          @done="removeUnit"
        />
      </div>
      <button
        v-if="canChange"
        class="plain"
        type="button"
        :aria-expanded="arranging"
        :aria-label="`What can be done with ${unit.title}`"
        @click="arranging = !arranging"
      >
        {{ arranging ? 'Close' : '…' }}
      </button>
    </div>
    <p v-if="unit.items.length === 0" class="quiet mb-2">Nothing here yet.</p>
    <ol class="unit-items">
      <li
        v-for="(item, i) in unit.items"
        :key="item.id"
        :draggable="canChange"
        @dragstart.stop="emit('lift', item.id)"
        @dragover.prevent
        @drop.prevent.stop="emit('drop', item.id)"
      >
        <span v-if="canChange" class="grip" aria-hidden="true">⠿</span>
        <div class="flex-grow-1"><OutlineLine :item="item" :course="course" :zone="zone" :teaching="true" /></div>
        <template v-if="canChange">
          <div v-if="open === item.id" class="menu-acts">
            <MoveButtons
              :name="item.title"
              :first="first && i === 0"
              :last="last && i === unit.items.length - 1"
              @move="(by) => emit('move', item, by)"
            />
            <BButton
              v-if="item.kind === 'assignment'"
              size="sm"
              variant="outline-primary"
              :disabled="busy"
              @click="publish(item)"
              >{{ item.published ? 'Unpublish' : 'Publish' }}</BButton
            >
            <BButton
              v-else
              size="sm"
              variant="outline-primary"
              :disabled="busy"
              @click="set(item, { published: !item.published })"
              >{{ item.published ? 'Hide' : 'Publish' }}</BButton
            >
            <BButton
              size="sm"
              variant="outline-primary"
              :disabled="busy"
              @click="set(item, { pinned: !item.pinned })"
              >{{ item.pinned ? 'Unpin' : 'Pin' }}</BButton
            >
            <ConfirmAct
              :text="item.kind === 'assignment' ? 'Out of the unit' : 'Remove'"
              :question="
                item.kind === 'assignment'
                  ? `“${item.title}” stays an assignment, with its scores, but is in no unit.`
                  : `“${item.title}” goes out of the unit.`
              "
              @done="remove(item)"
            />
          </div>
          <button
            class="plain"
            type="button"
            :aria-expanded="open === item.id"
            :aria-label="`What can be done with ${item.title}`"
            @click="open = open === item.id ? '' : item.id"
          >
            {{ open === item.id ? 'Close' : '…' }}
          </button>
        </template>
      </li>
    </ol>
    <template v-if="canChange">
      <NewItem v-if="adding" :course="course" :unit="unit" @close="adding = false" />
      <BButton
        v-else
        size="sm"
        variant="outline-primary"
        class="mt-2"
        :aria-label="`New in ${unit.title}`"
        @click="adding = true"
        >New here …</BButton
      >
    </template>
  </section>
</template>

<style>
.unit-items {
  list-style: none;
  margin: 0;
  padding: 0;
}
.unit-items li {
  display: flex;
  gap: 0.7rem;
  align-items: baseline;
  padding: 0.3rem 0;
  border-top: 1px solid var(--line);
  flex-wrap: wrap;
}
.unit-items .grip {
  cursor: grab;
  color: var(--quiet);
}
.unit-card.faint h2 {
  color: var(--quiet);
}
</style>
