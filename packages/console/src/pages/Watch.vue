<script setup lang="ts">
import { computed } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import HourBars from '../parts/HourBars.vue'
import MomentText from '../parts/MomentText.vue'
import PageHead from '../parts/PageHead.vue'
import ProofLine from '../parts/ProofLine.vue'
import StateWord from '../parts/StateWord.vue'
import { useCall } from '../state/api'
import { isAdministrator } from '../state/session'
import { causeInWords } from '../state/words'

const { data: watch, error } = useCall('showWatch', {})
const hasScoreTrouble = computed(() => {
  const scores = watch.value?.scores
  if (!scores) return false
  const { refused, unscored, silent, office } = scores
  return refused.length + unscored.length + silent.length + (office ? office.waiting + office.refused : 0) > 0
})
const pieces = (n: number) => (n === 1 ? '1 piece of work waits' : `${n} pieces of work wait`)
const links = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`
</script>

<template>
  <PageHead title="Watch">
    <template v-if="watch" #under>
      {{ watch.publishedCount - watch.unprovenCount }} of
      {{ links(watch.publishedCount, 'published assignment') }} proven all the way
    </template>
    <RouterLink v-if="isAdministrator" class="btn btn-sm btn-outline-primary" to="/tools/register"
      >Register a tool</RouterLink
    >
  </PageHead>
  <ErrorNote :error="error" />
  <div v-if="watch?.ownAddress" class="note-look mb-3" role="status">
    <span aria-hidden="true">▲</span> Since <MomentText :at="watch.ownAddress.since" /> our public address is
    <span class="mono">{{ watch.ownAddress.now }}</span>, and no longer
    <span class="mono">{{ watch.ownAddress.before }}</span>. Tools of LTI 1.3 know us by the earlier one as issuer, and
    tools of LTI 1.1 may send scores there: enter the new one at their ends (each tool’s exchange sheet has it), or put
    <span class="mono">publicUrl</span> back.
  </div>
  <div v-for="one in watch?.newAdministrators" :key="one.person.id" class="note-look mb-3" role="status">
    <span aria-hidden="true">▲</span>
    <RouterLink :to="`/people/${one.person.id}`"><bdi>{{ one.person.fullName }}</bdi></RouterLink> is an administrator
    since <MomentText :at="one.since" />, by the claims of {{ one.provider }}. If that is not meant, change the account,
    and the claim among the <RouterLink to="/identity-providers">identity providers</RouterLink>.
  </div>
  <div v-for="one in watch?.doubtedCauses" :key="one.code" class="note-look mb-3" role="status">
    <span aria-hidden="true">▲</span> The cause <strong>{{ causeInWords(one.code) }}</strong> was said to be wrong
    {{ one.wrong }} times. It is told as likely until somebody has looked at it:
    <RouterLink to="/wire/causes">see the causes</RouterLink>.
  </div>
  <div v-if="watch" class="two">
    <div class="d-grid gap-3">
      <section v-if="watch.approvals.length > 0" class="panel">
        <h2>Waiting for your approval</h2>
        <div v-for="one in watch.approvals" :key="one.tool.id + one.what" class="refusal">
          <span class="tone-look" aria-hidden="true">▲</span>
          <RouterLink :to="`/tools/${one.tool.slug}`">{{ one.tool.name }}</RouterLink>
          {{ one.what === 'registration' ? 'was registered' : 'wants a change'
          }}<template v-if="one.course"> for {{ one.course.code }}</template>, <MomentText :at="one.since" relative />
        </div>
      </section>
      <section v-if="watch.firstEntries.length > 0" class="panel">
        <h2>Waiting for first entry</h2>
        <p class="quiet">An instructor has to open these before learners may.</p>
        <div v-for="one in watch.firstEntries" :key="one.openAt" class="refusal d-flex gap-2 align-items-baseline">
          <span class="tone-look" aria-hidden="true">▲</span>
          <span class="flex-grow-1"><strong>{{ one.label }}</strong> {{ one.course.code }} · {{ one.tool.name }}</span>
          <RouterLink class="btn btn-sm btn-outline-primary" :to="one.openAt">Open it</RouterLink>
        </div>
      </section>
      <section class="panel">
        <h2>Not proven yet</h2>
        <p v-if="watch.unproven.length === 0" class="tone-good mb-0">
          ● Every published assignment has returned a score.
        </p>
        <div v-else class="table-wrap">
          <table class="grid-table">
            <thead>
              <tr>
                <th>Proof</th>
                <th>Assignment</th>
                <th>What to do</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="one in watch.unproven" :key="one.id">
                <td><ProofLine :marks="one.proof" /></td>
                <td class="wide">
                  <RouterLink :to="`/courses/${one.course.id}/assignments/${one.id}`">{{ one.title }}</RouterLink>
                  <div class="quiet">{{ one.course.code }} · {{ one.tool.name }}</div>
                </td>
                <td>{{ one.nextAct }}</td>
              </tr>
            </tbody>
          </table>
        </div>
        <p v-if="watch.unprovenCount > watch.unproven.length" class="quiet mt-2 mb-0">
          … and {{ watch.unprovenCount - watch.unproven.length }} more; each course lists its own.
        </p>
      </section>
      <section class="panel">
        <h2>Refused in the last seven days</h2>
        <p v-if="watch.refusals.length === 0" class="tone-good mb-0">● No message was refused.</p>
        <div v-for="one in watch.refusals" :key="`${one.code} ${one.tool?.id}`" class="refusal">
          <div>
            <span class="tone-bad" aria-hidden="true">✕</span> <strong>{{ one.sentence }}</strong>
            {{ links(one.count, 'message') }} from {{ one.tool?.name ?? 'an unknown sender'
            }}<template v-if="one.links > 0"
              >, {{ links(one.links, 'link') }} in {{ links(one.courses, 'course') }}</template
            >
          </div>
          <div class="quiet">
            {{ one.hint }} <RouterLink :to="`/wire/${one.wireEntryId}`">See the last one</RouterLink>,
            <MomentText :at="one.lastAt" relative />
          </div>
        </div>
      </section>
    </div>
    <div class="d-grid gap-3">
      <section class="panel">
        <h2>Scores per hour</h2>
        <HourBars :hours="watch.scoresPerHour" />
      </section>
      <section v-if="hasScoreTrouble" class="panel">
        <h2>Scores</h2>
        <div v-for="one in watch.scores.refused" :key="`${one.code} ${one.tool?.id}`" class="refusal">
          <span class="tone-bad" aria-hidden="true">✕</span> {{ links(one.count, 'score') }} of
          {{ one.tool?.name ?? 'an unknown tool' }} refused today: {{ one.sentence }}
          <RouterLink :to="`/wire/${one.wireEntryId}`">See the last one</RouterLink>
        </div>
        <div v-for="one in watch.scores.unscored" :key="one.assignment.id" class="refusal">
          <span class="tone-look" aria-hidden="true">▲</span> {{ links(one.learners, 'learner') }} worked on
          <RouterLink :to="`/courses/${one.course.id}/gradebook`">{{ one.assignment.title }}</RouterLink>
          ({{ one.course.code }}) and have no score; it was due <MomentText :at="one.dueAt" />
        </div>
        <div v-for="one in watch.scores.silent" :key="one.tool.id + one.course.id" class="refusal">
          <span class="tone-look" aria-hidden="true">▲</span>
          <RouterLink :to="`/tools/${one.tool.slug}`">{{ one.tool.name }}</RouterLink> has gone silent in
          {{ one.course.code }}: entered <MomentText :at="one.lastLaunchAt" />, last score
          <MomentText v-if="one.lastScoreAt" :at="one.lastScoreAt" />
        </div>
        <div v-if="watch.scores.office && watch.scores.office.waiting > 0" class="refusal">
          <span class="tone-look" aria-hidden="true">▲</span> The records office is behind:
          {{ links(watch.scores.office.waiting, 'result') }} wait for more than an hour
        </div>
        <div v-if="watch.scores.office && watch.scores.office.refused > 0" class="refusal">
          <span class="tone-bad" aria-hidden="true">✕</span> The records office refused
          {{ links(watch.scores.office.refused, 'result') }}; each course’s gradebook says why
        </div>
      </section>
      <section v-if="watch.openCases > 0 || watch.waitingWork > 0" class="panel">
        <h2>Learners who wait</h2>
        <p v-if="watch.waitingWork > 0" class="mb-1">
          <span class="tone-look" aria-hidden="true">▲</span>
          <RouterLink to="/waiting-work">{{ pieces(watch.waitingWork) }}</RouterLink> to be graded
        </p>
        <p v-if="watch.openCases > 0" class="mb-0">
          <span class="tone-look" aria-hidden="true">▲</span>
          <RouterLink to="/cases">{{ links(watch.openCases, 'open case') }}</RouterLink> of learners whose score is
          missing
        </p>
      </section>
      <section class="panel">
        <h2>Soundings that did not pass</h2>
        <p v-if="watch.soundings.length === 0" class="quiet mb-0">None. Run one from an assignment’s page.</p>
        <div v-for="one in watch.soundings" :key="one.id" class="refusal">
          <div>
            <StateWord :state="one.verdict ?? one.state" />
            <RouterLink :to="`/soundings/${one.id}`">{{ one.assignment.title }}</RouterLink>
            <span class="quiet">{{ one.course.code }}</span>
          </div>
          <div class="quiet">{{ one.cause }}</div>
        </div>
      </section>
    </div>
  </div>
</template>
