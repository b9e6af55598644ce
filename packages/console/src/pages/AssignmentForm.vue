<script setup lang="ts">
import type { PreflightRemark } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput, BFormSelect, BFormTextarea } from 'bootstrap-vue-next'
import { computed, reactive, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import ErrorNote from '../parts/ErrorNote.vue'
import PageHead from '../parts/PageHead.vue'
import PairsField from '../parts/PairsField.vue'
import StateWord from '../parts/StateWord.vue'
import { call, tell, useCall } from '../state/api'
import { TARGET_OPTIONS } from '../state/words'

/** One page for a new assignment, any order of filling in, preflight beside it all the time; with `assignment`, changes one. */
const { course: courseId, assignment: id } = defineProps<{ course: string; assignment?: string }>()
const router = useRouter()
const { data: course, error: loadError } = useCall('showCourse', () => ({ params: { course: courseId } }))
const { data: tools } = useCall('listTools', () => ({ query: { course: courseId, limit: 200 } }))
const { data: existing } = useCall('showAssignment', () => (id ? { params: { assignment: id } } : undefined))

const DRAFT_KEY = `bathyscribe-draft-${courseId}`
const wanted = reactive({
  title: '',
  tool: '',
  points: '',
  category: null as string | null,
  instructions: '',
  documentTarget: 'frame' as 'frame' | 'window',
  launchUrl: '',
  customParameters: {} as Record<string, string>,
})
const revision = ref(0)
const remarks = ref<PreflightRemark[]>([])
const leadsTo = ref<string | null>(null)
const error = ref<unknown>()
const busy = ref(false)
const keepScores = ref(false)

// A draft survives a closed browser.
const kept = id ? null : localStorage.getItem(DRAFT_KEY)
const recovered = ref(kept !== null)
if (kept) Object.assign(wanted, JSON.parse(kept))
watch(wanted, (value) => {
  if (!id) localStorage.setItem(DRAFT_KEY, JSON.stringify(value))
})
function startOver() {
  Object.assign(wanted, {
    title: '',
    tool: '',
    points: '',
    category: null,
    instructions: '',
    launchUrl: '',
    customParameters: {},
  })
  localStorage.removeItem(DRAFT_KEY)
  recovered.value = false
}
watch(
  existing,
  (one) => {
    if (!one || revision.value > 0) return
    const { title, points, instructions, documentTarget, customParameters } = one
    Object.assign(wanted, {
      title,
      points,
      instructions,
      documentTarget,
      customParameters,
      tool: one.tool.slug,
      category: one.category?.name ?? null,
      launchUrl: one.launchUrl ?? '',
    })
    revision.value = one.revision
  },
  { immediate: true },
)
watch(
  () => wanted.tool,
  (slug) => {
    const tool = tools.value?.items.find((one) => one.slug === slug)
    if (tool && !id) wanted.documentTarget = tool.documentTarget
  },
)

let timer: ReturnType<typeof setTimeout> | undefined
watch(
  wanted,
  () => {
    clearTimeout(timer)
    timer = setTimeout(() => {
      const points = /^\d{1,6}(\.\d{1,4})?$/.test(wanted.points.trim()) ? wanted.points.trim() : '0'
      void call('preflightAssignment', {
        params: { course: courseId },
        body: { ...wanted, tool: wanted.tool || undefined, title: wanted.title || undefined, points },
      })
        .then((answer) => {
          remarks.value = answer.remarks
          leadsTo.value = answer.effectiveLaunchUrl
        })
        .catch(() => undefined)
    }, 200)
  },
  { immediate: true },
)

async function submit(publish: boolean) {
  busy.value = true
  error.value = undefined
  const fields = { ...wanted, launchUrl: wanted.launchUrl || null }
  try {
    const made = id
      ? await call('changeAssignment', {
          params: { assignment: id },
          body: { ...fields, revision: revision.value, keepScores: keepScores.value },
        })
      : await call('createAssignment', { params: { course: courseId }, body: { ...fields, publish } })
    if (!id) localStorage.removeItem(DRAFT_KEY)
    await router.push(`/courses/${courseId}/assignments/${made.id}`)
  } catch (reason) {
    error.value = reason
  } finally {
    busy.value = false
  }
}
const hasScores = computed(() => error.value !== undefined && tell(error.value).code === 'assignment.has_scores')
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
</script>

<template>
  <PageHead
    :title="id ? `Change ${existing?.title ?? 'an assignment'}` : 'New assignment'"
    :back="{
      to: id ? `/courses/${courseId}/assignments/${id}` : `/courses/${courseId}`,
      text: course ? `${course.code} ${course.title}` : 'Course',
    }"
  />
  <ErrorNote :error="loadError" />
  <p v-if="recovered" class="note-look">
    What you had typed before is here again. <button class="plain" type="button" @click="startOver">Start over</button>
  </p>
  <form v-if="course" class="two" @submit.prevent="submit(false)">
    <div class="panel d-grid gap-3">
      <ErrorNote :error="error" />
      <label v-if="hasScores" class="form-check"
        ><input v-model="keepScores" class="form-check-input" type="checkbox" /> Go on all the same: the scores are
        kept, and computed anew from what was sent.</label
      >
      <BFormGroup label="Title" label-for="title"
        ><BFormInput id="title" v-model="wanted.title" required maxlength="200"
      /></BFormGroup>
      <div class="row g-3">
        <BFormGroup class="col-md-6" label="Tool" label-for="tool"
          ><BFormSelect id="tool" v-model="wanted.tool" :options="toolOptions" required
        /></BFormGroup>
        <BFormGroup class="col-6 col-md-3" label="Points" label-for="points"
          ><BFormInput id="points" v-model="wanted.points" inputmode="decimal" required placeholder="100"
        /></BFormGroup>
        <BFormGroup class="col-6 col-md-3" label="Category" label-for="category"
          ><BFormSelect id="category" v-model="wanted.category" :options="categoryOptions"
        /></BFormGroup>
      </div>
      <BFormGroup label="Instructions" label-for="instructions"
        ><BFormTextarea id="instructions" v-model="wanted.instructions" rows="4"
      /></BFormGroup>
      <div class="row g-3">
        <BFormGroup
          class="col-md-8"
          label="Launch address"
          label-for="url"
          description="Only if this content has an address of its own; else the tool’s is used."
          ><BFormInput id="url" v-model="wanted.launchUrl" class="mono" spellcheck="false" placeholder="the tool’s own"
        /></BFormGroup>
        <BFormGroup class="col-md-4" label="Opens in" label-for="target"
          ><BFormSelect id="target" v-model="wanted.documentTarget" :options="TARGET_OPTIONS"
        /></BFormGroup>
      </div>
      <PairsField
        id="custom"
        v-model="wanted.customParameters"
        label="Custom parameters"
        description="Sent with every launch of this assignment, one a line, such as drill=soundings."
      />
      <div class="d-flex gap-2">
        <template v-if="id"
          ><BButton type="submit" variant="primary" :disabled="busy">Keep the changes</BButton></template
        >
        <template v-else>
          <BButton type="button" variant="primary" :disabled="busy" @click="submit(true)">Make and publish</BButton>
          <BButton type="submit" variant="outline-primary" :disabled="busy">Keep as a draft</BButton>
        </template>
      </div>
    </div>
    <section class="panel" aria-live="polite">
      <h2>Preflight</h2>
      <p v-if="remarks.length === 0" class="tone-good mb-2">● Nothing stands against publishing.</p>
      <div v-for="remark in remarks" :key="remark.rule" class="refusal">
        <div><StateWord :state="remark.verdict" /> {{ remark.statement }}</div>
        <div class="quiet">→ {{ remark.remedy }}</div>
      </div>
      <p v-if="leadsTo" class="quiet mt-3 mb-0">
        Leads to <span class="mono">{{ leadsTo }}</span>
      </p>
    </section>
  </form>
</template>
