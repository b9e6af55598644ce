<script setup lang="ts">
import { BButton, BFormGroup, BFormInput, BModal } from 'bootstrap-vue-next'
import { ref, watch } from 'vue'
import { call } from '../state/api'
import { isConfirming, settlePassword } from '../state/confirming'
import { currentSession } from '../state/session'
import ErrorNote from './ErrorNote.vue'

/** Asks for the password once more, before secrets are shown or people and keys changed; the act then goes on by itself. */
const password = ref('')
const error = ref<unknown>()
const busy = ref(false)
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
</script>

<template>
  <BModal
    :model-value="isConfirming"
    title="Your password once more"
    focus="#confirm-password"
    no-footer
    @hide="settlePassword(false)"
  >
    <form @submit.prevent="confirm">
      <ErrorNote :error="error" />
      <p>Secrets, people and keys are not for whoever finds this browser open. What you began then goes on.</p>
      <input type="text" class="d-none" autocomplete="username" :value="currentSession?.person.username" readonly />
      <BFormGroup label="Password" label-for="confirm-password"
        ><BFormInput id="confirm-password" v-model="password" type="password" autocomplete="current-password" required
      /></BFormGroup>
      <div class="d-flex gap-2 justify-content-end mt-3">
        <BButton variant="secondary" @click="settlePassword(false)">Cancel</BButton>
        <BButton type="submit" variant="primary" :disabled="busy">Go on</BButton>
      </div>
    </form>
  </BModal>
</template>
