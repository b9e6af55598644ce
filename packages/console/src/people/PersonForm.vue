<script setup lang="ts">
import type { Person } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput } from 'bootstrap-vue-next'
import { reactive } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'

/**
 * Who somebody is; without a person, makes one, who has no password: a link on their page lets them set one of their own. The user name stays once it is given: rosters and the
 * audit go by it.
 */
const { person } = defineProps<{ person?: Person }>()
const emit = defineEmits<{ done: [Person]; close: [] }>()
const { act, actError, busy } = useActing()
const wanted = reactive({
  fullName: person?.fullName ?? '',
  givenName: person?.givenName ?? '',
  familyName: person?.familyName ?? '',
  siteRole: person?.siteRole ?? ('none' as const),
  email: person?.email ?? '',
})
const username = reactive({ typed: '' })
const save = () =>
  act(async () => {
    const body = { ...wanted, email: wanted.email.trim() || null }
    const done = person
      ? await call('changePerson', { params: { person: person.id }, body })
      : await call('createPerson', { body: { ...body, username: username.typed } })
    emit('done', done)
  })
</script>

<template>
  <form class="d-grid gap-3" :aria-label="person ? undefined : 'A new person'" @submit.prevent="save">
    <ErrorNote :error="actError" />
    <div class="row g-3">
      <BFormGroup class="col-md-6" label="Name" label-for="person-name"
        ><BFormInput id="person-name" v-model="wanted.fullName" required maxlength="200"
      /></BFormGroup>
      <BFormGroup v-if="!person" class="col-md-6" label="User name" label-for="person-username"
        ><BFormInput
          id="person-username"
          v-model="username.typed"
          class="mono"
          required
          maxlength="63"
          autocomplete="off"
      /></BFormGroup>
      <BFormGroup class="col-md-6" label="Email" label-for="person-email"
        ><BFormInput id="person-email" v-model="wanted.email" type="email" maxlength="254" autocomplete="off"
      /></BFormGroup>
      <BFormGroup class="col-md-6" label="Given name" label-for="person-given" description="As tools get it."
        ><BFormInput id="person-given" v-model="wanted.givenName" maxlength="100"
      /></BFormGroup>
      <BFormGroup class="col-md-6" label="Family name" label-for="person-family"
        ><BFormInput id="person-family" v-model="wanted.familyName" maxlength="100"
      /></BFormGroup>
      <label class="form-check col-12 ms-2"
        ><input
          v-model="wanted.siteRole"
          class="form-check-input"
          type="checkbox"
          true-value="administrator"
          false-value="none"
        />
        Administrator of the whole site</label
      >
    </div>
    <div class="d-flex gap-2">
      <BButton type="submit" size="sm" variant="primary" :disabled="busy">{{
        person ? 'Save' : 'Make the person'
      }}</BButton>
      <BButton size="sm" variant="outline-primary" @click="emit('close')">Cancel</BButton>
    </div>
  </form>
</template>
