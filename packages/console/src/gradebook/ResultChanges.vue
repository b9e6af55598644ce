<script setup lang="ts">
import type { MergePreview } from '@bathyscribe/contract'

/** What results are now and what they would be. */
const { changes, stays } = defineProps<{ changes: MergePreview['changes']; stays: number }>()
const SHOWN = 200
</script>

<template>
  <p v-if="changes.length === 0">No result changes; {{ stays }} stay as they are.</p>
  <template v-else>
    <p>{{ changes.length }} results change, {{ stays }} stay as they are.</p>
    <div class="result-changes">
      <table class="table table-sm">
        <thead>
          <tr>
            <th scope="col">Learner</th>
            <th scope="col" class="text-end">now</th>
            <th scope="col" class="text-end">then</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in changes.slice(0, SHOWN)" :key="one.person.id">
            <th scope="row">
              <bdi>{{ one.person.fullName }}</bdi>
            </th>
            <td class="text-end">{{ one.now ?? '–' }}</td>
            <td class="text-end">{{ one.then ?? '–' }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="changes.length > SHOWN" class="quiet">… and {{ changes.length - SHOWN }} more.</p>
    </div>
  </template>
</template>

<style>
.result-changes {
  max-height: 20rem;
  overflow: auto;
}
.result-changes th {
  font-weight: 400;
}
</style>
