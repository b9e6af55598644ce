<script setup lang="ts">
import { PEOPLE_PARTS } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { computed, ref, watch } from 'vue'
import RosterUpload from '../course/RosterUpload.vue'
import SignInLinks from '../course/SignInLinks.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MoreRows from '../parts/MoreRows.vue'
import PageHead from '../parts/PageHead.vue'
import PersonForm from '../people/PersonForm.vue'
import { useCall } from '../state/api'
import { useSearched } from '../state/debounced-call'
import { useNextPage } from '../state/next-page'
import { usePaging } from '../state/paging'

/** Everybody who has an account: found, made, invited, brought in by a roster. */
const search = ref('')
const asked = useSearched(search)
const only = ref<(typeof PEOPLE_PARTS)[number] | ''>('')
const paging = usePaging()
watch([asked, only], () => paging.reset(), { flush: 'sync' })
const { data, error } = useCall(
  'listPeople',
  computed(() => ({
    query: {
      cursor: paging.cursor.value,
      limit: 50,
      ...(asked.value.trim() && { search: asked.value.trim() }),
      ...(only.value && { only: only.value }),
    },
  })),
)
const PARTS: Record<(typeof PEOPLE_PARTS)[number], string> = {
  administrators: 'Administrators',
  without_password: 'Without a password',
  closed: 'Closed accounts',
  in_no_course: 'In no course',
}
const goOn = useNextPage()
const making = ref(false)
</script>

<template>
  <PageHead title="People">
    <input
      v-model="search"
      class="form-control form-control-sm w-auto"
      type="search"
      placeholder="Name, user name or email"
      aria-label="Find a person"
    />
    <select v-model="only" class="form-select form-select-sm w-auto" aria-label="Which people">
      <option value="">Everybody</option>
      <option v-for="part in PEOPLE_PARTS" :key="part" :value="part">{{ PARTS[part] }}</option>
    </select>
    <RouterLink class="btn btn-sm btn-outline-primary" to="/identity-providers">Identity providers</RouterLink>
    <BButton size="sm" variant="primary" :aria-expanded="making" @click="making = !making">New person</BButton>
  </PageHead>
  <section v-if="making" class="panel mb-3">
    <PersonForm @done="(made) => goOn(`/people/${made.id}`)" @close="making = false" />
  </section>
  <ErrorNote :error="error" />
  <section v-if="data" class="panel table-wrap">
    <p v-if="data.items.length === 0" class="mb-0">
      {{ asked || only ? 'Nobody like that.' : 'There is nobody yet. Make a person, or bring in a roster.' }}
    </p>
    <table v-else class="grid-table">
      <thead>
        <tr>
          <th>Name</th>
          <th>User name</th>
          <th>Email</th>
          <th>Account</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in data.items" :key="one.id">
          <td>
            <RouterLink :to="`/people/${one.id}`"><bdi>{{ one.fullName }}</bdi></RouterLink>
            <span v-if="one.siteRole === 'administrator'" class="quiet"> · administrator</span>
          </td>
          <td class="mono text-nowrap">{{ one.username }}</td>
          <td>{{ one.email ?? '–' }}</td>
          <td>
            <span v-if="one.closed" class="tone-bad">✕ closed</span>
            <span v-else-if="one.isTestLearner" class="quiet">test learner</span>
            <span v-else-if="!one.hasPassword" class="tone-look">▲ no password yet</span>
            <span v-else class="tone-good">● open</span>
          </td>
        </tr>
      </tbody>
    </table>
    <MoreRows by-name :next="data.next" :depth="paging.depth.value" @forward="paging.forward" @back="paging.back" />
  </section>
  <SignInLinks />
  <RosterUpload />
</template>
