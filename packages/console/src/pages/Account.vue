<script setup lang="ts">
import type { TokenScope } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput } from 'bootstrap-vue-next'
import { reactive, ref } from 'vue'
import ConfirmAct from '../parts/ConfirmAct.vue'
import OwnIdentities from '../people/OwnIdentities.vue'
import ConnectionList from '../parts/ConnectionList.vue'
import MailDigestPanel from '../parts/MailDigestPanel.vue'
import CopyValue from '../parts/CopyValue.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import PageHead from '../parts/PageHead.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { currentSession, teachesSomething } from '../state/session'

const { data: sessions } = useCall('listSessions', {})
const { data: tokens } = useCall('listTokens', {})
const { act: acting, actError: error } = useActing()
const said = ref('')
const password = reactive({ present: '', wanted: '', keepTokens: false })
const token = reactive({ name: '', scopes: ['read'] as TokenScope[], days: '90' })
const made = ref('')
const SCOPES: { value: TokenScope; text: string }[] = [
  { value: 'read', text: 'read: look at what you may see' },
  { value: 'teach', text: 'teach: change what belongs to courses' },
  { value: 'administer', text: 'administer: change what belongs to the site' },
]

async function act(run: () => Promise<unknown>, done: string) {
  said.value = ''
  if (await acting(run)) said.value = done
}
const changePassword = () =>
  act(async () => {
    await call('changePassword', { body: { ...password } })
    Object.assign(password, { present: '', wanted: '', keepTokens: false })
  }, 'Your password is changed; your other sessions have ended, and your API tokens unless you kept them.')
const createToken = () =>
  act(async () => {
    made.value = (
      await call('createToken', { body: { name: token.name, scopes: token.scopes, expiresInDays: Number(token.days) } })
    ).token
    token.name = ''
  }, 'The token is made. Copy it now: it is not shown again.')
</script>

<template>
  <PageHead title="Your account"
    ><template v-if="currentSession" #under
      >{{ currentSession.person.fullName }} · {{ currentSession.person.username }}</template
    ></PageHead
  >
  <ErrorNote :error="error" />
  <p v-if="said" class="note-good" role="status">{{ said }}</p>
  <div class="two">
    <div class="d-grid gap-3">
      <section class="panel">
        <h2>API tokens</h2>
        <p v-if="made" class="note-look"><CopyValue :value="made" label="the new token" /></p>
        <p v-if="tokens?.items.length === 0" class="quiet">
          None. A token lets a program or the command line act as you, as far as its scopes go.
        </p>
        <table v-else-if="tokens" class="grid-table mb-3">
          <thead>
            <tr>
              <th>Name</th>
              <th>Scopes</th>
              <th>Last used</th>
              <th>Until</th>
              <th><span class="visually-hidden">Actions</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in tokens.items" :key="one.id">
              <td>{{ one.name }}</td>
              <td>{{ one.scopes.join(', ') }}</td>
              <td><MomentText :at="one.lastUsedAt" /></td>
              <td><span v-if="one.revokedAt" class="quiet">revoked</span><MomentText v-else :at="one.expiresAt" /></td>
              <td>
                <ConfirmAct
                  v-if="!one.revokedAt"
                  text="Revoke"
                  :question="`Programs that use “${one.name}” are refused from now on.`"
                  @done="act(() => call('revokeToken', { params: { id: one.id } }), 'The token is revoked.')"
                />
              </td>
            </tr>
          </tbody>
        </table>
        <form class="d-grid gap-2" @submit.prevent="createToken">
          <div class="row g-2">
            <BFormGroup class="col-8" label="Name of a new token" label-for="token-name"
              ><BFormInput id="token-name" v-model="token.name" required maxlength="100" placeholder="what it is for"
            /></BFormGroup>
            <BFormGroup class="col-4" label="Days" label-for="token-days"
              ><BFormInput id="token-days" v-model="token.days" type="number" min="1" max="366"
            /></BFormGroup>
          </div>
          <fieldset>
            <legend class="visually-hidden">Scopes</legend>
            <label v-for="scope in SCOPES" :key="scope.value" class="form-check"
              ><input v-model="token.scopes" class="form-check-input" type="checkbox" :value="scope.value" />
              {{ scope.text }}</label
            >
          </fieldset>
          <div>
            <BButton type="submit" variant="primary" size="sm" :disabled="token.scopes.length === 0"
              >Make a token</BButton
            >
          </div>
        </form>
      </section>
      <section class="panel">
        <h2>Sessions</h2>
        <table v-if="sessions" class="grid-table">
          <thead>
            <tr>
              <th>Browser</th>
              <th>Since</th>
              <th>Last seen</th>
              <th><span class="visually-hidden">Actions</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in sessions.items" :key="one.id">
              <td class="said">
                {{ one.userAgent || 'unknown' }}<template v-if="one.by"> · by {{ one.by }}</template
                ><strong v-if="one.current"> · this one</strong>
              </td>
              <td><MomentText :at="one.createdAt" /></td>
              <td><MomentText :at="one.lastSeenAt" /></td>
              <td>
                <BButton
                  v-if="!one.current"
                  size="sm"
                  class="py-0"
                  variant="outline-primary"
                  @click="act(() => call('revokeSession', { params: { id: one.id } }), 'That session has ended.')"
                  >End</BButton
                >
              </td>
            </tr>
          </tbody>
        </table>
      </section>
    </div>
    <div class="d-grid gap-3 align-content-start">
      <OwnIdentities />
      <section v-if="currentSession?.person.hasPassword" class="panel">
        <h2>Password</h2>
        <form class="d-grid gap-3" @submit.prevent="changePassword">
          <input
            type="text"
            class="visually-hidden"
            autocomplete="username"
            :value="currentSession?.person.username"
            tabindex="-1"
            aria-hidden="true"
            readonly
          />
          <BFormGroup label="Present password" label-for="present"
            ><BFormInput
              id="present"
              v-model="password.present"
              type="password"
              autocomplete="current-password"
              required
          /></BFormGroup>
          <BFormGroup
            label="New password"
            label-for="wanted"
            description="At least 12 characters; several words are best"
            ><BFormInput
              id="wanted"
              v-model="password.wanted"
              type="password"
              autocomplete="new-password"
              minlength="12"
              required
          /></BFormGroup>
          <div class="form-check">
            <input id="keep-tokens" v-model="password.keepTokens" type="checkbox" class="form-check-input" />
            <label class="form-check-label" for="keep-tokens">Keep my API tokens and connected tools</label>
          </div>
          <div><BButton type="submit" variant="primary" size="sm">Change password</BButton></div>
        </form>
      </section>
      <MailDigestPanel v-if="teachesSomething" />
    </div>
  </div>
  <ConnectionList v-if="teachesSomething" />
</template>
