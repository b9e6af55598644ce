<script setup lang="ts">
import { computed } from 'vue'
import { useCall } from '../state/api'

/** Whom it is for: everyone, chosen groups, or chosen people. */
const { course } = defineProps<{ course: string }>()
const audience = defineModel<{ groups: string[]; people: string[] } | null>({ required: true })
const { data: sets } = useCall('listGroups', () => ({ params: { course } }))
const { data: members } = useCall('listMembers', () =>
  audience.value ? { params: { course }, query: { limit: 200 } } : undefined,
)
const learners = computed(() =>
  (members.value?.items ?? []).filter((one) => one.role === 'learner' && one.state === 'active'),
)
const toggle = (list: 'groups' | 'people', id: string) => {
  if (!audience.value) return
  const there = audience.value[list]
  audience.value = {
    ...audience.value,
    [list]: there.includes(id) ? there.filter((one) => one !== id) : [...there, id],
  }
}
</script>

<template>
  <fieldset class="audience">
    <legend class="form-label">For</legend>
    <label class="form-check form-check-inline"
      ><input
        class="form-check-input"
        type="radio"
        name="audience"
        :checked="audience === null"
        @change="audience = null"
      />
      Everyone</label
    >
    <label class="form-check form-check-inline"
      ><input
        class="form-check-input"
        type="radio"
        name="audience"
        :checked="audience !== null"
        @change="audience = { groups: [], people: [] }"
      />
      Chosen groups or people</label
    >
    <div v-if="audience" class="audience-lists">
      <div v-for="set in sets?.items" :key="set.id">
        <div class="quiet">{{ set.name }}</div>
        <label v-for="group in set.groups" :key="group.id" class="form-check"
          ><input
            class="form-check-input"
            type="checkbox"
            :checked="audience.groups.includes(group.id)"
            @change="toggle('groups', group.id)"
          />
          {{ group.name }} <span class="quiet">({{ group.members.length }})</span></label
        >
      </div>
      <p v-if="sets?.items.length === 0" class="quiet mb-0">
        The course has no groups; make some under
        <RouterLink :to="`/courses/${course}/things`">Files and groups</RouterLink>.
      </p>
      <details>
        <summary>People<template v-if="audience.people.length > 0"> ({{ audience.people.length }})</template></summary>
        <label v-for="one in learners" :key="one.person.id" class="form-check"
          ><input
            class="form-check-input"
            type="checkbox"
            :checked="audience.people.includes(one.person.id)"
            @change="toggle('people', one.person.id)"
          />
          {{ one.person.fullName }}</label
        >
      </details>
    </div>
  </fieldset>
</template>

<style>
.audience-lists {
  display: flex;
  gap: 0.4rem 2rem;
  flex-wrap: wrap;
  max-height: 14rem;
  overflow-y: auto;
}
</style>
