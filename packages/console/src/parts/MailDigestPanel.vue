<script setup lang="ts">
import type { MailDigest } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormSelect } from 'bootstrap-vue-next'
import { computed } from 'vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import ErrorNote from './ErrorNote.vue'
import MomentText from './MomentText.vue'

/** How often a person is mailed what Watch has for them. */
const { data: digest, refetch } = useCall('showMailDigest', {})
const { act, actError, busy } = useActing()
const OFTEN = [
  { value: 'never', text: 'Never' },
  { value: 'day', text: 'Daily, when something is new' },
  { value: 'week', text: 'On Mondays, when something is new' },
]
const every = computed({
  get: () => digest.value?.every ?? 'never',
  set: (value: MailDigest['every']) =>
    void act(() => call('changeMailDigest', { body: { every: value } }).then(refetch)),
})
</script>

<template>
  <section class="panel">
    <h2>What needs you, by mail</h2>
    <ErrorNote :error="actError" />
    <p v-if="digest && !digest.on" class="quiet mb-0">
      This service sends no mail. An administrator can set a mail server in its configuration.
    </p>
    <p v-else-if="digest && !digest.to" class="quiet mb-0">
      Your account has no e-mail address; an administrator can enter one.
    </p>
    <template v-else-if="digest">
      <BFormGroup :label="`To ${digest.to}`" label-for="mail-every"
        ><BFormSelect id="mail-every" v-model="every" :options="OFTEN" :disabled="busy"
      /></BFormGroup>
      <p class="quiet mt-2 mb-2">
        <template v-if="digest.nextAt">Next look <MomentText :at="digest.nextAt" />. </template>
        <template v-if="digest.sentAt">Last sent <MomentText :at="digest.sentAt" />.</template>
      </p>
      <p v-if="digest.failure" class="note-bad">The mail server said: {{ digest.failure }}</p>
      <BButton
        size="sm"
        variant="outline-primary"
        :disabled="busy"
        @click="act(() => call('sendMailDigest', {}).then(refetch))"
        >Mail it now</BButton
      >
    </template>
  </section>
</template>
