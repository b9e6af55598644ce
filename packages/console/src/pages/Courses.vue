<script setup lang="ts">
import type { CourseState } from '@bathyscribe/contract'
import { computed, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MoreRows from '../parts/MoreRows.vue'
import PageHead from '../parts/PageHead.vue'
import { useCall } from '../state/api'
import { courseMoment } from '../state/moments'
import { usePaging } from '../state/paging'
import { isAdministrator, teachesSomething } from '../state/session'
import { plain } from '../state/words'

const { data: due } = useCall('listDue', {})
const search = ref('')
const state = ref<CourseState | ''>('')
const paging = usePaging()
const { data, error } = useCall(
  'listCourses',
  computed(() => ({
    query: {
      search: search.value,
      cursor: paging.cursor.value,
      limit: 50,
      ...(state.value !== '' && { state: state.value }),
    },
  })),
)
</script>

<template>
  <PageHead title="Courses">
    <input
      v-model="search"
      class="form-control form-control-sm w-auto"
      type="search"
      placeholder="Code or title"
      aria-label="Find a course"
      @input="paging.reset()"
    />
    <select
      v-if="teachesSomething"
      v-model="state"
      class="form-select form-select-sm w-auto"
      aria-label="Which courses"
      @change="paging.reset()"
    >
      <option value="">Open and closed</option>
      <option value="open">Open</option>
      <option value="closed">Closed</option>
      <option v-if="isAdministrator" value="deleted">Deleted</option>
    </select>
    <RouterLink v-if="isAdministrator" class="btn btn-primary btn-sm" to="/courses/new">New course</RouterLink>
  </PageHead>
  <ErrorNote :error="error" />
  <section v-if="due && due.items.length > 0" class="panel mb-3">
    <h2>Due next</h2>
    <ol class="unit-items">
      <li v-for="one in due.items.slice(0, 8)" :key="one.assignment.id">
        <span class="outline-kind">{{ courseMoment(one.dueAt, one.course.timeZone) }}</span>
        <RouterLink class="flex-grow-1" :to="`/courses/${one.course.id}/assignments/${one.assignment.id}`">{{
          one.assignment.title
        }}</RouterLink>
        <span class="quiet">{{ one.course.code }} · {{ one.points }} points</span>
        <span :class="one.handedIn ? 'tone-good' : 'quiet'">{{
          one.handedIn ? '● handed in' : one.opened ? '○ opened' : '○ not opened yet'
        }}</span>
      </li>
    </ol>
  </section>
  <section v-if="data" class="panel table-wrap">
    <p v-if="data.items.length === 0" class="mb-0">
      {{
        search || state
          ? 'No such course.'
          : isAdministrator
            ? 'There are none yet. Make one by “New course”, or bring in a roster.'
            : 'You are in no course yet. Your instructor adds you.'
      }}
    </p>
    <table v-else class="grid-table">
      <thead>
        <tr>
          <th>Course</th>
          <th>Term</th>
          <th>Your role</th>
          <th v-if="teachesSomething">Learners</th>
          <th>Assignments</th>
          <th v-if="teachesSomething">Without a score</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="course in data.items" :key="course.id">
          <td>
            <RouterLink :to="`/courses/${course.id}`">{{ course.code }}</RouterLink> {{ course.title }}
            <span v-if="course.state !== 'open'" class="tone-look">▲ {{ course.state }}</span>
          </td>
          <td>{{ course.term || '–' }}</td>
          <td>{{ course.myRole ? plain(course.myRole) : isAdministrator ? 'administrator' : '–' }}</td>
          <td v-if="teachesSomething" class="number">{{ course.learners }}</td>
          <td class="number">{{ course.assignments }}</td>
          <td v-if="teachesSomething" class="number" :class="course.unproven ? 'tone-look' : ''">
            {{ course.unproven ? `▲ ${course.unproven}` : '0' }}
          </td>
        </tr>
      </tbody>
    </table>
    <MoreRows by-name :next="data.next" :depth="paging.depth.value" @forward="paging.forward" @back="paging.back" />
  </section>
</template>
