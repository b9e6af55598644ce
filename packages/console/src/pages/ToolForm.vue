<script setup lang="ts">
import type { NewTool } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput, BFormSelect, BFormTextarea } from 'bootstrap-vue-next'
import { computed, reactive, ref, watch } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import PageHead from '../parts/PageHead.vue'
import PairsField from '../parts/PairsField.vue'
import { call, tell, useCall } from '../state/api'
import { useNextPage } from '../state/next-page'
import { trimPasted } from '../state/pasted'
import { NO_SCORES, SEES_OPTIONS, TARGET_OPTIONS } from '../state/words'
import PlacementsField from '../tool/PlacementsField.vue'
import { useRegistrarCourses } from '../tool/registrar-courses'

/** Registers a tool by hand, whichever version it speaks; with `tool`, changes one. */
const { tool: slug } = defineProps<{ tool?: string }>()
const goOn = useNextPage()
const { data: existing, error: loadError } = useCall('showTool', () => (slug ? { params: { tool: slug } } : undefined))

type Placements = NonNullable<NewTool['placements']>
const wanted = reactive({
  version: '1.1' as '1.1' | '1.3',
  name: '',
  description: '',
  initiationUrl: '',
  redirectUris: '',
  keysetUrl: '',
  publicKeys: '',
  returnsScores: true,
  firstEntry: 'none' as 'none' | 'course' | 'link',
  keysPerCourse: false,
  placements: [{ place: 'assignment' }] as Placements,
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
      version: tool.version,
      description: tool.description,
      initiationUrl: tool.initiationUrl ?? '',
      redirectUris: tool.redirectUris.join('\n'),
      keysetUrl: tool.keysetUrl ?? '',
      returnsScores: tool.features.includes('scores'),
      firstEntry: tool.firstEntry,
      keysPerCourse: tool.keysPerCourse,
      placements: tool.placements,
      consumerKey: consumerKey ?? '',
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

/** Every paste is trimmed of what is copied along unseen, and it is said. */
function trim(field: 'consumerKey' | 'sharedSecret' | 'launchUrl') {
  const clean = trimPasted(wanted[field])
  trimmed[field] = clean !== wanted[field]
  wanted[field] = clean
}

/** What is sent: what belongs to the version, and nothing of the other. */
function fields() {
  const { name, description, launchUrl, disclosure, documentTarget, customParameters, soundingParameters, note } =
    wanted
  const { firstEntry, keysPerCourse, placements, consumerKey, signatureMethod } = wanted
  const common = { name, description, launchUrl: launchUrl || null, disclosure, documentTarget, customParameters }
  const also = { soundingParameters, note, firstEntry, placements, ...(consumerKey && { consumerKey }) }
  if (wanted.version === '1.1')
    return {
      ...common,
      ...also,
      signatureMethod,
      keysPerCourse,
      features: wanted.returnsScores ? ['scores' as const] : [],
    }
  const { initiationUrl, keysetUrl, publicKeys } = wanted
  const redirectUris = wanted.redirectUris.split(/\s+/).filter(Boolean)
  return {
    ...common,
    ...also,
    initiationUrl,
    redirectUris,
    keysetUrl: keysetUrl || null,
    ...(publicKeys.trim() && { publicKeys }),
  }
}

async function submit() {
  busy.value = true
  error.value = undefined
  const { course, sharedSecret, version } = wanted
  const common = fields()
  try {
    const tool = slug
      ? await call('changeTool', {
          params: { tool: slug },
          body: { revision: revision.value, ...common, ...(sharedSecret && { sharedSecret }) },
        })
      : await call('registerTool', {
          body: {
            ...common,
            version,
            ...(sharedSecret && { sharedSecret }),
            course,
            ...(secondReason.value && { secondReason: secondReason.value }),
          },
        })
    await goOn(`/tools/${tool.slug}`)
  } catch (reason) {
    error.value = reason
  } finally {
    busy.value = false
  }
}
const courseOptions = useRegistrarCourses((id) => (wanted.course = id))
</script>

<template>
  <PageHead
    :title="slug ? `Change ${existing?.name ?? 'a tool'}` : 'Register a tool by hand'"
    :back="
      slug
        ? { to: `/tools/${slug}`, text: existing?.name ?? 'Tool' }
        : { to: '/tools/register', text: 'Register a tool' }
    "
  />
  <ErrorNote :error="loadError" />
  <form class="two" @submit.prevent="submit">
    <div class="panel d-grid gap-3">
      <ErrorNote :error="error" />
      <BFormGroup v-if="isSecond" label="Register it a second time anyway, because" label-for="second"
        ><BFormInput id="second" v-model="secondReason" required
      /></BFormGroup>
      <BFormGroup
        label="Name"
        label-for="name"
        description="As people here know it; it shows when an assignment is made."
        ><BFormInput id="name" v-model="wanted.name" required maxlength="120"
      /></BFormGroup>
      <BFormGroup v-if="!slug" label="Version" label-for="version"
        ><BFormSelect
          id="version"
          v-model="wanted.version"
          :options="[
            { value: '1.1', text: 'LTI 1.1: key and secret' },
            { value: '1.3', text: 'LTI 1.3: addresses and keysets' },
          ]"
      /></BFormGroup>
      <template v-if="wanted.version === '1.3'">
        <BFormGroup label="Login initiation address" label-for="initiation"
          ><BFormInput id="initiation" v-model.trim="wanted.initiationUrl" class="mono" required maxlength="2000"
        /></BFormGroup>
        <BFormGroup
          label="Redirect addresses"
          label-for="redirects"
          description="One a line, exactly as the tool names them."
          ><BFormTextarea id="redirects" v-model="wanted.redirectUris" class="mono" rows="2" required
        /></BFormGroup>
        <BFormGroup label="Keyset address" label-for="keyset" description="Or paste the tool’s keys below."
          ><BFormInput id="keyset" v-model.trim="wanted.keysetUrl" class="mono" maxlength="2000"
        /></BFormGroup>
        <BFormGroup
          label="Public keys"
          label-for="public-keys"
          description="A keyset as JSON, or keys as PEM, if there is no address."
          ><BFormTextarea id="public-keys" v-model="wanted.publicKeys" class="mono" rows="2" spellcheck="false"
        /></BFormGroup>
      </template>
      <BFormGroup v-if="wanted.version === '1.1'" label="Consumer key" label-for="key">
        <BFormInput
          id="key"
          v-model="wanted.consumerKey"
          class="mono"
          :required="!wanted.keysPerCourse"
          maxlength="255"
          autocomplete="off"
          spellcheck="false"
          @blur="trim('consumerKey')"
        />
        <div v-if="trimmed.consumerKey" class="tone-look" role="status">
          ▲ Spaces or invisible characters around it were removed.
        </div>
      </BFormGroup>
      <BFormGroup
        v-if="wanted.version === '1.1'"
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
          :required="!slug && !wanted.keysPerCourse"
          maxlength="255"
          autocomplete="off"
          spellcheck="false"
          @blur="trim('sharedSecret')"
        />
        <div v-if="trimmed.sharedSecret" class="tone-look" role="status">
          ▲ Spaces or invisible characters around it were removed.
        </div>
      </BFormGroup>
      <BFormGroup
        :label="wanted.version === '1.1' ? 'Launch address' : 'Target link URI'"
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
          ▲ Spaces or invisible characters around it were removed.
        </div>
      </BFormGroup>
      <div class="d-flex gap-2">
        <BButton type="submit" variant="primary" :disabled="busy">{{ slug ? 'Save' : 'Register and enable' }}</BButton>
        <RouterLink class="btn btn-outline-primary" :to="slug ? `/tools/${slug}` : '/tools'">Cancel</RouterLink>
      </div>
    </div>
    <div class="panel d-grid gap-3">
      <BFormGroup v-if="!slug" label="For" label-for="course"
        ><BFormSelect id="course" v-model="wanted.course" :options="courseOptions"
      /></BFormGroup>
      <BFormGroup label="Personal data it sees" label-for="sees"
        ><BFormSelect id="sees" v-model="wanted.disclosure" :options="SEES_OPTIONS"
      /></BFormGroup>
      <BFormGroup label="Opens in" label-for="target"
        ><BFormSelect id="target" v-model="wanted.documentTarget" :options="TARGET_OPTIONS"
      /></BFormGroup>
      <BFormGroup label="What it is for" label-for="description" description="Shown in the catalogue of courses."
        ><BFormInput id="description" v-model="wanted.description" maxlength="300"
      /></BFormGroup>
      <PlacementsField v-model="wanted.placements" />
      <p class="quiet mb-0">{{ NO_SCORES }}</p>
      <BFormGroup label="First entry" label-for="first-entry"
        ><BFormSelect
          id="first-entry"
          v-model="wanted.firstEntry"
          :options="[
            { value: 'none', text: 'Everybody may open it at once' },
            { value: 'course', text: 'An instructor opens it first, once a course' },
            { value: 'link', text: 'An instructor opens each link first' },
          ]"
      /></BFormGroup>
      <div v-if="wanted.version === '1.1'">
        <div class="form-check">
          <input id="returns-scores" v-model="wanted.returnsScores" class="form-check-input" type="checkbox" />
          <label class="form-check-label" for="returns-scores">Its key is one that returns scores</label>
        </div>
        <div class="form-check">
          <input id="keys-per-course" v-model="wanted.keysPerCourse" class="form-check-input" type="checkbox" />
          <label class="form-check-label" for="keys-per-course">It issues key and secret for each course</label>
        </div>
      </div>
      <BFormGroup
        v-if="wanted.version === '1.1'"
        label="Signature method"
        label-for="method"
        description="HMAC-SHA1 is what most tools speak."
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
