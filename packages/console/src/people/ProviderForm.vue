<script setup lang="ts">
import { ADMITS_WORDS, MATCH_WORDS, type IdentityProvider } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput, BFormSelect } from 'bootstrap-vue-next'
import { computed, reactive } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'

/** What is set of an identity provider; without one, adds one. The secret is never shown again: left empty, the one held stays. */
const { provider } = defineProps<{ provider?: IdentityProvider }>()
const emit = defineEmits<{ done: [IdentityProvider]; close: [] }>()
const { act, actError, busy } = useActing()
const typed = reactive({
  handle: '',
  name: provider?.name ?? '',
  issuer: provider?.issuer ?? '',
  clientId: provider?.clientId ?? '',
  clientSecret: '',
  isPublic: provider ? !provider.hasSecret : false,
  scopes: provider?.scopes ?? 'openid profile email',
  match: provider?.match ?? ('email' as const),
  matchClaim: provider?.matchClaim ?? '',
  admits: provider?.admits ?? ('known' as const),
  administratorClaim: provider?.administratorClaim ?? '',
  administratorValue: provider?.administratorValue ?? '',
  enabled: provider?.enabled ?? true,
})
const options = (words: Readonly<Record<string, string>>) =>
  Object.entries(words).map(([value, text]) => ({ value, text }))
const secretHint = computed(() =>
  provider?.hasSecret ? 'Left empty, the one that is held stays.' : 'It is kept sealed, and not shown again.',
)
const save = () =>
  act(async () => {
    const { handle, isPublic, clientSecret, matchClaim, administratorClaim, administratorValue, ...rest } = typed
    const body = {
      ...rest,
      ...(isPublic ? { clientSecret: null } : clientSecret && { clientSecret }),
      matchClaim: matchClaim.trim() || null,
      administratorClaim: administratorClaim.trim() || null,
      administratorValue: administratorValue.trim() || null,
    }
    const saved = provider
      ? await call('changeIdentityProvider', {
          params: { provider: provider.id },
          body: { ...body, revision: provider.revision },
        })
      : await call('addIdentityProvider', { body: { ...body, handle } })
    emit('done', saved)
  })
</script>

<template>
  <form
    class="d-grid gap-3"
    :aria-label="provider ? `Change ${provider.name}` : 'A new identity provider'"
    @submit.prevent="save"
  >
    <ErrorNote :error="actError" />
    <div class="row g-3">
      <BFormGroup
        class="col-md-6"
        label="Name"
        label-for="provider-name"
        description="It stands on the button: “Sign in with …”"
        ><BFormInput id="provider-name" v-model="typed.name" required maxlength="100"
      /></BFormGroup>
      <BFormGroup
        v-if="!provider"
        class="col-md-6"
        label="Short name"
        label-for="provider-handle"
        description="Small letters; it stands in the addresses that the provider is told, and stays."
        ><BFormInput
          id="provider-handle"
          v-model="typed.handle"
          class="mono"
          required
          maxlength="40"
          pattern="[a-z][a-z0-9\-]*"
      /></BFormGroup>
      <BFormGroup
        class="col-md-6"
        label="Issuer"
        label-for="provider-issuer"
        description="Exactly as the provider writes it; its description is read from there."
        ><BFormInput id="provider-issuer" v-model="typed.issuer" type="url" class="mono" required maxlength="2000"
      /></BFormGroup>
      <BFormGroup class="col-md-6" label="Client ID" label-for="provider-client"
        ><BFormInput
          id="provider-client"
          v-model="typed.clientId"
          class="mono"
          required
          maxlength="300"
          autocomplete="off"
      /></BFormGroup>
      <BFormGroup
        v-if="!typed.isPublic"
        class="col-md-6"
        label="Client secret"
        label-for="provider-secret"
        :description="secretHint"
        ><BFormInput
          id="provider-secret"
          v-model="typed.clientSecret"
          type="password"
          maxlength="1000"
          autocomplete="new-password"
          :required="!provider?.hasSecret"
      /></BFormGroup>
      <label class="form-check col-12 ms-2"
        ><input v-model="typed.isPublic" class="form-check-input" type="checkbox" /> The provider gave no secret (a
        public client)</label
      >
      <BFormGroup class="col-md-6" label="People are found at their first sign-in" label-for="provider-match"
        ><BFormSelect id="provider-match" v-model="typed.match" :options="options(MATCH_WORDS)"
      /></BFormGroup>
      <BFormGroup class="col-md-6" label="Who may sign in" label-for="provider-admits"
        ><BFormSelect id="provider-admits" v-model="typed.admits" :options="options(ADMITS_WORDS)"
      /></BFormGroup>
    </div>
    <details>
      <summary>Scopes, claims, administrators</summary>
      <div class="row g-3 pt-2">
        <BFormGroup class="col-md-6" label="Scopes" label-for="provider-scopes"
          ><BFormInput id="provider-scopes" v-model="typed.scopes" class="mono" required maxlength="500"
        /></BFormGroup>
        <BFormGroup
          v-if="typed.match !== 'nobody'"
          class="col-md-6"
          label="Claim by which people are found"
          label-for="provider-claim"
          description="Empty: the usual one."
          ><BFormInput id="provider-claim" v-model="typed.matchClaim" class="mono" maxlength="100"
        /></BFormGroup>
        <BFormGroup
          class="col-md-6"
          label="Claim that makes administrators"
          label-for="provider-administrator-claim"
          description="Such as groups. Empty: no claim does."
          ><BFormInput
            id="provider-administrator-claim"
            v-model="typed.administratorClaim"
            class="mono"
            maxlength="100"
        /></BFormGroup>
        <BFormGroup
          class="col-md-6"
          label="Its value for them"
          label-for="provider-administrator-value"
          description="Whoever becomes an administrator by it is named on Watch for a week."
          ><BFormInput
            id="provider-administrator-value"
            v-model="typed.administratorValue"
            class="mono"
            maxlength="300"
        /></BFormGroup>
      </div>
    </details>
    <label class="form-check"
      ><input v-model="typed.enabled" class="form-check-input" type="checkbox" /> People may sign in by it</label
    >
    <div class="d-flex gap-2">
      <BButton type="submit" size="sm" variant="primary" :disabled="busy">{{
        provider ? 'Save' : 'Add the provider'
      }}</BButton>
      <BButton size="sm" variant="outline-primary" @click="emit('close')">Cancel</BButton>
    </div>
  </form>
</template>
