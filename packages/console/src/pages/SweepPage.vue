<script setup lang="ts">
import { changeInWords, type SweepLink } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import MoreRows from '../parts/MoreRows.vue'
import PageHead from '../parts/PageHead.vue'
import StateWord from '../parts/StateWord.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { useNextPage } from '../state/next-page'
import { usePaging } from '../state/paging'
import { saveFile } from '../state/save-file'
import { count, plain } from '../state/words'

/** A sweep: its figures to be read from across the room, what is wrong by cause, then every link. */
const { id } = defineProps<{ id: string }>()
const goOn = useNextPage()
const { data: sweep, error, refetch } = useCall('showSweep', () => ({ params: { id } }))
const paging = usePaging()
/** A sweep over a list of links takes no more of them. */
const MOST_AT_ONCE = 2000
type Only = '' | NonNullable<SweepLink['verdict']> | NonNullable<SweepLink['change']>
const only = ref<Only>('')
const VERDICTS: readonly string[] = ['pass', 'warn', 'fail', 'skipped']
const { data: links } = useCall(
  'listSweepLinks',
  computed(() => ({
    params: { id },
    query: {
      limit: 50,
      cursor: paging.cursor.value,
      ...(only.value && (VERDICTS.includes(only.value) ? { verdict: only.value } : { change: only.value })),
    } as never,
  })),
)
// Changes come by themselves; this is for when the stream is down.
const timer = setInterval(() => sweep.value?.state === 'running' && void refetch(), 2000)
onBeforeUnmount(() => clearInterval(timer))
watch(only, () => paging.reset())

const { act, actError, busy } = useActing()
const move = (state: 'running' | 'paused' | 'stopped') =>
  act(() => call('changeSweep', { params: { id }, body: { state } }).then(refetch))
const again = () =>
  act(async () => {
    const { depth, follower } = sweep.value!
    const assignments: string[] = []
    let cursor: string | undefined
    do {
      const page = await call('listSweepLinks', { params: { id }, query: { verdict: 'fail', limit: 200, cursor } })
      assignments.push(...page.items.map((one) => one.assignment.id))
      cursor = page.next ?? undefined
    } while (cursor !== undefined && assignments.length < MOST_AT_ONCE)
    const body = { assignments: assignments.slice(0, MOST_AT_ONCE), drafts: true, depth, follower }
    await goOn(`/sweeps/${(await call('startSweep', { body })).id}`)
  })
async function save(form: 'csv' | 'junit') {
  await act(async () => {
    const report = await call('showSweepReport', { params: { id }, query: { form } })
    saveFile(report.name, report.mediaType, report.text)
  })
}
const print = () => window.print()
const numbers = computed(() => {
  const one = sweep.value
  if (!one) return []
  return [
    { name: 'fail', value: one.verdicts.fail, word: 'broken', tone: one.verdicts.fail > 0 ? 'bad' : 'quiet' },
    ...(one.before
      ? ([
          {
            name: 'newly_broken',
            value: one.changes.newly_broken,
            word: 'newly broken',
            tone: one.changes.newly_broken > 0 ? 'bad' : 'quiet',
          },
          {
            name: 'fixed',
            value: one.changes.fixed,
            word: 'fixed',
            tone: one.changes.fixed > 0 ? 'good' : 'quiet',
          },
          {
            name: 'slower',
            value: one.changes.slower,
            word: 'slower',
            tone: one.changes.slower > 0 ? 'look' : 'quiet',
          },
        ] as const)
      : []),
    { name: 'warn', value: one.verdicts.warn, word: 'to look at', tone: one.verdicts.warn > 0 ? 'look' : 'quiet' },
    { name: 'pass', value: one.verdicts.pass, word: 'proven', tone: one.verdicts.pass > 0 ? 'good' : 'quiet' },
  ] as { name: Only; value: number; word: string; tone: string }[]
})
const seconds = (ms: number | null) => (ms === null ? '–' : `${(ms / 1000).toFixed(1)} s`)
</script>

<template>
  <ErrorNote :error="error"><RouterLink to="/soundings">All soundings</RouterLink></ErrorNote>
  <template v-if="sweep">
    <PageHead :title="`Sweep: ${sweep.title}`" :back="{ to: '/soundings', text: 'Soundings' }">
      <template #under
        ><StateWord :state="sweep.state" /> · {{ count(sweep.links, 'link') }} ·
        <MomentText :at="sweep.startedAt" /><template v-if="sweep.by"> · by {{ sweep.by.fullName }}</template
        ><template v-if="sweep.before">
          · against <RouterLink :to="`/sweeps/${sweep.before}`">the one before</RouterLink></template
        ></template
      >
      <div class="d-flex gap-2 flex-wrap no-print">
        <BButton
          v-if="sweep.state === 'running'"
          size="sm"
          variant="outline-primary"
          :disabled="busy"
          @click="move('paused')"
          >Pause</BButton
        >
        <BButton v-if="sweep.state === 'paused'" size="sm" variant="primary" :disabled="busy" @click="move('running')"
          >Go on</BButton
        >
        <BButton
          v-if="sweep.state === 'running' || sweep.state === 'paused'"
          size="sm"
          variant="outline-danger"
          :disabled="busy"
          @click="move('stopped')"
          >Stop</BButton
        >
        <BButton v-if="sweep.verdicts.fail > 0" size="sm" variant="primary" :disabled="busy" @click="again"
          >Sound the broken ones again</BButton
        >
        <BButton size="sm" variant="outline-primary" @click="save('csv')">CSV</BButton>
        <BButton size="sm" variant="outline-primary" @click="save('junit')">JUnit XML</BButton>
        <BButton size="sm" variant="outline-primary" @click="print">Print</BButton>
      </div>
    </PageHead>
    <ErrorNote :error="actError" />
    <div v-if="sweep.state === 'running' || sweep.state === 'paused'" class="mb-3 no-print">
      <label for="sweep-progress" class="quiet"
        >{{ sweep.done }} of {{ sweep.links }}. You can leave this page; it runs on.</label
      >
      <progress id="sweep-progress" class="w-100" :value="sweep.done" :max="sweep.links"></progress>
    </div>
    <div class="sweep-numbers mb-3">
      <button
        v-for="one in numbers"
        :key="one.name"
        type="button"
        :class="['panel', 'sweep-number', `tone-${one.tone}`]"
        :aria-pressed="only === one.name"
        @click="only = only === one.name ? '' : one.name"
      >
        <span class="number-value">{{ one.value }}</span>
        <span class="number-word">{{ one.word }}</span>
      </button>
    </div>
    <section v-if="sweep.causes.length > 0" class="panel mb-3">
      <h2>What is wrong, by cause</h2>
      <table class="grid-table">
        <thead>
          <tr>
            <th class="number">Links</th>
            <th>Tool</th>
            <th>Cause</th>
            <th>Example</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(cause, i) in sweep.causes" :key="i">
            <td class="number">
              {{ cause.links }}
              <div v-if="cause.newly > 0" class="tone-bad">{{ cause.newly }} new</div>
            </td>
            <td>
              <RouterLink :to="`/tools/${cause.tool.slug}`">{{ cause.tool.name }}</RouterLink>
            </td>
            <td>
              <strong>{{ cause.cause }}</strong>
              <div v-if="cause.changed" class="quiet">◐ {{ changeInWords(cause.changed, 'the sweep before') }}</div>
            </td>
            <td>
              <RouterLink :to="`/soundings/${cause.soundingId}`">{{ cause.assignment.title }}</RouterLink>
              <span class="quiet"> {{ cause.course.code }}</span>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <p v-else-if="sweep.state === 'done' && sweep.verdicts.fail === 0" class="note-good">
      <strong>Nothing is broken.</strong>
    </p>
    <section v-if="links" class="panel table-wrap">
      <div class="d-flex justify-content-between">
        <h2>{{ only ? `Links: ${plain(only)}` : 'All links' }}</h2>
        <button v-if="only" type="button" class="plain no-print" @click="only = ''">Show all</button>
      </div>
      <p v-if="links.items.length === 0" class="quiet mb-0">None.</p>
      <table v-else class="grid-table">
        <thead>
          <tr>
            <th>Verdict</th>
            <th>Link</th>
            <th>Tool</th>
            <th>Change</th>
            <th class="number">Took</th>
            <th>Cause</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="link in links.items" :key="link.assignment.id">
            <td><StateWord :state="link.verdict ?? link.state" /></td>
            <td>
              <RouterLink v-if="link.soundingId" :to="`/soundings/${link.soundingId}`">{{
                link.assignment.title
              }}</RouterLink
              ><template v-else>{{ link.assignment.title }}</template>
              <span class="quiet"> {{ link.course.code }}</span>
            </td>
            <td>{{ link.tool.name }}</td>
            <td>
              <span
                v-if="link.change && link.change !== 'same' && link.change !== 'first'"
                :class="link.change === 'fixed' ? 'tone-good' : link.change === 'slower' ? 'tone-look' : 'tone-bad'"
                >{{ plain(link.change) }}</span
              ><span v-else class="quiet">{{ link.change ? plain(link.change) : '–' }}</span>
            </td>
            <td class="number">{{ seconds(link.tookMs) }}</td>
            <td>
              {{ link.cause ?? (link.changed ? '' : '–') }}
              <div v-if="link.changed" class="quiet">◐ {{ changeInWords(link.changed, 'the sweep before') }}</div>
            </td>
          </tr>
        </tbody>
      </table>
      <MoreRows :next="links.next" :depth="paging.depth.value" @forward="paging.forward" @back="paging.back" />
    </section>
  </template>
</template>

<style>
.sweep-numbers {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(9rem, 1fr));
  gap: 0.8rem;
}
.sweep-number {
  display: grid;
  text-align: left;
  font: inherit;
}
.sweep-number[aria-pressed='true'] {
  outline: 2px solid var(--sea);
}
.number-value {
  font-size: 3.2rem;
  line-height: 1;
  font-weight: 700;
  font-variant-numeric: tabular-nums;
}
.number-word {
  font-size: 1.05rem;
}
@media print {
  .sweep-number {
    break-inside: avoid;
  }
  .number-value {
    font-size: 1.8rem;
  }
}
</style>
