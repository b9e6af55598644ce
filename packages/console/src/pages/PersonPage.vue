<script setup lang="ts">
import type { SignInLinksMade } from '@bathyscribe/contract'
import { BButton, BDropdown } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import AuditTable from '../parts/AuditTable.vue'
import ConfirmAct from '../parts/ConfirmAct.vue'
import CopyValue from '../parts/CopyValue.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import PageHead from '../parts/PageHead.vue'
import StateWord from '../parts/StateWord.vue'
import IdentityList from '../people/IdentityList.vue'
import PersonForm from '../people/PersonForm.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { plain, SEES } from '../state/words'

/** One person: who it is, how they sign in, where they are, what each tool knows of them, and what they did. */
const { person: ref_ } = defineProps<{ person: string }>()
const params = computed(() => ({ params: { person: ref_ } }))
const { data: one, error } = useCall('showPerson', params)
const { data: places } = useCall('showPersonPlaces', params)
const { data: identities } = useCall('listIdentities', params)
const signsInBy = computed(() => {
  const ways = [
    ...(one.value?.hasPassword ? ['password'] : []),
    ...(identities.value?.items.filter(({ provider }) => provider.enabled).map(({ provider }) => provider.name) ?? []),
  ]
  return ways.join(' or ')
})
const { data: audit } = useCall('listAudit', () =>
  one.value ? { query: { person: one.value.id, limit: 10 } } : undefined,
)
const { act, actError, busy } = useActing()
const changing = ref(false)
const made = ref<SignInLinksMade>()
const invite = (mail: boolean) =>
  act(async () => {
    made.value = await call('makeSignInLinks', { body: { people: [one.value!.id], again: true, mail } })
  })
const link = computed(() => made.value?.items[0]?.link ?? null)
const setClosed = (closed: boolean) => act(() => call('changePerson', { ...params.value, body: { closed } }))
</script>

<template>
  <ErrorNote :error="error"><RouterLink to="/people">All people</RouterLink></ErrorNote>
  <template v-if="one">
    <PageHead :title="one.fullName" :back="{ to: '/people', text: 'People' }">
      <template #under
        ><span class="mono">{{ one.username }}</span
        ><template v-if="one.siteRole === 'administrator'"> · administrator</template
        ><template v-if="one.isTestLearner"> · test learner of a course</template> ·
        <span v-if="one.closed" class="tone-bad">✕ account closed</span>
        <span v-else-if="signsInBy" class="tone-good">● signs in by {{ signsInBy }}</span>
        <span v-else class="tone-look">▲ no password yet</span></template
      >
      <template v-if="!one.isTestLearner">
        <BButton size="sm" variant="outline-primary" :aria-expanded="changing" @click="changing = !changing"
          >Change</BButton
        >
        <BDropdown v-if="!one.closed" text="More" size="sm" variant="outline-primary" placement="bottom-end">
          <ConfirmAct
            item
            text="Close the account"
            :question="`${one.fullName} cannot sign in any longer; sessions and API tokens end. Courses, work and results stay, and the account can be opened again.`"
            @done="setClosed(true)"
          />
        </BDropdown>
        <BButton v-else size="sm" variant="primary" :disabled="busy" @click="setClosed(false)">Open it again</BButton>
      </template>
    </PageHead>
    <ErrorNote :error="actError" />
    <section v-if="changing" class="panel mb-3">
      <PersonForm :key="one.id" :person="one" @done="changing = false" @close="changing = false" />
    </section>
    <div class="two">
      <div class="d-grid gap-3">
        <section class="panel table-wrap">
          <h2>Courses</h2>
          <p v-if="places?.courses.length === 0" class="quiet mb-0">In no course. A course’s page People adds them.</p>
          <table v-else-if="places" class="grid-table">
            <thead>
              <tr>
                <th>Course</th>
                <th>Role</th>
                <th>State</th>
                <th>Since</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="each in places.courses" :key="each.course.id">
                <td>
                  <RouterLink :to="`/courses/${each.course.id}/people`">{{ each.course.code }}</RouterLink>
                  {{ each.course.title }}
                </td>
                <td>{{ plain(each.role) }}</td>
                <td><StateWord :state="each.state" /></td>
                <td><MomentText :at="each.droppedAt ?? each.since" /></td>
              </tr>
            </tbody>
          </table>
        </section>
        <section class="panel table-wrap">
          <h2>Tools that have met them</h2>
          <p v-if="places?.tools.length === 0" class="quiet mb-0">They have opened no tool yet.</p>
          <table v-else-if="places" class="grid-table">
            <thead>
              <tr>
                <th>Tool</th>
                <th>May see</th>
                <th class="number">Assignments</th>
                <th class="number">Launches</th>
                <th>Last</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="each in places.tools" :key="each.tool.id">
                <td>
                  <RouterLink :to="`/tools/${each.tool.slug}`">{{ each.tool.name }}</RouterLink>
                </td>
                <td>{{ SEES[each.disclosure] }}</td>
                <td class="number">{{ each.assignments }}</td>
                <td class="number">{{ each.launches }}</td>
                <td><MomentText :at="each.lastAt" /></td>
              </tr>
            </tbody>
          </table>
          <RouterLink :to="`/wire?person=${one.username}`">Their messages on the wire</RouterLink>
        </section>
        <section v-if="audit && audit.items.length > 0" class="panel table-wrap">
          <h2>What they did</h2>
          <AuditTable :entries="audit.items" of-person empty="" />
          <RouterLink :to="`/audit?person=${one.username}`">All of it</RouterLink>
        </section>
      </div>
      <div class="d-grid gap-3 align-content-start">
        <section class="panel">
          <h2>Who it is</h2>
          <dl class="facts mb-0">
            <dt>Given name</dt>
            <dd>{{ one.givenName || '–' }}</dd>
            <dt>Family name</dt>
            <dd>{{ one.familyName || '–' }}</dd>
            <dt>Email</dt>
            <dd>{{ one.email ?? 'none' }}</dd>
            <dt>Registrar’s identifier</dt>
            <dd class="mono">{{ one.sourcedId ?? 'none' }}</dd>
            <dt>Here since</dt>
            <dd><MomentText :at="one.createdAt" /></dd>
          </dl>
        </section>
        <IdentityList
          v-if="identities && identities.items.length > 0"
          :items="identities.items"
          title="Accounts at identity providers"
          :question="
            (name) =>
              `${one!.fullName} cannot sign in by ${name} any longer; sessions that were begun by it end. At the next sign-in there they are looked for again.`
          "
          @untie="(provider) => act(() => call('untieIdentity', { params: { person: ref_, provider } }))"
        />
        <section v-if="!one.isTestLearner && !one.closed" class="panel">
          <h2>Let them sign in</h2>
          <p class="quiet">
            By a link they set a password of their own. It works once, for 14 days; a newer one ends the older<template
              v-if="one.hasPassword"
              >, and the password that they have stays until then</template
            >.
          </p>
          <div class="d-flex gap-2 flex-wrap">
            <BButton size="sm" variant="primary" :disabled="busy" @click="invite(false)">Make a link</BButton>
            <BButton v-if="one.email" size="sm" variant="outline-primary" :disabled="busy" @click="invite(true)"
              >Mail a link</BButton
            >
          </div>
          <div v-if="made" class="mt-3" role="status">
            <CopyValue v-if="link" :value="link" label="the link" />
            <p class="note-good mt-2 mb-0">
              ● {{ link ? 'It is shown this once' : 'It goes out by mail within a minute or two' }}, and is good until
              <MomentText :at="made.expiresAt" />.
            </p>
          </div>
        </section>
      </div>
    </div>
  </template>
</template>
