<script setup lang="ts">
import type { Finding } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { computed } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import PageHead from '../parts/PageHead.vue'
import StateWord from '../parts/StateWord.vue'
import { useFollowedSounding } from '../soundings/followed'
import { useActing } from '../state/acting'
import { call } from '../state/api'
import { useNextPage } from '../state/next-page'
import { ms, plain, stageWord } from '../state/words'

const { id } = defineProps<{ id: string }>()
const goOn = useNextPage()
const { data: one, error } = useFollowedSounding(() => id)

/** The stages in time: each with what it found, when it began and how long it took. */
const stages = computed(() => {
  let after = 0
  return (one.value?.stages ?? []).map(({ stage, verdict }) => {
    const findings = one.value!.findings.filter((finding: Finding) => finding.stage === stage)
    const took = findings[0]?.durationMs ?? null
    const began = after
    after += took ?? 0
    return { stage, verdict, findings, after: began, took }
  })
})
const seconds = (value: number) => `${(value / 1000).toFixed(1)} s`
const pictures = computed(() => {
  const all = new Map<string, { id: string; stage: Finding['stage']; source: string }>()
  for (const { pictureId: id, stage } of one.value?.findings ?? [])
    if (id !== null && !all.has(id))
      all.set(id, { id, stage, source: `/api/soundings/${one.value!.id}/pictures/${id}` })
  return [...all.values()]
})
const done = computed(() => stages.value.filter((stage) => stage.findings.length > 0).length)
/** As this one went; a pilot is asked anew. */
const sameWay = computed(() => ({ depth: one.value!.depth, follower: one.value!.follower }))
const { act, actError, busy } = useActing()
const again = () =>
  act(async () => {
    const params = { assignment: one.value!.assignment.id }
    await goOn(`/soundings/${(await call('runSounding', { params, body: sameWay.value })).id}`)
  })
</script>

<template>
  <ErrorNote :error="error"><RouterLink to="/soundings">All soundings</RouterLink></ErrorNote>
  <template v-if="one">
    <PageHead
      :title="`Sounding of ${one.assignment.title}`"
      :back="{
        to: `/courses/${one.course.id}/assignments/${one.assignment.id}`,
        text: `${one.course.code} · ${one.assignment.title}`,
      }"
    >
      <template #under
        ><StateWord :state="one.verdict ?? one.state" /> · {{ one.tool.name }} ·
        <MomentText :at="one.startedAt" relative /><template v-if="one.by"> · by {{ one.by.fullName }}</template
        ><template v-if="one.follower === 'browser'"> · by browser</template
        ><template v-if="one.pilot"> · as {{ one.pilot.fullName }}, who has agreed</template></template
      >
      <RouterLink
        v-if="one.state === 'done'"
        class="btn btn-sm btn-outline-primary no-print"
        :to="`/soundings/${one.id}/against`"
        >Against the last that passed</RouterLink
      >
      <BButton v-if="one.state !== 'running'" size="sm" variant="primary" :disabled="busy" @click="again"
        >Run it again</BButton
      >
    </PageHead>
    <ErrorNote :error="actError" />
    <div v-if="one.state === 'running'" class="mb-3">
      <label for="progress" class="quiet"
        >Stage {{ Math.min(done + 1, stages.length) }} of {{ stages.length }}. You can leave this page; it runs
        on.</label
      >
      <progress id="progress" class="w-100" :value="done" :max="stages.length"></progress>
    </div>
    <p v-if="one.waiting" class="note-look" role="status">
      <strong>It waits for a person.</strong> {{ one.waiting.for }} It goes on by itself when the score comes, and ends
      at <MomentText :at="one.waiting.until" />.
      <RouterLink
        v-if="!one.pilot"
        :to="`/courses/${one.course.id}/assignments/${one.assignment.id}/work?as=test_learner`"
        target="_blank"
        >Open it as the test learner</RouterLink
      >
    </p>
    <p v-if="one.cause" :class="one.verdict === 'fail' || one.state === 'interrupted' ? 'note-bad' : 'note-look'">
      <strong>{{ one.cause }}</strong>
    </p>
    <p v-else-if="one.verdict === 'pass'" class="note-good">
      <strong>Proven all the way, from the launch to the gradebook.</strong>
    </p>
    <section v-if="pictures.length > 0" class="panel mb-3">
      <h2>What the browser showed</h2>
      <div class="seen">
        <figure v-for="picture in pictures" :key="picture.id">
          <a :href="picture.source" target="_blank"
            ><img
              :src="picture.source"
              :alt="`${stageWord(picture.stage)}: the tool’s page in our browser`"
              width="1280"
              height="800"
          /></a>
          <figcaption>{{ stageWord(picture.stage) }}</figcaption>
        </figure>
      </div>
    </section>
    <section class="panel">
      <ol class="stages">
        <li v-for="stage in stages" :key="stage.stage">
          <div class="stage-name">
            {{ stageWord(stage.stage) }}
            <div>
              <StateWord
                :state="stage.findings.length > 0 ? stage.verdict : one.state === 'running' ? 'not yet' : 'skipped'"
              />
              <span v-if="stage.took !== null" class="quiet">
                after {{ seconds(stage.after) }}, {{ ms(stage.took) }}</span
              >
            </div>
          </div>
          <div>
            <div v-for="(finding, i) in stage.findings" :key="i" class="finding">
              <StateWord :state="finding.verdict" class="finding-verdict" />
              <div>
                {{ finding.statement }}
                <span class="quiet"
                  >{{ plain(finding.check)
                  }}<template v-if="finding.wireEntryId"
                    >,
                    <RouterLink :to="`/wire/${finding.wireEntryId}`"
                      >wire entry {{ finding.wireEntryId }}</RouterLink
                    ></template
                  ></span
                >
                <div v-if="finding.cause && finding.verdict !== 'pass'">
                  <strong>{{ finding.cause }}</strong>
                </div>
                <div v-if="finding.remedy">→ {{ finding.remedy }}</div>
              </div>
            </div>
          </div>
        </li>
      </ol>
    </section>
  </template>
</template>

<style>
.stages {
  list-style: none;
  margin: 0;
  padding: 0;
}
.stages > li {
  display: grid;
  grid-template-columns: 13rem minmax(0, 1fr);
  gap: 1rem;
  padding: 0.8rem 0;
}
.stages > li + li {
  border-top: 1px solid var(--line);
}
.stage-name {
  font-weight: 600;
}
.stage-name div {
  font-weight: 400;
}
.finding {
  display: grid;
  grid-template-columns: 5.5rem minmax(0, 1fr);
  gap: 0.5rem;
  overflow-wrap: anywhere;
}
.seen {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(20rem, 1fr));
  gap: 1rem;
}
.seen figure {
  margin: 0;
  break-inside: avoid;
}
.seen img {
  width: 100%;
  height: auto;
  border: 1px solid var(--line);
}
@media (max-width: 48rem) {
  .stages > li {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
