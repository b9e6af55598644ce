<script setup lang="ts">
import { BButton } from 'bootstrap-vue-next'
import { ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import PageHead from '../parts/PageHead.vue'
import ProviderForm from '../people/ProviderForm.vue'
import ProviderPanel from '../people/ProviderPanel.vue'
import { useCall } from '../state/api'

/** Where people of the institution have accounts by which they sign in here (OpenID Connect). */
const { data, error } = useCall('listIdentityProviders', {})
const adding = ref(false)
</script>

<template>
  <PageHead title="Identity providers" :back="{ to: '/people', text: 'People' }">
    <template #under>By accounts of which people sign in here (OpenID Connect)</template>
    <BButton size="sm" variant="primary" :aria-expanded="adding" @click="adding = !adding">Add a provider</BButton>
  </PageHead>
  <ErrorNote :error="error" />
  <section v-if="adding" class="panel mb-3">
    <ProviderForm @done="adding = false" @close="adding = false" />
  </section>
  <p v-if="data?.items.length === 0 && !adding" class="panel">
    None yet: people sign in by a user name and a password of this service. Add the identity provider of your
    institution, and they sign in with the account that they have there.
  </p>
  <ProviderPanel v-for="one in data?.items" :key="one.id" :provider="one" />
</template>
