<script setup lang="ts">
import { computed } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import PageHead from '../parts/PageHead.vue'
import ToolStage from '../parts/ToolStage.vue'
import { useCall } from '../state/api'

/** A menu entry opened: its tool in a frame or a window. Nothing done there returns a score. */
const { course, entry } = defineProps<{ course: string; entry: string }>()
const { data: menu, error } = useCall('listMenu', () => ({ params: { course } }))
const { data: place } = useCall('showCourse', () => ({ params: { course } }))
const one = computed(() => menu.value?.items.find((item) => item.id === entry))
const teaching = computed(() => place.value !== undefined && place.value.myRole !== 'learner')
const waits = computed(() => one.value?.firstEntry.needed === true && one.value.firstEntry.at === null)
</script>

<template>
  <ErrorNote :error="error"><RouterLink to="/courses">Your courses</RouterLink></ErrorNote>
  <p v-if="menu && !one" class="note-look">
    This entry is not, or no longer, in the menu. <RouterLink :to="`/courses/${course}`">Back to the course</RouterLink>
  </p>
  <template v-if="one && place">
    <PageHead :title="one.label" :back="{ to: `/courses/${course}`, text: `${place.code} ${place.title}` }">
      <template #under>{{ one.tool.name }} · returns no scores</template>
    </PageHead>
    <p v-if="waits && !teaching" class="note-look">
      {{ one.tool.name }} waits for your instructor, who has to open it first. They can see that it waits.
    </p>
    <template v-else>
      <p v-if="waits" class="note-look">
        You are the first to open it here. Do at its end what it asks for; learners may come after that.
      </p>
      <ToolStage :link="one.id" :target="one.documentTarget" :name="one.tool.name" />
    </template>
  </template>
</template>
