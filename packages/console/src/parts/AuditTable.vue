<script setup lang="ts">
import { auditChanges as changesOf, type AuditEntry } from '@bathyscribe/contract'
import MomentText from './MomentText.vue'

/** What was done by whom, with what was before and after as one table of what differs. */
const { entries, empty } = defineProps<{ entries: AuditEntry[]; empty: string; ofPerson?: boolean }>()
</script>

<template>
  <p v-if="entries.length === 0" class="mb-0">{{ empty }}</p>
  <table v-else class="grid-table audit-table">
    <thead>
      <tr>
        <th>When</th>
        <th v-if="!ofPerson">Who</th>
        <th>Act</th>
        <th>Subject</th>
        <th>Before and after</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="one in entries" :key="one.id">
        <td><MomentText :at="one.at" /></td>
        <td v-if="!ofPerson">
          <RouterLink v-if="one.person" :to="`/people/${one.person.id}`"
            ><bdi>{{ one.person.fullName }}</bdi></RouterLink
          ><template v-else>the service</template>
          <span class="quiet" :title="one.via"> {{ one.via.split(' ')[0] }}</span>
        </td>
        <td>{{ one.action }}</td>
        <td class="wide">
          {{ one.subject }}
          <div v-if="one.course" class="quiet">
            <RouterLink :to="`/courses/${one.course.id}`">{{ one.course.code }}</RouterLink>
          </div>
        </td>
        <td>
          <details v-if="changesOf(one).length > 0">
            <summary>
              {{ changesOf(one).length === 1 ? changesOf(one)[0]!.name : `${changesOf(one).length} fields` }}
            </summary>
            <dl class="facts mb-0">
              <template v-for="change in changesOf(one)" :key="change.name">
                <dt>{{ change.name }}</dt>
                <dd>
                  <template v-if="change.before !== null"><s class="quiet">{{ change.before }}</s> </template
                  >{{ change.after ?? 'gone' }}
                </dd>
              </template>
            </dl>
          </details>
          <span v-else class="quiet">–</span>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style>
.audit-table dd,
.audit-table .wide {
  overflow-wrap: anywhere;
}
</style>
