<script setup lang="ts">
import type { WireEntry } from '@bathyscribe/contract'
import MomentText from './MomentText.vue'
import StateWord from './StateWord.vue'

/** Wire entries as rows; each leads to the message as it crossed the wire. On the page of an assignment its own name is left out. */
const { entries, empty, ofAssignment } = defineProps<{ entries: WireEntry[]; empty: string; ofAssignment?: boolean }>()
</script>

<template>
  <p v-if="entries.length === 0" class="quiet mb-0">{{ empty }}</p>
  <div v-else class="table-wrap">
    <table class="grid-table">
      <thead>
        <tr>
          <th>Entry</th>
          <th>When</th>
          <th>What</th>
          <th>Outcome</th>
          <th>{{ ofAssignment ? 'Person' : 'Course and person' }}</th>
          <th>Message</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="entry in entries" :key="entry.id">
          <td>
            <RouterLink :to="`/wire/${entry.id}`">{{ entry.id }}</RouterLink>
          </td>
          <td><MomentText :at="entry.at" /></td>
          <td>{{ entry.direction }} {{ entry.kind }}</td>
          <td><StateWord :state="entry.outcome" /></td>
          <td :class="{ wide: !ofAssignment }">
            <template v-if="!ofAssignment">
              <template v-if="entry.assignment"
                ><RouterLink :to="`/courses/${entry.course?.id}/assignments/${entry.assignment.id}`">{{
                  entry.assignment.title
                }}</RouterLink>
                <span class="quiet">{{ entry.course?.code }}</span></template
              >
              <template v-else>{{ entry.tool?.name ?? '–' }}</template>
            </template>
            <div v-if="entry.person" class="quiet">
              <bdi>{{ entry.person.fullName }}</bdi>
            </div>
          </td>
          <td class="said">{{ entry.statement }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
