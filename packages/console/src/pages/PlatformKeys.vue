<script setup lang="ts">
import ConfirmAct from '../parts/ConfirmAct.vue'
import CopyValue from '../parts/CopyValue.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import PageHead from '../parts/PageHead.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'

const { data, error } = useCall('listPlatformKeys', {})
const { act, actError } = useActing()
const rotate = () => act(() => call('rotatePlatformKeys', { body: {} }))
const end = () => act(() => call('endPlatformKeys', { body: {} }))
const WORDS = {
  current: 'current: signs every id_token and service token',
  next: 'next: published already, signs nothing yet',
  previous: 'previous: still published for tools that keep our keyset',
}
</script>

<template>
  <PageHead title="Platform keys" :back="{ to: '/tools', text: 'Tools' }">
    <template #under>What tools of LTI 1.3 verify our launches by</template>
    <ConfirmAct
      text="Rotate"
      question="The next key begins to sign, and another next one is made. Tools notice nothing: the next key has been published long before."
      @done="rotate"
    />
    <ConfirmAct
      text="End all keys"
      question="As after a theft. Every token that was granted ends now, and new keys sign from now on. Tools that keep our keyset refuse launches until they read it again."
      @done="end"
    />
  </PageHead>
  <ErrorNote :error="error ?? actError" />
  <section v-if="data" class="panel">
    <p><CopyValue :value="data.keysetAddress" label="the keyset address" /></p>
    <div class="table-wrap">
      <table class="grid-table">
        <thead>
          <tr>
            <th>Key</th>
            <th>What it does</th>
            <th>Current since</th>
            <th>Published until</th>
            <th class="number">Uses</th>
            <th>Last use</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in data.keys" :key="one.kid">
            <td class="mono">{{ one.kid.slice(0, 16) }}</td>
            <td>{{ WORDS[one.state] }}</td>
            <td><MomentText :at="one.currentSince" /></td>
            <td><MomentText :at="one.endsAt" /></td>
            <td class="number">{{ one.uses }}</td>
            <td><MomentText :at="one.lastUsedAt" relative /></td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>
