<script setup lang="ts">
import { BButton, BFormGroup, BFormInput, BModal } from 'bootstrap-vue-next'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { call } from '../state/api'
import { isConfirming, onConfirmed, settlePassword } from '../state/confirming'
import { currentSession } from '../state/session'
import ErrorNote from './ErrorNote.vue'

/** Asks for the password once more, or for another sign-in at the provider, before secrets are shown or people and keys changed; the act then goes on by itself. */
const password = ref('')
const error = ref<unknown>()
const busy = ref(false)
const provider = computed(() => currentSession.value?.signedInBy ?? null)
const hasPassword = computed(() => currentSession.value?.person.hasPassword === true || provider.value === null)
onBeforeUnmount(onConfirmed(() => settlePassword(true)))
watch(isConfirming, () => {
  password.value = ''
  error.value = undefined
})

async function confirm() {
  busy.value = true
  error.value = undefined
  try {
    await call('confirmSession', { body: { password: password.value } })
    settlePassword(true)
  } catch (reason) {
    error.value = reason
  } finally {
    busy.value = false
  }
}

/** In a window of its own: what was typed on this page stays. */
async function confirmThere(handle: string) {
  error.value = undefined
  // Opened at the press itself: later on browsers would keep it shut.
  const opened = window.open('about:blank', 'bathyscribe-confirm', 'popup,width=520,height=680')
  try {
    const { location } = await call('startConfirming', { body: { provider: handle, next: '/confirmed' } })
    if (opened) opened.location.href = location
    else error.value = new Error('The browser opened no window.')
  } catch (reason) {
    opened?.close()
    error.value = reason
  }
}
</script>

<template>
  <BModal
    :model-value="isConfirming"
    :title="hasPassword ? 'Your password once more' : 'Sign in once more'"
    :focus="hasPassword ? '#confirm-password' : '#confirm-there'"
    no-footer
    @hide="settlePassword(false)"
  >
    <form @submit.prevent="confirm">
      <ErrorNote :error="error" />
      <p>Secrets, people and keys are not for whoever finds this browser open. What you began then goes on.</p>
      <BButton v-if="provider" id="confirm-there" variant="primary" class="mb-3" @click="confirmThere(provider.handle)"
        >Sign in with {{ provider.name }} again</BButton
      >
      <template v-if="hasPassword">
        <input type="text" class="d-none" autocomplete="username" :value="currentSession?.person.username" readonly />
        <BFormGroup :label="provider ? 'Or the password' : 'Password'" label-for="confirm-password"
          ><BFormInput
            id="confirm-password"
            v-model="password"
            type="password"
            autocomplete="current-password"
            required
        /></BFormGroup>
      </template>
      <div class="d-flex gap-2 justify-content-end mt-3">
        <BButton variant="secondary" @click="settlePassword(false)">Cancel</BButton>
        <BButton v-if="hasPassword" type="submit" :variant="provider ? 'outline-primary' : 'primary'" :disabled="busy"
          >Go on</BButton
        >
      </div>
    </form>
  </BModal>
</template>
