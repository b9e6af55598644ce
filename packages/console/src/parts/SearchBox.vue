<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useCall } from '../state/api'
import { useSearched } from '../state/debounced-call'
import { actsFor } from '../state/palette'
import { onPressed, onPressedWithControl } from '../state/pressed'
import { isAdministrator, teachesSomething } from '../state/session'

/** Finds courses, assignments, tools and acts as you type, and people for whom may look them up; “/” and Ctrl-K come here from anywhere. */
const router = useRouter()
const box = ref<HTMLInputElement>()
const text = ref('')
const searched = useSearched(text)
// An emptied box shows nothing more, at once.
const asked = computed(() => (text.value.trim() === '' ? '' : searched.value.trim()))
const at = ref(0)
const query = computed(() => (asked.value ? { query: { search: asked.value, limit: 6 } } : undefined))
const { data: courses } = useCall('listCourses', query)
const { data: assignments } = useCall('findAssignments', query)
const { data: tools } = useCall('listTools', () => (teachesSomething.value ? query.value : undefined))
const { data: people } = useCall('listPeople', () => (isAdministrator.value ? query.value : undefined))
const found = computed(() =>
  asked.value
    ? [
        ...(courses.value?.items ?? []).map((one) => ({
          kind: 'Course',
          text: `${one.code} ${one.title}`,
          to: `/courses/${one.id}`,
        })),
        ...(assignments.value?.items ?? []).map((one) => ({
          kind: 'Assignment',
          text: `${one.title}, ${one.course.code}`,
          to: `/courses/${one.course.id}/assignments/${one.id}`,
        })),
        ...(tools.value?.items ?? []).map((one) => ({ kind: 'Tool', text: one.name, to: `/tools/${one.slug}` })),
        ...(people.value?.items ?? []).map((one) => ({
          kind: 'Person',
          text: one.fullName,
          to: `/people/${one.id}`,
        })),
        ...actsFor(asked.value, router.currentRoute.value.path).map((one) => ({ kind: 'Go to', ...one })),
      ]
    : [],
)
watch(found, () => (at.value = 0))

function go(to: string) {
  text.value = ''
  box.value?.blur()
  void router.push(to)
}
function choose() {
  const one = found.value[at.value]
  if (one) go(one.to)
}
onPressed('/', () => box.value?.focus())
onPressedWithControl('k', () => box.value?.focus())
</script>

<template>
  <div class="search" role="search">
    <input
      ref="box"
      v-model="text"
      class="form-control form-control-sm"
      type="search"
      placeholder="Search or go to … ( / )"
      aria-label="Search everything"
      role="combobox"
      aria-controls="search-found"
      :aria-expanded="found.length > 0"
      autocomplete="off"
      @keydown.down.prevent="at = Math.min(at + 1, found.length - 1)"
      @keydown.up.prevent="at = Math.max(at - 1, 0)"
      @keydown.enter.prevent="choose"
      @keydown.esc="text = ''"
    />
    <ul v-show="asked" id="search-found" role="listbox" aria-label="Found">
      <li
        v-for="(one, i) in found"
        :key="one.to"
        role="option"
        :aria-selected="i === at"
        @mousedown.prevent="go(one.to)"
      >
        <span class="quiet">{{ one.kind }}</span> {{ one.text }}
      </li>
      <li v-if="found.length === 0" role="option" aria-selected="false" aria-disabled="true" class="quiet">
        Nothing of that name.
      </li>
    </ul>
  </div>
</template>

<style>
.search {
  position: relative;
  width: min(24rem, 60vw);
}
.search ul {
  position: absolute;
  inset: 100% 0 auto;
  z-index: 10;
  margin: 0.2rem 0 0;
  padding: 0.3rem;
  list-style: none;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 0.35rem;
  box-shadow: 0 0.4rem 1.2rem rgb(0 0 0 / 12%);
}
.search li {
  padding: 0.3rem 0.5rem;
  border-radius: 0.25rem;
  cursor: pointer;
}
.search li[aria-selected='true'] {
  background: var(--sea-soft);
}
</style>
