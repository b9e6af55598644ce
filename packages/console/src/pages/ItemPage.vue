<script setup lang="ts">
import { BButton, BFormGroup, BFormInput, BFormSelect } from 'bootstrap-vue-next'
import { computed, reactive, ref, watch } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import PageHead from '../parts/PageHead.vue'
import PairsField from '../parts/PairsField.vue'
import RichText from '../parts/RichText.vue'
import RichEditor from '../parts/RichEditor.vue'
import ToolStage from '../parts/ToolStage.vue'
import ToolIntoText from '../outline/ToolIntoText.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { useNextPage } from '../state/next-page'
import { isAdministrator } from '../state/session'
import { NO_SCORES, TARGET_OPTIONS } from '../state/words'

/** What stands in a unit, opened: a page of text, or a tool that returns no score. Instructors change it in its place. */
const { course: courseRef, item: id } = defineProps<{ course: string; item: string }>()
const goOn = useNextPage()
const params = computed(() => ({ course: courseRef, unitItem: id }))
const { data: course } = useCall('showCourse', () => ({ params: { course: courseRef } }))
const { data: item, error } = useCall('showUnitItem', () => ({ params: params.value }))
const canChange = computed(() => isAdministrator.value || course.value?.myRole === 'instructor')
const { act, actError, busy } = useActing()
const editing = ref(false)
const turning = ref(false)
const points = ref('')
const editor = ref<{ insertTool: (tool: string, show: 'frame' | 'link' | 'window', title: string) => unknown }>()
const placing = ref(false)
const wanted = reactive({
  title: '',
  body: '',
  address: '',
  documentTarget: 'frame' as 'frame' | 'window',
  launchUrl: '',
  customParameters: {} as Record<string, string>,
})
watch(
  item,
  (one) => {
    if (one && !editing.value)
      Object.assign(wanted, {
        title: one.title,
        body: one.body,
        address: one.address ?? '',
        documentTarget: one.documentTarget ?? 'frame',
        launchUrl: one.launchUrl ?? '',
        customParameters: one.customParameters ?? {},
      })
  },
  { immediate: true },
)

async function keep() {
  if (!item.value) return
  const { title, body, address, documentTarget, launchUrl, customParameters } = wanted
  const own = {
    page: { body },
    address: { address },
    tool_link: { documentTarget, launchUrl: launchUrl || null, customParameters },
    file: {},
    heading: {},
    assignment: {},
  }[item.value.kind]
  const change = { revision: item.value.revision, title, ...own }
  if (await act(() => call('changeUnitItem', { params: params.value, body: change }))) editing.value = false
}
const turn = () =>
  act(async () => {
    const made = await call('turnIntoAssignment', { params: params.value, body: { points: points.value } })
    await goOn(`/courses/${courseRef}/assignments/${made.id}`)
  })
</script>

<template>
  <ErrorNote :error="error ?? actError"
    ><RouterLink :to="`/courses/${courseRef}`">Back to the course</RouterLink></ErrorNote
  >
  <template v-if="item">
    <PageHead
      :title="item.title"
      :back="{ to: `/courses/${courseRef}`, text: `${item.course.code} ${item.course.title}` }"
    >
      <template #under
        ><template v-if="item.tool">{{ item.tool.name }} · returns no score</template
        ><template v-if="!item.published"> · a draft</template></template
      >
      <template v-if="canChange && !editing">
        <BButton
          v-if="item.kind === 'tool_link'"
          size="sm"
          variant="outline-primary"
          :aria-expanded="turning"
          @click="turning = !turning"
          >Make an assignment of it</BButton
        >
        <BButton size="sm" variant="outline-primary" @click="editing = true">Change</BButton>
      </template>
    </PageHead>
    <form v-if="turning" class="panel d-flex gap-2 align-items-end mb-3" @submit.prevent="turn">
      <BFormGroup label="Points" label-for="turn-points"
        ><BFormInput id="turn-points" v-model="points" inputmode="decimal" required
      /></BFormGroup>
      <BButton type="submit" variant="primary" :disabled="busy">Make it a draft assignment</BButton>
      <span class="quiet">It keeps its place and its link; the tool may return scores from then on.</span>
    </form>
    <form v-if="editing" class="panel d-grid gap-3" @submit.prevent="keep">
      <BFormGroup label="Title" label-for="item-title"
        ><BFormInput id="item-title" v-model="wanted.title" maxlength="200" required
      /></BFormGroup>
      <template v-if="item.kind === 'page'">
        <RichEditor id="item-body" ref="editor" v-model="wanted.body" label="Text"
          ><template #bar
            ><button type="button" :aria-expanded="placing" @click="placing = !placing">Tool</button></template
          ></RichEditor
        >
        <ToolIntoText
          v-if="placing"
          :course="courseRef"
          @placed="
            (link, show, title) => {
              editor?.insertTool(link, show, title)
              placing = false
            }
          "
          @close="placing = false"
        />
      </template>
      <BFormGroup v-if="item.kind === 'address'" label="Address" label-for="item-address"
        ><BFormInput id="item-address" v-model.trim="wanted.address" class="mono" required
      /></BFormGroup>
      <template v-if="item.kind === 'tool_link'">
        <div class="row g-3">
          <BFormGroup class="col-md-8" label="Address" label-for="item-url"
            ><BFormInput id="item-url" v-model.trim="wanted.launchUrl" class="mono" placeholder="the tool’s own"
          /></BFormGroup>
          <BFormGroup class="col-md-4" label="Opens in" label-for="item-target"
            ><BFormSelect id="item-target" v-model="wanted.documentTarget" :options="TARGET_OPTIONS"
          /></BFormGroup>
        </div>
        <PairsField
          id="item-custom"
          v-model="wanted.customParameters"
          label="Custom parameters"
          description="Sent with its launches, one a line."
        />
      </template>
      <div class="d-flex gap-2">
        <BButton type="submit" variant="primary" :disabled="busy">Save</BButton>
        <BButton variant="outline-primary" @click="editing = false">Cancel</BButton>
      </div>
    </form>
    <template v-else>
      <section v-if="item.kind === 'page'" class="panel"><RichText :html="item.body" :course="courseRef" /></section>
      <template v-else-if="item.kind === 'tool_link'">
        <p v-if="canChange" class="quiet">{{ NO_SCORES }}</p>
        <ToolStage :link="item.id" :target="item.documentTarget ?? 'frame'" :name="item.tool?.name ?? item.title" />
      </template>
      <p v-else-if="item.kind === 'address'">
        <a :href="item.address ?? ''" target="_blank" rel="noopener noreferrer">{{ item.address }}</a>
      </p>
      <p v-else-if="item.file">
        <a :href="`/api/courses/${courseRef}/files/${item.file.id}/content`" target="_blank">{{ item.file.name }}</a>
      </p>
    </template>
  </template>
</template>
