<script setup lang="ts">
import { computed, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MoreRows from '../parts/MoreRows.vue'
import PageHead from '../parts/PageHead.vue'
import { useCall } from '../state/api'
import { shortMoment } from '../state/moments'
import { usePaging } from '../state/paging'
import { isAdministrator, teachesSomething } from '../state/session'
import { plain } from '../state/words'

const { data: due } = useCall('listDue', {})
const search = ref('')
const paging = usePaging()
const { data, error } = useCall(
  'listCourses',
  computed(() => ({ query: { search: search.value, cursor: paging.cursor.value, limit: 50 } })),
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
  </PageHead>
  <ErrorNote :error="error" />
  <section v-if="due && due.items.length > 0" class="panel mb-3">
    <h2>Due next</h2>
    <ol class="unit-items">
      <li v-for="one in due.items.slice(0, 8)" :key="one.assignment.id">
        <span class="outline-kind">{{ shortMoment(one.dueAt) }}</span>
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
        search
          ? 'No course of that name.'
          : isAdministrator
            ? 'There are no courses yet. Make one with “bathyscribe course create”.'
            : 'You are in no course yet. Your instructor adds you.'
      }}
    </p>
    <table v-else class="grid-table">
      <thead>
        <tr>
          <th>Course</th>
          <th>Term</th>
          <th>You are</th>
          <th v-if="teachesSomething">Learners</th>
          <th>Assignments</th>
          <th v-if="teachesSomething">Without a score</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="course in data.items" :key="course.id">
          <td>
            <RouterLink :to="`/courses/${course.id}`">{{ course.code }}</RouterLink> {{ course.title }}
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
    <MoreRows :next="data.next" :depth="paging.depth.value" @forward="paging.forward" @back="paging.back" />
  </section>
</template>
