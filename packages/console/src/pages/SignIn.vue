<script setup lang="ts">
import { BButton, BFormGroup, BFormInput } from 'bootstrap-vue-next'
import { onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import ErrorNote from '../parts/ErrorNote.vue'
import { call } from '../state/api'
import { signIn } from '../state/session'

const router = useRouter()
const route = useRoute()
const username = ref('')
const password = ref('')
const error = ref<unknown>()
const busy = ref(false)

onMounted(async () => {
  const state = await call('setupState', {}).catch(() => undefined)
  if (state?.needed) await router.replace('/set-up')
})

async function submit() {
  busy.value = true
  error.value = undefined
  try {
    await signIn(username.value, password.value)
    const next =
      typeof route.query['next'] === 'string' && /^\/(?!\/)/.test(route.query['next']) ? route.query['next'] : '/'
    await router.push(next)
  } catch (reason) {
    error.value = reason
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <form class="door" @submit.prevent="submit">
    <img src="/icon.svg" alt="" width="44" height="44" />
    <h1>Sign in to Bathyscribe</h1>
    <ErrorNote :error="error" />
    <BFormGroup label="User name" label-for="username"
      ><BFormInput id="username" v-model="username" autocomplete="username" required autofocus
    /></BFormGroup>
    <BFormGroup label="Password" label-for="password"
      ><BFormInput id="password" v-model="password" type="password" autocomplete="current-password" required
    /></BFormGroup>
    <BButton type="submit" variant="primary" :disabled="busy">Sign in</BButton>
  </form>
</template>
