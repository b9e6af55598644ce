<script setup lang="ts">
import { BButton, BFormGroup, BFormInput, BFormSelect, BFormTextarea } from 'bootstrap-vue-next'
import { computed, reactive, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import ErrorNote from '../parts/ErrorNote.vue'
import PageHead from '../parts/PageHead.vue'
import PairsField from '../parts/PairsField.vue'
import { call, tell, useCall } from '../state/api'
import { isAdministrator } from '../state/session'
import { SEES } from '../state/words'

/** Registers a tool by key and secret; with `tool`, changes one. */
const { tool: slug } = defineProps<{ tool?: string }>()
const router = useRouter()
const { data: existing, error: loadError } = useCall('showTool', () => (slug ? { params: { tool: slug } } : undefined))
const { data: courses } = useCall('listCourses', { query: { limit: 200 } })

const wanted = reactive({
  name: '',
  consumerKey: '',
  sharedSecret: '',
  launchUrl: '',
  course: null as string | null,
  disclosure: 'name' as 'opaque' | 'name' | 'email' | 'name_and_email',
  documentTarget: 'frame' as 'frame' | 'window',
  signatureMethod: 'HMAC-SHA1' as 'HMAC-SHA1' | 'HMAC-SHA256',
  customParameters: {} as Record<string, string>,
  soundingParameters: {} as Record<string, string>,
  note: '',
})
const revision = ref(0)
const secondReason = ref('')
const trimmed = reactive({ consumerKey: false, sharedSecret: false, launchUrl: false })
const error = ref<unknown>()
const busy = ref(false)
const isSecond = computed(() => error.value !== undefined && tell(error.value).code === 'tool.already_registered')

watch(
  existing,
  (tool) => {
    if (!tool || revision.value > 0) return
    const {
      name,
      consumerKey,
      disclosure,
      documentTarget,
      signatureMethod,
      customParameters,
      soundingParameters,
      note,
    } = tool
    Object.assign(wanted, {
      name,
      consumerKey,
      disclosure,
      documentTarget,
      signatureMethod,
      customParameters,
      soundingParameters,
      note,
      launchUrl: tool.launchUrl ?? '',
    })
    revision.value = tool.revision
  },
  { immediate: true },
)

const HIDDEN = /^[\s"'\u200b-\u200f\u2060\ufeff\u00ad]+|[\s"'\u200b-\u200f\u2060\ufeff\u00ad]+$/g
/** Every paste is trimmed of what is copied along unseen, and it is said. */
function trim(field: 'consumerKey' | 'sharedSecret' | 'launchUrl') {
  const clean = wanted[field].replace(HIDDEN, '')
  trimmed[field] = clean !== wanted[field]
  wanted[field] = clean
}

async function submit() {
  busy.value = true
  error.value = undefined
  const { course, sharedSecret, launchUrl, ...fields } = wanted
  const common = { ...fields, launchUrl: launchUrl || null }
  try {
    const tool = slug
      ? await call('changeTool', {
          params: { tool: slug },
          body: { revision: revision.value, ...common, ...(sharedSecret && { sharedSecret }) },
        })
      : await call('registerTool', {
          body: { ...common, sharedSecret, course, ...(secondReason.value && { secondReason: secondReason.value }) },
        })
    await router.push(`/tools/${tool.slug}`)
  } catch (reason) {
    error.value = reason
  } finally {
    busy.value = false
  }
}
const courseOptions = computed(() => [
  ...(isAdministrator.value ? [{ value: null, text: 'The whole institution' }] : []),
  ...(courses.value?.items ?? [])
    .filter((one) => isAdministrator.value || one.myRole === 'instructor')
    .map((one) => ({ value: one.id, text: `${one.code} ${one.title}` })),
])
watch(courseOptions, (options) => {
  if (!isAdministrator.value && wanted.course === null) wanted.course = options[0]?.value ?? null
})
const seesOptions = Object.entries(SEES).map(([value, text]) => ({ value, text }))
</script>

<template>
  <PageHead
    :title="slug ? `Change ${existing?.name ?? 'a tool'}` : 'Register a tool'"
    :back="slug ? { to: `/tools/${slug}`, text: existing?.name ?? 'Tool' } : { to: '/tools', text: 'Tools' }"
  />
  <ErrorNote :error="loadError" />
  <form class="two" @submit.prevent="submit">
    <div class="panel d-grid gap-3">
      <ErrorNote :error="error" />
      <BFormGroup v-if="isSecond" label="Register it a second time all the same, because" label-for="second"
        ><BFormInput id="second" v-model="secondReason" required
      /></BFormGroup>
      <BFormGroup
        label="Name"
        label-for="name"
        description="As people here know it; it shows when an assignment is made."
        ><BFormInput id="name" v-model="wanted.name" required maxlength="120"
      /></BFormGroup>
      <BFormGroup label="Consumer key" label-for="key">
        <BFormInput
          id="key"
          v-model="wanted.consumerKey"
          class="mono"
          required
          maxlength="255"
          autocomplete="off"
          spellcheck="false"
          @blur="trim('consumerKey')"
        />
        <div v-if="trimmed.consumerKey" class="tone-look" role="status">
          ▲ Blanks or invisible characters around it were removed.
        </div>
      </BFormGroup>
      <BFormGroup
        label="Shared secret"
        label-for="secret"
        :description="
          slug
            ? 'Leave it empty to keep the present one.'
            : 'Sealed here; shown again only on demand, which is audited.'
        "
      >
        <BFormInput
          id="secret"
          v-model="wanted.sharedSecret"
          class="mono"
          :required="!slug"
          maxlength="255"
          autocomplete="off"
          spellcheck="false"
          @blur="trim('sharedSecret')"
        />
        <div v-if="trimmed.sharedSecret" class="tone-look" role="status">
          ▲ Blanks or invisible characters around it were removed.
        </div>
      </BFormGroup>
      <BFormGroup
        label="Launch address"
        label-for="url"
        description="Where launches are sent. Leave it empty if every assignment has its own."
      >
        <BFormInput
          id="url"
          v-model="wanted.launchUrl"
          class="mono"
          maxlength="2000"
          spellcheck="false"
          placeholder="as the tool’s end shows it"
          @blur="trim('launchUrl')"
        />
        <div v-if="trimmed.launchUrl" class="tone-look" role="status">
          ▲ Blanks or invisible characters around it were removed.
        </div>
      </BFormGroup>
      <div class="d-flex gap-2">
        <BButton type="submit" variant="primary" :disabled="busy">{{
          slug ? 'Keep the changes' : 'Register and enable'
        }}</BButton>
        <RouterLink class="btn btn-outline-primary" :to="slug ? `/tools/${slug}` : '/tools'">Leave it</RouterLink>
      </div>
    </div>
    <div class="panel d-grid gap-3">
      <BFormGroup v-if="!slug" label="For" label-for="course"
        ><BFormSelect id="course" v-model="wanted.course" :options="courseOptions"
      /></BFormGroup>
      <BFormGroup label="The tool sees of people" label-for="sees"
        ><BFormSelect id="sees" v-model="wanted.disclosure" :options="seesOptions"
      /></BFormGroup>
      <BFormGroup label="Opens in" label-for="target"
        ><BFormSelect
          id="target"
          v-model="wanted.documentTarget"
          :options="[
            { value: 'frame', text: 'A frame in the page' },
            { value: 'window', text: 'A window of its own' },
          ]"
      /></BFormGroup>
      <BFormGroup label="Signature method" label-for="method" description="HMAC-SHA1 is what most tools speak."
        ><BFormSelect id="method" v-model="wanted.signatureMethod" :options="['HMAC-SHA1', 'HMAC-SHA256']"
      /></BFormGroup>
      <PairsField
        id="custom"
        v-model="wanted.customParameters"
        label="Custom parameters"
        description="Sent with every launch, one a line."
      />
      <PairsField
        id="sounding"
        v-model="wanted.soundingParameters"
        label="Sounding parameters"
        description="Sent only by soundings, for tools that can score without a person when told so."
      />
      <BFormGroup label="Note" label-for="note"
        ><BFormTextarea
          id="note"
          v-model="wanted.note"
          rows="2"
          placeholder="Where key and secret came from, whom to ask"
      /></BFormGroup>
    </div>
  </form>
</template>
