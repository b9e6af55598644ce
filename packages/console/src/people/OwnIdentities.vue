<script setup lang="ts">
import { BButton } from 'bootstrap-vue-next'
import { computed } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import IdentityList from './IdentityList.vue'

/** One's own accounts at identity providers, and tying another one. Shows nothing where there is none to tie. */
const { data: own } = useCall('listOwnIdentities', {})
const { data: choices } = useCall('listSignOnChoices', {})
const { act, actError, busy } = useActing()
const others = computed(() =>
  (choices.value?.items ?? []).filter(({ handle }) => own.value?.items.every((one) => one.provider.handle !== handle)),
)
const tie = (provider: string) =>
  act(async () => location.assign((await call('startTying', { body: { provider, next: '/account' } })).location))
const untie = (provider: string) => act(() => call('untieOwnIdentity', { params: { provider } }))
</script>

<template>
  <IdentityList
    v-if="own && (own.items.length > 0 || others.length > 0)"
    :items="own.items"
    title="Identity providers"
    :question="(name) => `You cannot sign in by ${name} any longer; your sessions that were begun by it end.`"
    @untie="untie"
  >
    <ErrorNote :error="actError" />
    <div v-for="one in others" :key="one.handle" class="mt-2">
      <p class="quiet mb-2">Tied to {{ one.name }}, your account can be signed in to by it. You sign in there once.</p>
      <BButton size="sm" variant="outline-primary" :disabled="busy" @click="tie(one.handle)"
        >Tie {{ one.name }}</BButton
      >
    </div>
  </IdentityList>
</template>
