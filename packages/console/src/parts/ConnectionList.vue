<script setup lang="ts">
import ErrorNote from './ErrorNote.vue'
import ConfirmAct from './ConfirmAct.vue'
import MomentText from './MomentText.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'

/** Connected tools: who let them into which courses, when they last came, and taking that back. */
const { tool } = defineProps<{ tool?: string }>()
const { data, error } = useCall('listConnections', () => ({ query: tool ? { tool } : {} }))
const { act, actError } = useActing()
const ENDED = {
  person: 'taken back',
  administrator: 'taken back by an administrator',
  tool: 'ended by the tool',
  misuse: 'ended: one of its tokens came twice',
} as const
</script>

<template>
  <section v-if="data && (data.items.length > 0 || !tool)" class="panel mt-3">
    <h2>Connected tools</h2>
    <ErrorNote :error="error ?? actError" />
    <p v-if="data.items.length === 0" class="quiet mb-0">No tool is connected with your courses.</p>
    <ul v-else class="list-unstyled mb-0">
      <li v-for="one in data.items" :key="one.id" class="connection">
        <div class="flex-grow-1">
          <strong>{{ one.tool.name }}</strong> in {{ one.courses.map((course) => course.code).join(', ') }}
          <div class="quiet">
            by {{ one.person.fullName }}, <MomentText :at="one.madeAt" /> ·
            <template v-if="one.lastUsedAt">last came <MomentText :at="one.lastUsedAt" relative /></template
            ><template v-else>has not come yet</template>
            <template v-if="one.revokedBy"> · ○ {{ ENDED[one.revokedBy] }}</template>
          </div>
        </div>
        <ConfirmAct
          v-if="!one.revokedAt"
          text="Disconnect"
          :question="`${one.tool.name} loses all access to these courses at once. Its columns and scores stay.`"
          @done="act(() => call('revokeConnection', { params: { id: one.id } }))"
        />
      </li>
    </ul>
  </section>
</template>

<style>
.connection {
  display: flex;
  gap: 1rem;
  align-items: center;
  border-top: 1px solid var(--line);
  padding: 0.5rem 0;
}
</style>
