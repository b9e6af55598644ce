<script setup lang="ts">
import type { Finding } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import PageHead from '../parts/PageHead.vue'
import StateWord from '../parts/StateWord.vue'
import { call, useCall } from '../state/api'
import { plain, stageWord } from '../state/words'

const { id } = defineProps<{ id: string }>()
const router = useRouter()
const { data: one, error, refetch } = useCall('showSounding', () => ({ params: { id } }))
// Changes come by themselves; this is for when the stream is down.
const timer = setInterval(() => one.value?.state === 'running' && void refetch(), 2000)
onBeforeUnmount(() => clearInterval(timer))
watch(one, (value) => value && value.state !== 'running' && clearInterval(timer))

const stages = computed(() =>
  (one.value?.stages ?? []).map(({ stage, verdict }) => ({
    stage,
    verdict,
    findings: one.value!.findings.filter((finding: Finding) => finding.stage === stage),
  })),
)
const done = computed(() => stages.value.filter((stage) => stage.findings.length > 0).length)
const ms = (value: number) => (value < 10 ? value.toFixed(1) : Math.round(value)) + ' ms'
const actError = ref<unknown>()
async function again() {
  try {
    await router.push(
      `/soundings/${(await call('runSounding', { params: { assignment: one.value!.assignment.id } })).id}`,
    )
  } catch (reason) {
    actError.value = reason
  }
}
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
        <MomentText :at="one.startedAt" relative /><template v-if="one.by">
          · by {{ one.by.fullName }}</template
        ></template
      >
      <BButton v-if="one.state !== 'running'" size="sm" variant="primary" @click="again">Run it again</BButton>
    </PageHead>
    <ErrorNote :error="actError" />
    <div v-if="one.state === 'running'" class="mb-3">
      <label for="progress" class="quiet"
        >Stage {{ Math.min(done + 1, stages.length) }} of {{ stages.length }}. You can leave this page; it runs
        on.</label
      >
      <progress id="progress" class="w-100" :value="done" :max="stages.length"></progress>
    </div>
    <p v-if="one.cause" :class="one.verdict === 'fail' || one.state === 'interrupted' ? 'note-bad' : 'note-look'">
      <strong>{{ one.cause }}</strong>
    </p>
    <p v-else-if="one.verdict === 'pass'" class="note-good">
      <strong>Proven all the way, from the launch to the gradebook.</strong>
    </p>
    <section class="panel">
      <ol class="stages">
        <li v-for="stage in stages" :key="stage.stage">
          <div class="stage-name">
            {{ stageWord(stage.stage) }}
            <div>
              <StateWord
                :state="stage.findings.length > 0 ? stage.verdict : one.state === 'running' ? 'not yet' : 'skipped'"
              />
            </div>
          </div>
          <div>
            <div v-for="(finding, i) in stage.findings" :key="i" class="finding">
              <StateWord :state="finding.verdict" class="finding-verdict" />
              <div>
                {{ finding.statement }}
                <span class="quiet"
                  >{{ plain(finding.check) }}, {{ ms(finding.durationMs)
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
@media (max-width: 48rem) {
  .stages > li {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
