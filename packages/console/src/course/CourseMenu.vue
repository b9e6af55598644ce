<script setup lang="ts">
import type { Course, MenuEntry } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import ConfirmAct from '../parts/ConfirmAct.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import MoveButtons from '../parts/MoveButtons.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { NO_SCORES } from '../state/words'
import CourseCatalogue from './CourseCatalogue.vue'
import MenuEntryForm from './MenuEntryForm.vue'

/** The course's menu as instructors arrange it, with the catalogue that it is filled from. */
const { course, canChange } = defineProps<{ course: Course; canChange: boolean }>()
const params = computed(() => ({ course: course.id }))
const { data: menu, error } = useCall('listMenu', () => ({ params: params.value }))
const { act, actError, busy } = useActing()
const editing = ref('')
const dragged = ref('')
const said = ref('')

const entries = computed(() => menu.value?.items ?? [])
const show = (entry: MenuEntry, shown: boolean) =>
  act(() =>
    call('changeMenuEntry', {
      params: { ...params.value, menuEntry: entry.id },
      body: { revision: entry.revision, shown },
    }),
  )
const remove = (entry: MenuEntry) =>
  act(() => call('removeMenuEntry', { params: { ...params.value, menuEntry: entry.id } }))

const forget = (entry: MenuEntry) =>
  act(() => call('forgetFirstEntry', { params: { ...params.value, courseTool: entry.tool.id } }))

async function move(id: string, to: number) {
  const order = entries.value.map((one) => one.id).filter((one) => one !== id)
  order.splice(to, 0, id)
  if (await act(() => call('orderMenu', { params: params.value, body: { entries: order } })))
    said.value = `${entries.value.find((one) => one.id === id)?.label ?? 'It'} is number ${to + 1} of ${order.length} now.`
}
function drop(on: MenuEntry) {
  const to = entries.value.findIndex((one) => one.id === on.id)
  if (dragged.value && dragged.value !== on.id) void move(dragged.value, to)
  dragged.value = ''
}
</script>

<template>
  <ErrorNote :error="error ?? actError" />
  <span class="visually-hidden" role="status">{{ said }}</span>
  <div class="two">
    <section class="panel">
      <h2>The course’s menu</h2>
      <p class="quiet">{{ NO_SCORES }} Changes are there at once.</p>
      <p v-if="entries.length === 0" class="mb-0">
        The menu is empty. {{ canChange ? 'Add a tool from the catalogue beside it.' : '' }}
      </p>
      <ol v-else class="menu-list">
        <li
          v-for="(one, i) in entries"
          :key="one.id"
          :draggable="canChange"
          :class="{ faint: !one.shown, taken: dragged === one.id }"
          @dragstart="dragged = one.id"
          @dragend="dragged = ''"
          @dragover.prevent
          @drop.prevent="drop(one)"
        >
          <MenuEntryForm v-if="editing === one.id" :course="course.id" :entry="one" @close="editing = ''" />
          <template v-else>
            <div class="menu-line">
              <span v-if="canChange" class="grip" aria-hidden="true">⠿</span>
              <div class="flex-grow-1">
                <RouterLink :to="`/courses/${course.id}/menu/${one.id}`">{{ one.label }}</RouterLink>
                <span class="quiet">
                  {{ one.tool.name }} · {{ one.audience === 'everyone' ? 'for everyone' : 'for instructors only' }} · in
                  a {{ one.documentTarget }}<template v-if="!one.shown"> · hidden</template></span
                >
                <div v-if="one.firstEntry.needed && !one.firstEntry.at" class="tone-look">
                  ▲ Waiting for first entry: learners may come after an instructor has opened it.
                  <RouterLink :to="`/courses/${course.id}/menu/${one.id}`">Open it now</RouterLink>
                </div>
                <div v-else-if="one.firstEntry.at" class="quiet">
                  First opened by {{ one.firstEntry.by }}, <MomentText :at="one.firstEntry.at" />
                  <ConfirmAct
                    v-if="canChange && one.firstEntry.needed"
                    text="Ask for it again"
                    question="For a class or account that was untied at the tool’s end: learners wait until an instructor has opened it again."
                    @done="forget(one)"
                  />
                </div>
              </div>
              <div v-if="canChange" class="menu-acts">
                <MoveButtons
                  :name="one.label"
                  :first="busy || i === 0"
                  :last="busy || i === entries.length - 1"
                  @move="(by) => move(one.id, i + by)"
                />
                <BButton
                  size="sm"
                  variant="outline-primary"
                  :aria-label="`Change ${one.label}`"
                  @click="editing = one.id"
                  >Change</BButton
                >
                <BButton
                  size="sm"
                  variant="outline-primary"
                  :disabled="busy"
                  :aria-label="`${one.shown ? 'Hide' : 'Show'} ${one.label}`"
                  @click="show(one, !one.shown)"
                  >{{ one.shown ? 'Hide' : 'Show' }}</BButton
                >
                <ConfirmAct
                  text="Remove"
                  :question="`“${one.label}” goes out of the menu. What was done in the tool stays there.`"
                  @done="remove(one)"
                />
              </div>
            </div>
          </template>
        </li>
      </ol>
    </section>
    <CourseCatalogue :course="course" :can-change="canChange" />
  </div>
</template>

<style>
.menu-list {
  list-style: none;
  margin: 0;
  padding: 0;
}
.menu-list li {
  border-top: 1px solid var(--line);
  padding: 0.6rem 0;
}
.menu-list li.taken {
  opacity: 0.5;
}
.menu-list li.faint a {
  color: var(--quiet);
}
.menu-line {
  display: flex;
  gap: 0.8rem;
  align-items: start;
  flex-wrap: wrap;
}
.menu-line .grip {
  cursor: grab;
  color: var(--quiet);
}
.menu-acts {
  display: flex;
  gap: 0.3rem;
}
</style>
