<script setup lang="ts">
import type { Course, Member } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import MoreRows from '../parts/MoreRows.vue'
import StateWord from '../parts/StateWord.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { usePaging } from '../state/paging'
import { isAdministrator } from '../state/session'
import { plain } from '../state/words'
import RosterUpload from './RosterUpload.vue'
import SignInLinks from './SignInLinks.vue'

const { course, canChange } = defineProps<{ course: Course; canChange: boolean }>()
const search = ref('')
const paging = usePaging()
const { data, error } = useCall(
  'listMembers',
  computed(() => ({
    params: { course: course.id },
    query: { search: search.value, cursor: paging.cursor.value, limit: 100 },
  })),
)
const { data: rosters } = useCall('listToolRosters', () => ({ params: { course: course.id } }))
const few = (people: { fullName: string }[]) =>
  people.length === 0
    ? '–'
    : people
        .slice(0, 2)
        .map((one) => one.fullName)
        .join(', ') + (people.length > 2 ? ` and ${people.length - 2} more` : '')
const newcomer = ref('')
const role = ref<'learner' | 'teaching_assistant' | 'instructor'>('learner')
const { act, actError } = useActing()

const add = () =>
  act(async () => {
    await call('enrol', { params: { course: course.id }, body: { person: newcomer.value.trim(), role: role.value } })
    newcomer.value = ''
  })
const toggle = (member: Member) =>
  act(() =>
    call('changeEnrolment', {
      params: { course: course.id, person: member.person.id },
      body: { state: member.state === 'active' ? 'dropped' : 'active' },
    }),
  )
</script>

<template>
  <ErrorNote :error="error" />
  <ErrorNote :error="actError" />
  <div class="d-flex gap-2 flex-wrap mb-3">
    <input
      v-model="search"
      class="form-control form-control-sm w-auto"
      type="search"
      placeholder="Name"
      aria-label="Find a person"
      @input="paging.reset()"
    />
    <form v-if="canChange" class="d-flex gap-2 flex-wrap ms-auto" @submit.prevent="add">
      <input
        v-model="newcomer"
        class="form-control form-control-sm w-auto"
        placeholder="User name"
        aria-label="User name of the person to add"
        required
      />
      <select v-model="role" class="form-select form-select-sm w-auto" aria-label="Role of the person to add">
        <option value="learner">learner</option>
        <option value="teaching_assistant">teaching assistant</option>
        <option value="instructor">instructor</option>
      </select>
      <BButton size="sm" variant="primary" type="submit">Add</BButton>
    </form>
  </div>
  <section v-if="data" class="panel table-wrap">
    <p v-if="data.items.length === 0" class="mb-0">Nobody of that name is in the course.</p>
    <table v-else class="grid-table">
      <thead>
        <tr>
          <th>Name</th>
          <th>User name</th>
          <th>Role</th>
          <th>State</th>
          <th>Since</th>
          <th v-if="canChange"><span class="visually-hidden">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="member in data.items" :key="member.person.id">
          <td>
            <bdi>{{ member.person.fullName }}</bdi>
          </td>
          <td class="mono text-nowrap">{{ member.person.username }}</td>
          <td>{{ plain(member.role) }}</td>
          <td><StateWord :state="member.state" /></td>
          <td><MomentText :at="member.droppedAt ?? member.since" /></td>
          <td v-if="canChange">
            <BButton
              v-if="member.role !== 'test_learner'"
              size="sm"
              class="py-0"
              variant="outline-primary"
              @click="toggle(member)"
              >{{ member.state === 'active' ? 'Drop' : 'Take back' }}
              <span class="visually-hidden">{{ member.person.fullName }}</span></BButton
            >
          </td>
        </tr>
      </tbody>
    </table>
    <MoreRows by-name :next="data.next" :depth="paging.depth.value" @forward="paging.forward" @back="paging.back" />
  </section>
  <section v-if="rosters && rosters.items.length > 0" class="panel table-wrap mt-3">
    <h2>What tools know of them</h2>
    <table class="grid-table">
      <thead>
        <tr>
          <th>Tool</th>
          <th>Roster read</th>
          <th>Entered</th>
          <th>Scored</th>
          <th>Not heard of</th>
          <th>Still has, though they left</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in rosters.items" :key="one.tool.id">
          <td>{{ one.tool.name }}</td>
          <td><MomentText v-if="one.readAt" :at="one.readAt" /><span v-else class="quiet">never</span></td>
          <td>{{ one.launched }} of {{ one.learners }}</td>
          <td>{{ one.scored }}</td>
          <td :title="one.unheard.map((person) => person.fullName).join(', ')">{{ few(one.unheard) }}</td>
          <td :title="one.keeps.map((person) => person.fullName).join(', ')">{{ few(one.keeps) }}</td>
        </tr>
      </tbody>
    </table>
  </section>
  <SignInLinks v-if="isAdministrator" :course="course" />
  <RosterUpload v-if="isAdministrator" :course="course" />
</template>
