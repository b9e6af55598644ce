<script setup lang="ts">
import type { IntakeAnswer, NewTool } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput, BFormSelect } from 'bootstrap-vue-next'
import { computed, reactive, ref, watch } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call, tell } from '../state/api'
import { plain, SEES_OPTIONS, TARGET_OPTIONS } from '../state/words'
import { useRegistrarCourses } from './registrar-courses'

/** What will be registered, with what is missing asked for, and the one button that does it. */
const {
  read,
  taken,
  wantedIn = null,
} = defineProps<{
  read: IntakeAnswer
  /** What the person took over of what was said beside the values. */
  taken?: IntakeAnswer['beyond'][number]['mightFill'] | undefined
  wantedIn?: string | null
}>()
const emit = defineEmits<{ done: [string] }>()
type Field = IntakeAnswer['recognised'][number]['field']
const value = (field: Field) => read.recognised.find((one) => one.field === field)?.value
const typed = reactive<Partial<Record<Field, string>>>({})
const pair = ref(-1)
const place = reactive({
  course: null as string | null,
  disclosure: 'name' as NonNullable<NewTool['disclosure']>,
  documentTarget: 'frame' as 'frame' | 'window',
})
const secondReason = ref('')
const anyway = ref(false)
const { act, actError, busy } = useActing()
const courseOptions = useRegistrarCourses(
  (id) => (place.course = id),
  () => wantedIn,
)
const scopes = ref<string[]>([])
const placements = ref<NonNullable<NewTool['placements']>>([])
watch(
  () => read,
  (now) => {
    pair.value = -1
    scopes.value = now.scopes.map((one) => one.scope)
    placements.value = []
  },
  { immediate: true },
)
watch(
  () => taken,
  (one) => {
    if (one?.field === 'disclosure') place.disclosure = one.value
    else if (one?.field === 'pickerUrl') typed.pickerUrl = one.value
    else if (one) placements.value = one.value.map((each) => ({ place: each }))
  },
)

// A name is proposed rather than asked for.
const missing = computed(() => read.missing.filter((one) => one.field !== 'name' || read.proposedName === null))
const wrong = computed(() => read.remarks.some((one) => one.verdict === 'fail' && one.code !== 'two_pairs'))
const isSecond = computed(() => actError.value !== undefined && tell(actError.value).code === 'tool.already_registered')
const name = computed(() => typed.name ?? value('name') ?? read.proposedName ?? '')
const ready = computed(
  () =>
    read.version !== null &&
    missing.value.every((one) => (typed[one.field] ?? '').trim() !== '') &&
    (read.pairs.length === 0 || pair.value >= 0) &&
    (!wrong.value || anyway.value),
)

function body(): NewTool {
  const get = (field: Field) => typed[field]?.trim() || value(field)
  const chosen = read.pairs[pair.value]
  const secret = chosen?.sharedSecret ?? get('sharedSecret')
  return {
    name: name.value.trim(),
    version: read.version ?? '1.1',
    description: get('description') ?? '',
    launchUrl: get('launchUrl') ?? null,
    customParameters: read.customParameters,
    ...(read.fetched && { configurationUrl: read.fetched }),
    ...place,
    ...(get('pickerUrl') && { pickerUrl: get('pickerUrl') }),
    ...(placements.value.length > 0 && { placements: placements.value }),
    ...(secret && { sharedSecret: secret }),
    ...((chosen?.consumerKey ?? get('consumerKey')) && { consumerKey: chosen?.consumerKey ?? get('consumerKey') }),
    ...(chosen?.returnsScores === false && { features: [] }),
    ...(chosen && { note: `This key: ${chosen.purpose}` }),
    ...(read.version === '1.3' && {
      initiationUrl: get('initiationUrl'),
      redirectUris: [
        ...read.recognised.filter((one) => one.field === 'redirectUri').map((one) => one.value),
        ...(typed.redirectUri ? [typed.redirectUri.trim()] : []),
      ],
      keysetUrl: get('keysetUrl') ?? null,
      ...(value('publicKey') && { publicKeys: value('publicKey') }),
      scopes: scopes.value,
    }),
    ...(secondReason.value && { secondReason: secondReason.value }),
  } as NewTool
}
async function register() {
  await act(async () => {
    const made = await call('registerTool', { body: body() })
    emit('done', made.slug)
  })
}
</script>

<template>
  <form class="panel d-grid gap-3" @submit.prevent="register">
    <h2 class="mb-0">It will be registered as</h2>
    <ErrorNote :error="actError" />
    <div v-if="read.same.length > 0" class="note-look">
      <div v-for="one in read.same" :key="one.tool.id">
        <span aria-hidden="true">▲</span>
        <RouterLink :to="`/tools/${one.tool.slug}`">{{ one.tool.name }}</RouterLink> has the same
        {{ one.what.join(', ') }}.
      </div>
    </div>
    <BFormGroup v-if="isSecond || secondReason" label="Register it a second time anyway, because" label-for="second"
      ><BFormInput id="second" v-model="secondReason" required maxlength="300"
    /></BFormGroup>
    <p v-if="read.version === null" class="mb-0">
      Neither a key with its secret nor addresses of LTI 1.3 are in it yet. Paste more, or
      <RouterLink to="/tools/register/by-hand">enter everything by hand</RouterLink>.
    </p>
    <template v-else>
      <fieldset v-if="read.pairs.length > 0">
        <legend class="fs-6">Which pair is this registration for?</legend>
        <div v-for="(one, i) in read.pairs" :key="one.consumerKey" class="form-check">
          <input :id="`pair-${i}`" v-model="pair" class="form-check-input" type="radio" name="pair" :value="i" />
          <label class="form-check-label" :for="`pair-${i}`"
            ><span class="mono">{{ one.consumerKey }}</span>
            {{ one.returnsScores === null ? '' : one.returnsScores ? 'returns scores' : 'no scores'
            }}<span class="quiet d-block">{{ one.purpose }}</span></label
          >
        </div>
      </fieldset>
      <BFormGroup v-if="!missing.some((one) => one.field === 'name')" label="Name" label-for="intake-name"
        ><BFormInput
          id="intake-name"
          :model-value="name"
          required
          maxlength="120"
          @update:model-value="typed.name = String($event)"
      /></BFormGroup>
      <BFormGroup
        v-for="one in missing"
        :key="one.field"
        :label="`Missing: ${one.word}`"
        :label-for="`missing-${one.field}`"
        ><BFormInput
          :id="`missing-${one.field}`"
          :model-value="typed[one.field] ?? ''"
          :class="{ mono: one.field !== 'name' }"
          required
          autocomplete="off"
          spellcheck="false"
          @update:model-value="typed[one.field] = String($event)"
      /></BFormGroup>
      <fieldset v-if="read.scopes.length > 0">
        <legend class="fs-6">It may</legend>
        <div v-for="one in read.scopes" :key="one.scope" class="form-check">
          <input :id="one.scope" v-model="scopes" class="form-check-input" type="checkbox" :value="one.scope" />
          <label class="form-check-label" :for="one.scope"
            >{{ one.allows }}<span v-if="one.because === 'usual'" class="quiet"> (usual; it does not say)</span></label
          >
        </div>
      </fieldset>
      <BFormGroup v-if="typed.pickerUrl || value('pickerUrl')" label="Picker address" label-for="intake-picker"
        ><BFormInput
          id="intake-picker"
          class="mono"
          :model-value="typed.pickerUrl ?? value('pickerUrl') ?? ''"
          @update:model-value="typed.pickerUrl = String($event)"
      /></BFormGroup>
      <p v-if="placements.length > 0" class="mb-0">
        Shows at: {{ placements.map((one) => plain(one.place)).join(', ') }}
        <button class="plain" type="button" @click="placements = []">Take that back</button>
      </p>
      <BFormGroup label="For" label-for="intake-course"
        ><BFormSelect id="intake-course" v-model="place.course" :options="courseOptions"
      /></BFormGroup>
      <BFormGroup label="Personal data it sees" label-for="intake-sees"
        ><BFormSelect id="intake-sees" v-model="place.disclosure" :options="SEES_OPTIONS"
      /></BFormGroup>
      <BFormGroup label="Opens in" label-for="intake-target"
        ><BFormSelect id="intake-target" v-model="place.documentTarget" :options="TARGET_OPTIONS"
      /></BFormGroup>
      <slot />
      <div v-if="wrong" class="form-check">
        <input id="anyway" v-model="anyway" class="form-check-input" type="checkbox" />
        <label class="form-check-label" for="anyway">I have read what is wrong with it: register it anyway</label>
      </div>
      <BButton type="submit" variant="primary" :disabled="busy || !ready"
        >Register “{{ name || '…' }}” by LTI {{ read.version }}</BButton
      >
    </template>
  </form>
</template>
