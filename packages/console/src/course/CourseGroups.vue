<script setup lang="ts">
import type { Course, GroupSet } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput } from 'bootstrap-vue-next'
import { computed, reactive, ref } from 'vue'
import ConfirmAct from '../parts/ConfirmAct.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { count } from '../state/words'

/** Group sets and their groups: by hand, at random, or from a table. */
const { course, canChange } = defineProps<{ course: Course; canChange: boolean }>()
const params = computed(() => ({ course: course.id }))
const { data, error } = useCall('listGroups', () => ({ params: params.value }))
const { data: members } = useCall('listMembers', () => ({ params: params.value, query: { limit: 200 } }))
const learners = computed(() =>
  (members.value?.items ?? []).filter((one) => one.role === 'learner' && one.state === 'active'),
)
const { act, actError, busy } = useActing()
const how = ref<'hand' | 'random' | 'table'>('random')
const wanted = reactive({ name: '', groups: '4', table: '' })
const open = ref('')
/** What is typed for each set. */
const newGroup = reactive<Record<string, string>>({})

async function make() {
  const body = {
    name: wanted.name,
    ...(how.value === 'random' && { groups: Number(wanted.groups) }),
    ...(how.value === 'table' && { table: wanted.table }),
  }
  if (await act(() => call('addGroupSet', { params: params.value, body })))
    Object.assign(wanted, { name: '', table: '' })
}
const put = (group: { id: string; members: { id: string }[] }, person: string) =>
  act(() =>
    call('changeGroup', {
      params: { ...params.value, group: group.id },
      body: { members: [...group.members.map((one) => one.id), person] },
    }),
  )
const takeOut = (group: { id: string; members: { id: string }[] }, person: string) =>
  act(() =>
    call('changeGroup', {
      params: { ...params.value, group: group.id },
      body: { members: group.members.map((one) => one.id).filter((one) => one !== person) },
    }),
  )
const addGroup = (set: GroupSet) =>
  act(async () => {
    await call('addGroup', { params: { ...params.value, groupSet: set.id }, body: { name: newGroup[set.id] ?? '' } })
    newGroup[set.id] = ''
  })
const removeSet = (set: GroupSet) =>
  act(() => call('removeGroupSet', { params: { ...params.value, groupSet: set.id } }))
const without = (set: GroupSet) =>
  learners.value.filter((one) => !set.groups.some((group) => group.members.some((each) => each.id === one.person.id)))
</script>

<template>
  <section class="panel">
    <h2>Groups</h2>
    <ErrorNote :error="error ?? actError" />
    <p v-if="data?.items.length === 0">No groups yet.</p>
    <div v-for="set in data?.items" :key="set.id" class="refusal">
      <div class="d-flex gap-2 align-items-baseline">
        <h3 class="flex-grow-1 mb-0">{{ set.name }}</h3>
        <span v-if="set.without > 0" class="tone-look">▲ {{ count(set.without, 'learner') }} in none</span>
        <ConfirmAct
          v-if="canChange"
          text="Remove"
          :question="`“${set.name}” goes with ${count(set.groups.length, 'group')}. Learners stay in the course.`"
          @done="removeSet(set)"
        />
      </div>
      <div v-for="group in set.groups" :key="group.id">
        <button
          class="plain"
          type="button"
          :aria-expanded="open === group.id"
          @click="open = open === group.id ? '' : group.id"
        >
          {{ group.name }}
        </button>
        <span class="quiet">{{ count(group.members.length, 'learner') }}</span>
        <ul v-if="open === group.id" class="mb-2">
          <li v-for="one in group.members" :key="one.id">
            {{ one.fullName }}
            <button
              v-if="canChange"
              class="plain"
              type="button"
              :aria-label="`Take ${one.fullName} out`"
              @click="takeOut(group, one.id)"
            >
              Take out
            </button>
          </li>
          <li v-if="canChange && without(set).length > 0">
            <select
              class="form-select form-select-sm w-auto"
              :aria-label="`Put somebody into ${group.name}`"
              @change="put(group, ($event.target as HTMLSelectElement).value)"
            >
              <option value="">Put somebody in …</option>
              <option v-for="one in without(set)" :key="one.person.id" :value="one.person.id">
                {{ one.person.fullName }}
              </option>
            </select>
          </li>
        </ul>
      </div>
      <form v-if="canChange" class="d-flex gap-2 mt-1" @submit.prevent="addGroup(set)">
        <input
          v-model.trim="newGroup[set.id]"
          class="form-control form-control-sm w-auto"
          :aria-label="`New group in ${set.name}`"
          placeholder="New group"
          required
          maxlength="100"
        />
        <BButton type="submit" size="sm" variant="outline-primary" :disabled="busy">Add</BButton>
      </form>
    </div>
    <form v-if="canChange" class="new-item d-grid gap-2" @submit.prevent="make">
      <BFormGroup label="Name of a new set" label-for="set-name"
        ><BFormInput id="set-name" v-model.trim="wanted.name" required maxlength="100" placeholder="such as Watches"
      /></BFormGroup>
      <div role="radiogroup" aria-label="How it is filled">
        <label class="form-check form-check-inline"
          ><input v-model="how" class="form-check-input" type="radio" value="random" /> at random</label
        >
        <label class="form-check form-check-inline"
          ><input v-model="how" class="form-check-input" type="radio" value="hand" /> by hand</label
        >
        <label class="form-check form-check-inline"
          ><input v-model="how" class="form-check-input" type="radio" value="table" /> from a table</label
        >
      </div>
      <BFormGroup v-if="how === 'random'" label="Groups" label-for="set-groups"
        ><BFormInput id="set-groups" v-model="wanted.groups" type="number" min="1" max="200" required
      /></BFormGroup>
      <BFormGroup v-if="how === 'table'" label="Table with the columns group and person" label-for="set-table">
        <textarea
          id="set-table"
          v-model="wanted.table"
          class="form-control mono"
          rows="4"
          required
          placeholder="group,person&#10;Red watch,niamh"
        ></textarea>
      </BFormGroup>
      <BButton type="submit" size="sm" variant="primary" :disabled="busy">Make the set</BButton>
    </form>
  </section>
</template>
