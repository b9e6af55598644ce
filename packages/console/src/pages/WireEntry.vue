<script setup lang="ts">
import { changeInWords } from '@bathyscribe/contract'
import { computed } from 'vue'
import DiagnosisNote from '../parts/DiagnosisNote.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import PageHead from '../parts/PageHead.vue'
import StateWord from '../parts/StateWord.vue'
import VerdictPanel from '../parts/VerdictPanel.vue'
import { useCall } from '../state/api'

const { entry: id } = defineProps<{ entry: string }>()
const { data: entry, error } = useCall('showWireEntry', () => ({ params: { entry: id } }))

const { data: difference } = useCall('showWireDifference', () =>
  entry.value && entry.value.outcome !== 'accepted' ? { params: { entry: id } } : undefined,
)

const GROUPS: [string, RegExp][] = [
  ['Signature', /^oauth_/],
  ['Token', /^(iss|aud|azp|iat|exp|nonce|state)$/],
  ['Message and link', /^(lti_|resource_link|message_type|version|deployment_id|target_link_uri)/],
  ['Person', /^(user_|lis_person|lis\.person|roles|role_scope|sub$|name$|given_name$|family_name$|email$|locale$)/],
  ['Course', /^(context|lis_course|lis\.course)/],
  ['Score return', /^(lis_outcome|lis_result)/],
  ['Presentation', /^launch_presentation/],
  ['Platform', /^tool_(consumer|platform)/],
  ['Custom', /^custom[_.]/],
]
/** A launch of LTI 1.3 is kept as its claims; here each stands on a line of its own, without the prefix that all share. */
function claimsOf(body: string | undefined): [string, string][] {
  if (!body?.startsWith('{"iss"')) return []
  try {
    return flat(JSON.parse(body) as Record<string, unknown>, '')
  } catch {
    return []
  }
}
function flat(value: Record<string, unknown>, before: string): [string, string][] {
  return Object.entries(value).flatMap(([name, one]): [string, string][] => {
    const short = before + name.replace(/^https:\/\/purl\.imsglobal\.org\/spec\/lti\/claim\//, '')
    if (Array.isArray(one)) return [[short, one.join('\n')]]
    return typeof one === 'object' && one !== null
      ? flat(one as Record<string, unknown>, `${short}.`)
      : [[short, String(one)]]
  })
}
const groups = computed(() => {
  const all = [...(entry.value?.request.parameters ?? []), ...claimsOf(entry.value?.request.body)]
  const grouped = GROUPS.map(([title, pattern]) => ({ title, rows: all.filter(([name]) => pattern.test(name)) }))
  return [
    ...grouped,
    { title: 'Other', rows: all.filter(([name]) => !GROUPS.some(([, pattern]) => pattern.test(name))) },
  ].filter((group) => group.rows.length > 0)
})
</script>

<template>
  <ErrorNote :error="error"><RouterLink to="/wire">All entries</RouterLink></ErrorNote>
  <template v-if="entry">
    <PageHead :title="`Wire entry ${entry.id}`" :back="{ to: '/wire', text: 'Wire' }">
      <template #under
        ><StateWord :state="entry.outcome" /> · {{ entry.direction }} {{ entry.kind }} ·
        <MomentText :at="entry.at" relative /> · {{ entry.durationMs.toFixed(1) }} ms</template
      >
      <RouterLink class="btn btn-sm btn-outline-primary" :to="`/wire/${entry.id}/story`">The whole launch</RouterLink>
    </PageHead>
    <div v-if="entry.diagnosis" class="note-bad mb-3">
      <strong>{{ entry.diagnosis.sentence }}</strong>
      <span v-if="entry.diagnosis.detail">({{ entry.diagnosis.detail }})</span>
      <div>→ {{ entry.diagnosis.hint }}</div>
    </div>
    <p v-else :class="entry.outcome === 'accepted' ? 'note-good' : 'note-bad'">{{ entry.statement }}</p>
    <DiagnosisNote v-if="entry.explained" class="mb-3" :found="entry.explained">
      <VerdictPanel :key="entry.id" :entry="entry.id" :found="entry.explained" :verdicts="entry.verdicts" />
    </DiagnosisNote>
    <section v-if="entry.outcome !== 'accepted' && difference?.good" class="panel mb-3 table-wrap">
      <h2>Against the last good one</h2>
      <p v-if="difference.differences.length === 0" class="mb-0">
        It says the same as
        <RouterLink :to="`/wire/${difference.good.id}`">wire entry {{ difference.good.id }}</RouterLink>, which was
        taken <MomentText :at="difference.good.at" />:
        <template v-if="difference.changes.length === 0">what changed is at the other end.</template>
        <template v-else>what it says is the same.</template>
      </p>
      <table v-else class="grid-table">
        <thead>
          <tr>
            <th>Part</th>
            <th>
              Then: <RouterLink :to="`/wire/${difference.good.id}`">wire entry {{ difference.good.id }}</RouterLink>
            </th>
            <th>Now</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in difference.differences" :key="one.part">
            <td class="mono">{{ one.part }}</td>
            <td class="mono">{{ one.then }}</td>
            <td class="mono">{{ one.now }}</td>
          </tr>
        </tbody>
      </table>
      <p v-for="one in difference.changes" :key="one.at + one.what" class="mb-0 mt-2">
        ◐ {{ changeInWords(one, 'then') }} <MomentText :at="one.at" />
      </p>
    </section>
    <div class="two">
      <div class="d-grid gap-3">
        <section class="panel">
          <h2>Request</h2>
          <p class="mono">{{ entry.request.method }} {{ entry.request.url }}</p>
          <template v-for="group in groups" :key="group.title">
            <h3 class="quiet">{{ group.title }}</h3>
            <dl class="wire-lines">
              <template v-for="([name, value], i) in group.rows" :key="i"
                ><dt class="mono">{{ name }}</dt>
                <dd class="mono">{{ value }}</dd></template
              >
            </dl>
          </template>
          <details v-if="entry.request.headers">
            <summary>Headers</summary>
            <dl class="wire-lines mt-2">
              <template v-for="(value, name) in entry.request.headers" :key="name"
                ><dt class="mono">{{ name }}</dt>
                <dd class="mono">{{ value }}</dd></template
              >
            </dl>
          </details>
          <pre v-if="entry.request.body" class="mono body">{{ entry.request.body }}</pre>
        </section>
        <section v-if="entry.response" class="panel">
          <h2>Answer {{ entry.response.status }}</h2>
          <div v-for="(step, i) in entry.response.steps" :key="i" class="mono">
            {{ step.method }} {{ step.url }} → {{ step.status }} in {{ step.durationMs.toFixed(1) }} ms
          </div>
          <details v-if="entry.response.headers">
            <summary>Headers</summary>
            <dl class="wire-lines mt-2">
              <template v-for="(value, name) in entry.response.headers" :key="name"
                ><dt class="mono">{{ name }}</dt>
                <dd class="mono">{{ value }}</dd></template
              >
            </dl>
          </details>
          <pre v-if="entry.response.body" class="mono body">{{ entry.response.body }}</pre>
        </section>
      </div>
      <section class="panel">
        <h2>Belongs to</h2>
        <dl class="facts mb-0">
          <dt>Tool</dt>
          <dd>
            <RouterLink v-if="entry.tool" :to="`/tools/${entry.tool.slug}`">{{ entry.tool.name }}</RouterLink
            ><template v-else>unknown</template>
          </dd>
          <dt>Course</dt>
          <dd>
            <RouterLink v-if="entry.course" :to="`/courses/${entry.course.id}`">{{ entry.course.code }}</RouterLink
            ><template v-else>–</template>
          </dd>
          <dt>Assignment</dt>
          <dd>
            <RouterLink
              v-if="entry.assignment"
              :to="`/courses/${entry.course?.id}/assignments/${entry.assignment.id}`"
              >{{ entry.assignment.title }}</RouterLink
            ><template v-else>–</template>
          </dd>
          <dt>Person</dt>
          <dd>
            <bdi>{{ entry.person?.fullName ?? '–' }}</bdi>
          </dd>
          <dt v-if="entry.soundingId">Sounding</dt>
          <dd v-if="entry.soundingId">
            <RouterLink :to="`/soundings/${entry.soundingId}`">{{ entry.soundingId }}</RouterLink>
          </dd>
          <dt v-if="entry.code">Code</dt>
          <dd v-if="entry.code" class="mono">{{ entry.code }}</dd>
        </dl>
      </section>
    </div>
  </template>
</template>

<style>
pre.body {
  white-space: pre-wrap;
  max-height: 26rem;
  overflow: auto;
  background: var(--rail);
  padding: 0.7rem;
  border-radius: 0.3rem;
  margin: 0.6rem 0 0;
}
</style>
