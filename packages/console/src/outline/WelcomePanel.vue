<script setup lang="ts">
import type { Outline } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import RichEditor from '../parts/RichEditor.vue'
import RichText from '../parts/RichText.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'
import OutlineLine from './OutlineLine.vue'

/** The course's welcome page: its text, and what was pinned to it. */
const { course, outline, canChange } = defineProps<{ course: string; outline: Outline; canChange: boolean }>()
const { act, actError, busy } = useActing()
const text = ref<string | null>(null)
const pinned = computed(() => outline.units.flatMap((unit) => unit.items).filter((item) => item.pinned))
async function keep() {
  if (
    await act(() =>
      call('changeWelcome', { params: { course }, body: { revision: outline.revision, welcome: text.value ?? '' } }),
    )
  )
    text.value = null
}
</script>

<template>
  <section v-if="outline.welcome || pinned.length > 0 || canChange" class="panel mb-3">
    <ErrorNote :error="actError" />
    <form v-if="text !== null" class="d-grid gap-2" @submit.prevent="keep">
      <RichEditor id="welcome" v-model="text" label="Welcome" description="What learners read first in this course." />
      <div class="d-flex gap-2">
        <BButton type="submit" size="sm" variant="primary" :disabled="busy">Save</BButton>
        <BButton size="sm" variant="outline-primary" @click="text = null">Cancel</BButton>
      </div>
    </form>
    <template v-else>
      <div class="d-flex gap-3 align-items-start">
        <RichText v-if="outline.welcome" class="flex-grow-1" :html="outline.welcome" :course="course" />
        <span v-else class="quiet flex-grow-1">No words of welcome yet.</span>
        <BButton
          v-if="canChange"
          size="sm"
          variant="outline-primary"
          aria-label="Change the welcome"
          @click="text = outline.welcome"
          >Change</BButton
        >
      </div>
      <ul v-if="pinned.length > 0" class="unit-items mt-2" aria-label="Pinned">
        <li v-for="item in pinned" :key="item.id">
          <div class="flex-grow-1">
            <OutlineLine :item="item" :course="course" :zone="outline.course.timeZone" :teaching="false" />
          </div>
        </li>
      </ul>
    </template>
  </section>
</template>
