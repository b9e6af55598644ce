<script setup lang="ts">
import { USUAL_POINTS, type Picking } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput, BFormSelect } from 'bootstrap-vue-next'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import AudienceField from '../assignment/AudienceField.vue'
import ContentPicker from '../assignment/ContentPicker.vue'
import { useDraft } from '../assignment/draft'
import NewCategory from '../assignment/NewCategory.vue'
import PastedAddress from '../assignment/PastedAddress.vue'
import PreflightPanel from '../assignment/PreflightPanel.vue'
import ToolSays from '../assignment/ToolSays.vue'
import ResultChanges from '../gradebook/ResultChanges.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import PageHead from '../parts/PageHead.vue'
import PairsField from '../parts/PairsField.vue'
import RichEditor from '../parts/RichEditor.vue'
import { beginSounding } from '../soundings/begin'
import { call, tell, useCall } from '../state/api'
import { toInput } from '../state/moments'
import { useNextPage } from '../state/next-page'
import { currentSession } from '../state/session'
import { TARGET_OPTIONS } from '../state/words'

/** One page for a new assignment, any order of filling in, preflight beside it all the time; with `assignment`, changes one. */
const { course: courseId, assignment: id } = defineProps<{ course: string; assignment?: string }>()
const goOn = useNextPage()
const route = useRoute()
const {
  data: course,
  error: loadError,
  refetch: readCourse,
} = useCall('showCourse', () => ({ params: { course: courseId } }))
const { data: tools } = useCall('listTools', () => ({ query: { course: courseId, limit: 200 } }))
const { data: outline } = useCall('showOutline', () => ({ params: { course: courseId } }))
const { data: existing } = useCall('showAssignment', () => (id ? { params: { assignment: id } } : undefined))

const asked = (name: 'unit' | 'tool') => (typeof route.query[name] === 'string' ? { [name]: route.query[name] } : {})
const zone = computed(() => course.value?.timeZone ?? 'UTC')
const { wanted, recovered, revision, remarks, differences, leadsTo, load, body, fill, startOver, takeOver, forget } =
  useDraft(courseId, id, { ...asked('unit'), ...asked('tool') }, () => zone.value)
const error = ref<unknown>()
const busy = ref(false)
const keepScores = ref(false)
watch(existing, (one) => one && load(one), { immediate: true })
// Where there is one category only, it is that.
watch(
  course,
  (one) => {
    const [only, ...others] = one?.categories ?? []
    if (!id && only && others.length === 0 && !recovered.value) wanted.category ??= only.name
  },
  { immediate: true },
)

/** Who comes here straight from a registration has the tool’s picker before them, and its name to begin with. */
const picksAtOnce = computed(() => !id && route.query['pick'] === '1' && wanted.content === null)
const tool = computed(() => tools.value?.items.find((one) => one.slug === wanted.tool))
watch(tool, (one, before) => {
  if (!one || id || before?.slug === one.slug) return
  fill({ documentTarget: one.documentTarget, ...(picksAtOnce.value && { title: one.name }) })
  if (wanted.instructions === '' || wanted.instructions === before?.learnerText) wanted.instructions = one.learnerText
})
const { data: picked } = useCall('showPicking', () =>
  wanted.content ? { params: { course: courseId, picking: wanted.content.picking } } : undefined,
)
const content = computed(
  () => (wanted.content ? picked.value?.items[wanted.content.item] : existing.value?.content) ?? null,
)

/** What came back stands in the form at once; what was empty is filled, what was typed stays until it is taken over. */
function take(picking: string, items: number[]) {
  wanted.content = { picking, item: items[0] ?? 0 }
}
function arrived(picking: Picking) {
  const item = picking.items[0]
  if (!item) return
  const at = (moment: string | null) => toInput(moment, zone.value)
  fill({
    title: item.title || (item.column?.label ?? ''),
    points: item.column?.points ?? null,
    opensAt: at(item.opensAt),
    dueAt: at(item.dueAt),
    closesAt: at(item.closesAt),
    ...(!id && { documentTarget: item.target }),
  })
}
const canPick = computed(() => tool.value?.features.includes('picker') === true)

async function submit(publish: boolean) {
  busy.value = true
  error.value = undefined
  try {
    const made = id
      ? await call('changeAssignment', {
          params: { assignment: id },
          body: { ...body(), revision: revision.value, keepScores: keepScores.value },
        })
      : await call('createAssignment', {
          params: { course: courseId },
          body: { ...body(), publish, publishUnit: publish && wanted.publishUnit },
        })
    if (!id) forget()
    // What a tool asks at the first launch of a link is best answered now.
    const opens = !id && tool.value?.firstEntry === 'link'
    const sounds = !id && publish && currentSession.value?.platform.soundOnPublish === true
    const then = opens ? `/work?first=1${sounds ? '&sound=next' : ''}` : sounds ? '?sound=now' : ''
    const went = await goOn(`/courses/${courseId}/assignments/${made.id}${then}`)
    // The page of the assignment begins it; for whoever went elsewhere it is begun here.
    if (!went && sounds && !opens) await beginSounding(made.id)
  } catch (reason) {
    error.value = reason
  } finally {
    busy.value = false
  }
}
const hasScores = computed(() => error.value !== undefined && tell(error.value).code === 'assignment.has_scores')
/** What would change for people, said before it is done. */
const { data: recount } = useCall('previewRecount', () =>
  id && hasScores.value
    ? { params: { assignment: id }, body: { points: body().points, counting: wanted.counting } }
    : undefined,
)
const COUNTING_OPTIONS = [
  { value: 'latest', text: 'The latest' },
  { value: 'best', text: 'The best' },
  { value: 'first', text: 'The first' },
  { value: 'mean', text: 'The mean of all' },
]
const toolOptions = computed(() => [
  { value: '', text: 'Choose a tool', disabled: true },
  ...(tools.value?.items ?? [])
    .filter((one) => one.state !== 'retired')
    .map((one) => ({ value: one.slug, text: one.state === 'enabled' ? one.name : `${one.name} (${one.state})` })),
])
const categoryOptions = computed(() => [
  { value: null, text: 'None' },
  ...(course.value?.categories ?? []).map((one) => ({ value: one.name, text: one.name })),
])
/** The chosen unit, when it would hide what is published. */
const hidingUnit = computed(() => outline.value?.units.find((one) => one.id === wanted.unit && !one.published))
async function madeCategory(name: string) {
  await readCourse()
  wanted.category = name
}
const unitOptions = computed(() => [
  { value: null, text: 'None' },
  ...(outline.value?.units ?? []).map((one) => ({
    value: one.id,
    text: one.published ? one.title : `${one.title} (draft)`,
  })),
])
</script>

<template>
  <PageHead
    :title="id ? `Change ${existing?.title ?? 'an assignment'}` : 'New assignment'"
    :back="{
      to: id ? `/courses/${courseId}/assignments/${id}` : `/courses/${courseId}`,
      text: course ? `${course.code} ${course.title}` : 'Course',
    }"
  >
    <RouterLink v-if="!id" class="btn btn-sm btn-outline-primary" :to="`/courses/${courseId}/assignments/many`"
      >Make many at once</RouterLink
    >
  </PageHead>
  <ErrorNote :error="loadError" />
  <p v-if="recovered" class="note-look">
    What you had typed before is here again. <button class="plain" type="button" @click="startOver">Start over</button>
  </p>
  <form v-if="course" class="two" @submit.prevent="submit(false)">
    <div class="panel d-grid gap-3">
      <ErrorNote :error="error" />
      <ResultChanges
        v-if="hasScores && recount"
        :changes="recount.changes"
        :stays="recount.stays + recount.overridden"
      />
      <label v-if="hasScores" class="form-check"
        ><input v-model="keepScores" class="form-check-input" type="checkbox" /> Continue anyway: the scores are kept,
        and recalculated from what was sent.</label
      >
      <BFormGroup label="Title" label-for="title"
        ><BFormInput id="title" v-model="wanted.title" required maxlength="200"
      /></BFormGroup>
      <div class="row g-3">
        <BFormGroup class="col-md-5" label="Tool" label-for="tool"
          ><BFormSelect id="tool" v-model="wanted.tool" :options="toolOptions" required
        /></BFormGroup>
        <BFormGroup class="col-4 col-md-2" label="Points" label-for="points"
          ><BFormInput
            id="points"
            v-model="wanted.points"
            inputmode="decimal"
            :placeholder="wanted.counted ? USUAL_POINTS : '0'"
        /></BFormGroup>
        <BFormGroup class="col-8 col-md-5" label="Category" label-for="category">
          <BFormSelect id="category" v-model="wanted.category" :options="categoryOptions" :disabled="!wanted.counted" />
          <div class="d-flex gap-3 flex-wrap">
            <label class="form-check mb-0"
              ><input v-model="wanted.counted" class="form-check-input" type="checkbox" /> Part of the total</label
            >
            <NewCategory v-if="wanted.counted" :course="courseId" @made="(name) => void madeCategory(name)" />
          </div>
        </BFormGroup>
      </div>

      <section class="content-part" aria-labelledby="content-head">
        <h2 id="content-head" class="h3">Content</h2>
        <p v-if="content" class="mb-2">
          <span class="tone-good">●</span> <strong>{{ content.title || 'Chosen content' }}</strong>
          <span class="quiet"> {{ content.url ?? 'at the tool’s own address' }}</span>
          <span v-if="id && wanted.content" class="d-block tone-look"
            >▲ It replaces what was there; link, column and scores stay.</span
          >
        </p>
        <ContentPicker
          v-if="tool && canPick"
          :course="courseId"
          :tool="tool"
          purpose="assignment"
          :multiple="false"
          :assignment="id"
          :open-at-once="picksAtOnce"
          @take="take"
          @arrived="arrived"
        />
        <p v-else-if="tool?.firstEntry === 'link'" class="quiet mb-2">
          {{ tool.name }} asks at the first launch what this link should open. It opens right after saving.
        </p>
        <p v-else-if="!tool" class="quiet mb-2">
          Choose a tool, or paste an address: its tool is found by it. Is the tool not here yet?
          <RouterLink :to="`/tools/register?course=${course.id}`">Register it</RouterLink>
        </p>
        <ToolSays :zone="zone" :differences="differences" @take="takeOver" />
        <PastedAddress
          v-if="!wanted.content && !(existing?.content && id)"
          v-model="wanted.launchUrl"
          class="mt-2"
          :course="courseId"
          :tool="wanted.tool"
          @tool="wanted.tool = $event"
        />
      </section>

      <RichEditor
        id="instructions"
        v-model="wanted.instructions"
        label="Instructions"
        description="Learners read this above the work."
      />
      <div class="row g-3">
        <BFormGroup class="col-md-4" :label="`Opens (${zone})`" label-for="opens"
          ><BFormInput id="opens" v-model="wanted.opensAt" type="datetime-local"
        /></BFormGroup>
        <BFormGroup class="col-md-4" :label="`Due (${zone})`" label-for="due"
          ><BFormInput id="due" v-model="wanted.dueAt" type="datetime-local"
        /></BFormGroup>
        <BFormGroup class="col-md-4" :label="`Closes (${zone})`" label-for="closes"
          ><BFormInput id="closes" v-model="wanted.closesAt" type="datetime-local"
        /></BFormGroup>
        <BFormGroup class="col-md-4" label="Unit" label-for="unit"
          ><BFormSelect id="unit" v-model="wanted.unit" :options="unitOptions" />
          <label v-if="!id && hidingUnit" class="form-check mb-0"
            ><input v-model="wanted.publishUnit" class="form-check-input" type="checkbox" /> Publish the unit with
            it</label
          ></BFormGroup
        >
        <BFormGroup class="col-md-4" label="Opens in" label-for="target"
          ><BFormSelect id="target" v-model="wanted.documentTarget" :options="TARGET_OPTIONS"
        /></BFormGroup>
        <BFormGroup class="col-md-4" label="Attempts" label-for="attempts"
          ><BFormInput id="attempts" v-model="wanted.attempts" inputmode="numeric" placeholder="unlimited"
        /></BFormGroup>
        <BFormGroup class="col-md-4" label="Which score counts" label-for="counting"
          ><BFormSelect id="counting" v-model="wanted.counting" :options="COUNTING_OPTIONS"
        /></BFormGroup>
        <label class="form-check col-md-8 align-self-end"
          ><input v-model="wanted.released" class="form-check-input" type="checkbox" /> Learners see their results as
          they come</label
        >
      </div>
      <AudienceField v-model="wanted.audience" :course="courseId" />
      <PairsField
        v-if="!wanted.content"
        id="custom"
        v-model="wanted.customParameters"
        label="Custom parameters"
        description="Sent with every launch of this assignment, one a line, such as drill=soundings."
      />
      <div class="d-flex gap-2">
        <template v-if="id"><BButton type="submit" variant="primary" :disabled="busy">Save</BButton></template>
        <template v-else>
          <BButton type="button" variant="primary" :disabled="busy" @click="submit(true)">Make and publish</BButton>
          <BButton type="submit" variant="outline-primary" :disabled="busy">Keep as a draft</BButton>
        </template>
      </div>
    </div>
    <section class="panel preflight-side" aria-live="polite">
      <h2>Preflight</h2>
      <PreflightPanel :remarks="remarks" />
      <p v-if="leadsTo" class="quiet mt-3 mb-0">Leads to <span class="mono">{{ leadsTo }}</span></p>
    </section>
  </form>
</template>

<style>
.content-part {
  border: 1px solid var(--line);
  border-radius: 0.4rem;
  padding: 0.8rem;
}
.content-part h2 {
  font-size: 1rem;
}
.preflight-side {
  position: sticky;
  top: 1rem;
}
</style>
