<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import ErrorNote from '../parts/ErrorNote.vue'
import PageHead from '../parts/PageHead.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'

/** Where an instructor lets a tool into courses, or does not: the authorisation endpoint of connections. */
const route = useRoute()
const given = (name: string) => (typeof route.query[name] === 'string' ? route.query[name] : '')
const asked = computed(() => ({
  clientId: given('client_id'),
  redirectUri: given('redirect_uri'),
  scope: given('scope'),
  state: given('state'),
}))
const isCode = computed(() => given('response_type') === 'code' && given('code_challenge_method') === 'S256')
const { data: request, error } = useCall('showConnectionRequest', () =>
  isCode.value ? { query: asked.value } : undefined,
)
const scopes = ref<string[]>([])
const courses = ref<string[]>([])
watch(request, (now) => {
  if (now) scopes.value = now.scopes.map((one) => one.scope)
})
const { act, actError, busy } = useActing()
const leave = (address: string) => window.location.assign(address)
const connect = () =>
  act(async () => {
    const { redirectTo } = await call('connectTool', {
      body: { ...asked.value, codeChallenge: given('code_challenge'), scopes: scopes.value, courses: courses.value },
    })
    leave(redirectTo)
  })
</script>

<template>
  <PageHead title="Connect a tool" />
  <p v-if="!isCode" class="note-bad">
    ✕ The tool did not ask in the way of the standard: a code with a proof key (PKCE, S256) is needed. Nothing was
    connected; tell the tool’s support.
  </p>
  <ErrorNote :error="error ?? actError" />
  <form v-if="request" class="panel connect-form" @submit.prevent="connect">
    <p>
      <strong>{{ request.tool.name }}</strong> asks to work with courses of yours by itself, without being opened from
      them. {{ request.description }}
    </p>
    <fieldset class="mb-3">
      <legend class="h2">It may</legend>
      <label v-for="one in request.scopes" :key="one.scope" class="form-check"
        ><input v-model="scopes" class="form-check-input" type="checkbox" :value="one.scope" /> {{ one.says }}</label
      >
    </fieldset>
    <fieldset class="mb-3">
      <legend class="h2">In these courses</legend>
      <p v-if="request.courses.length === 0" class="note-look">
        ▲ You instruct no course, so there is nothing to connect.
      </p>
      <label v-for="one in request.courses" :key="one.id" class="form-check"
        ><input v-model="courses" class="form-check-input" type="checkbox" :value="one.id" /> {{ one.code }}
        {{ one.title }}</label
      >
    </fieldset>
    <p class="quiet">
      It lasts until you take it back on your account’s page, and ends in a course when you no longer instruct it.
    </p>
    <div class="d-flex gap-2">
      <button class="btn btn-primary" :disabled="busy || scopes.length === 0 || courses.length === 0">Connect</button>
      <button class="btn btn-outline-primary" type="button" @click="leave(request.refuseTo)">Do not connect</button>
    </div>
  </form>
</template>

<style>
.connect-form {
  max-width: 44rem;
}
</style>
