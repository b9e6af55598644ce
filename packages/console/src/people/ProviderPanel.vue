<script setup lang="ts">
import { ADMITS_WORDS, MATCH_WORDS, type IdentityProvider, type SignOnChecked } from '@bathyscribe/contract'
import { BButton, BDropdown } from 'bootstrap-vue-next'
import { ref } from 'vue'
import ConfirmAct from '../parts/ConfirmAct.vue'
import CopyValue from '../parts/CopyValue.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'
import { SIGNS } from '../state/words'
import ProviderForm from './ProviderForm.vue'

/** One identity provider: how it is set, what it has to be told, whether it answers. */
const { provider } = defineProps<{ provider: IdentityProvider }>()
const { act, actError, busy } = useActing()
const changing = ref(false)
const checked = ref<SignOnChecked>()
const params = () => ({ params: { provider: provider.id } })
const check = () =>
  act(async () => {
    checked.value = undefined
    checked.value = await call('checkIdentityProvider', params())
  })
const remove = () => act(() => call('removeIdentityProvider', params()))
</script>

<template>
  <section class="panel mb-3" :aria-label="provider.name">
    <div class="d-flex justify-content-between gap-2 flex-wrap mb-2">
      <h2>
        {{ provider.name }}
        <small :class="provider.enabled ? 'tone-good' : 'tone-look'">{{
          provider.enabled ? '● people may sign in by it' : '▲ switched off'
        }}</small>
      </h2>
      <div class="d-flex gap-2 align-items-start">
        <BButton size="sm" variant="primary" :disabled="busy" @click="check">Check</BButton>
        <BButton size="sm" variant="outline-primary" :aria-expanded="changing" @click="changing = !changing"
          >Change</BButton
        >
        <BDropdown text="More" size="sm" variant="outline-primary" placement="bottom-end">
          <ConfirmAct
            item
            text="Remove"
            :question="`Nobody can sign in by ${provider.name} any longer, and sessions that were begun by it end. Accounts stay, untied from it: ${provider.people} of them. Who has no password needs a link to set one.`"
            @done="remove"
          />
        </BDropdown>
      </div>
    </div>
    <ErrorNote :error="actError" />
    <ProviderForm
      v-if="changing"
      :key="provider.revision"
      :provider="provider"
      @done="changing = false"
      @close="changing = false"
    />
    <div v-else class="row gx-4 gy-2">
      <div class="col-lg-6">
        <dl class="facts mb-0">
          <dt>Issuer</dt>
          <dd class="mono">{{ provider.issuer }}</dd>
          <dt>Client ID</dt>
          <dd class="mono">{{ provider.clientId }}<template v-if="!provider.hasSecret"> (public)</template></dd>
          <dt>Found</dt>
          <dd>
            {{ MATCH_WORDS[provider.match]
            }}<template v-if="provider.matchClaim"
              >, claim <span class="mono">{{ provider.matchClaim }}</span></template
            >
          </dd>
          <dt>Admitted</dt>
          <dd>{{ ADMITS_WORDS[provider.admits] }}</dd>
          <dt>Administrators</dt>
          <dd v-if="provider.administratorClaim">
            who has <span class="mono">{{ provider.administratorValue }}</span> in
            <span class="mono">{{ provider.administratorClaim }}</span>
          </dd>
          <dd v-else>by no claim</dd>
          <dt>Used</dt>
          <dd v-if="provider.people === 0">nobody has signed in by it yet</dd>
          <dd v-else>
            {{ provider.people === 1 ? 'one account is' : `${provider.people} accounts are` }} tied to it; last sign-in
            <MomentText :at="provider.lastAt" />
          </dd>
        </dl>
      </div>
      <div class="col-lg-6">
        <h3>What the provider has to be told</h3>
        <dl class="facts mb-0">
          <dt>Redirect URI</dt>
          <dd><CopyValue :value="provider.redirectUri" label="the redirect URI" /></dd>
          <dt>After signing out</dt>
          <dd><CopyValue :value="provider.afterSignOutUri" label="the address after signing out" /></dd>
          <dt>Back-channel logout</dt>
          <dd><CopyValue :value="provider.signOutUri" label="the address for logout tokens" /></dd>
        </dl>
      </div>
    </div>
    <table v-if="checked && !changing" class="grid-table mt-3" aria-label="What was looked at">
      <thead>
        <tr>
          <th>Looked at</th>
          <th>Found</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in checked.findings" :key="one.what">
          <td>
            <span :class="`tone-${one.state}`"
              ><span aria-hidden="true">{{ SIGNS[one.state] }}</span> {{ one.what }}</span
            >
          </td>
          <td>{{ one.says }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>
