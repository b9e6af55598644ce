<script setup lang="ts">
import type { SignInLinkHolder } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput } from 'bootstrap-vue-next'
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { z } from 'zod'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'
import { signIn } from '../state/session'

/** Where a sign-in link leads: the person sets a password and is signed in. The code stands behind `#` and goes to no server by itself. */
const route = useRoute()
const router = useRouter()
const code = route.hash.slice(1)
const holder = ref<z.infer<typeof SignInLinkHolder>>()
const password = ref('')
const error = ref<unknown>()
const { act, actError, busy } = useActing()
call('readSignInLink', { body: { code: code || 'none' } }).then(
  (found) => (holder.value = found),
  (reason: unknown) => (error.value = reason),
)

const submit = () =>
  act(async () => {
    await call('useSignInLink', { body: { code, password: password.value } })
    await signIn(holder.value!.username, password.value)
    await router.replace('/')
  })
</script>

<template>
  <form class="door" @submit.prevent="submit">
    <img src="/icon.svg" alt="" width="44" height="44" />
    <h1>{{ holder ? `Welcome, ${holder.fullName}` : 'Welcome' }}</h1>
    <ErrorNote :error="actError ?? error"
      ><RouterLink to="/sign-in">Sign in</RouterLink> if you have a password.</ErrorNote
    >
    <template v-if="holder">
      <p class="quiet mb-0">
        Set a password of your own. You sign in with it as <strong class="mono">{{ holder.username }}</strong> from now
        on.
      </p>
      <input type="hidden" autocomplete="username" :value="holder.username" />
      <BFormGroup label="New password" label-for="password" description="At least 12 characters; several words are best"
        ><BFormInput
          id="password"
          v-model="password"
          type="password"
          autocomplete="new-password"
          minlength="12"
          required
      /></BFormGroup>
      <BButton type="submit" variant="primary" :disabled="busy">Set it and sign in</BButton>
    </template>
  </form>
</template>
