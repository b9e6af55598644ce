<script setup lang="ts">
import { BButton, BFormGroup, BFormInput } from 'bootstrap-vue-next'
import { reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import ErrorNote from '../parts/ErrorNote.vue'
import { call } from '../state/api'
import { signIn } from '../state/session'

const router = useRouter()
const wanted = reactive({ code: '', username: '', fullName: '', password: '' })
const error = ref<unknown>()
const busy = ref(false)

async function submit() {
  busy.value = true
  error.value = undefined
  try {
    await call('setUp', { body: { ...wanted } })
    await signIn(wanted.username, wanted.password)
    await router.push('/watch')
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
    <h1>Set up Bathyscribe</h1>
    <p class="quiet mb-0">
      The service printed a code when it started. With it you make the first administrator; it works once.
    </p>
    <ErrorNote :error="error" />
    <BFormGroup label="Set-up code" label-for="code"
      ><BFormInput id="code" v-model="wanted.code" autocomplete="off" required
    /></BFormGroup>
    <BFormGroup label="Your name" label-for="fullName"
      ><BFormInput id="fullName" v-model="wanted.fullName" autocomplete="name" required
    /></BFormGroup>
    <BFormGroup label="User name" label-for="username" description="a–z, 0–9, dot, hyphen, underscore"
      ><BFormInput id="username" v-model="wanted.username" autocomplete="username" required
    /></BFormGroup>
    <BFormGroup label="Password" label-for="password" description="At least 12 characters; several words are best"
      ><BFormInput
        id="password"
        v-model="wanted.password"
        type="password"
        autocomplete="new-password"
        minlength="12"
        required
    /></BFormGroup>
    <BButton type="submit" variant="primary" :disabled="busy">Make me the administrator</BButton>
  </form>
</template>
