<script setup lang="ts">
import { BButton, BFormGroup, BFormInput } from 'bootstrap-vue-next'
import { computed, onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import ErrorNote from '../parts/ErrorNote.vue'
import { call, useCall } from '../state/api'
import { signIn } from '../state/session'

const router = useRouter()
const route = useRoute()
const username = ref('')
const password = ref('')
const error = ref<unknown>()
const busy = ref(false)

const next = computed(() => {
  const wanted = route.query['next']
  return typeof wanted === 'string' && /^\/(?![/\\])/.test(wanted) ? wanted : '/'
})
/** Where one can sign in beside user name and password; without an answer those are all there is. */
const { data: choices, error: unasked } = useCall('listSignOnChoices', {})

onMounted(async () => {
  const state = await call('setupState', {}).catch(() => undefined)
  if (state?.needed) await router.replace('/set-up')
})

async function submit() {
  busy.value = true
  error.value = undefined
  try {
    await signIn(username.value, password.value)
    await router.push(next.value)
  } catch (reason) {
    error.value = reason
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <form v-if="choices || unasked" class="door" @submit.prevent="submit">
    <img src="/icon.svg" alt="" width="44" height="44" />
    <h1>Sign in to Bathyscribe</h1>
    <template v-if="choices && choices.items.length > 0">
      <a
        v-for="one in choices.items"
        :key="one.handle"
        :href="`/sign-on/${one.handle}?next=${encodeURIComponent(next)}`"
        class="btn btn-primary"
        >Sign in with {{ one.name }}</a
      >
      <p class="quiet mb-0">or with a user name and password of this service:</p>
    </template>
    <ErrorNote :error="error" />
    <BFormGroup label="User name" label-for="username"
      ><BFormInput id="username" v-model="username" autocomplete="username" required autofocus
    /></BFormGroup>
    <BFormGroup label="Password" label-for="password"
      ><BFormInput id="password" v-model="password" type="password" autocomplete="current-password" required
    /></BFormGroup>
    <BButton
      type="submit"
      :variant="choices && choices.items.length > 0 ? 'outline-primary' : 'primary'"
      :disabled="busy"
      >Sign in</BButton
    >
  </form>
</template>
