<script setup lang="ts">
import type { IntakeAnswer, NewTool } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput, BFormSelect } from 'bootstrap-vue-next'
import { computed, reactive, ref, watch } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call, tell } from '../state/api'
import { SEES_OPTIONS, TARGET_OPTIONS } from '../state/words'
import { useRegistrarCourses } from './registrar-courses'

/** What will be registered, with what is missing asked for, and the one button that does it. */
const { read } = defineProps<{ read: IntakeAnswer }>()
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
const courseOptions = useRegistrarCourses((id) => (place.course = id))
watch(
  () => read,
  () => (pair.value = -1),
)

const missing = computed(() => read.missing)
const wrong = computed(() => read.remarks.some((one) => one.verdict === 'fail' && one.code !== 'two_pairs'))
const isSecond = computed(() => actError.value !== undefined && tell(actError.value).code === 'tool.already_registered')
const name = computed(() => typed.name ?? value('name') ?? '')
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
    name: get('name') ?? '',
    version: read.version ?? '1.1',
    description: get('description') ?? '',
    launchUrl: get('launchUrl') ?? null,
    customParameters: read.customParameters,
    ...(read.fetched && { configurationUrl: read.fetched }),
    ...place,
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
      scopes: read.metadata?.scopes.map((one) => one.scope) ?? [],
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
    <BFormGroup
      v-if="isSecond || secondReason"
      label="Register it a second time all the same, because"
      label-for="second"
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
      <BFormGroup label="For" label-for="intake-course"
        ><BFormSelect id="intake-course" v-model="place.course" :options="courseOptions"
      /></BFormGroup>
      <BFormGroup label="The tool sees of people" label-for="intake-sees"
        ><BFormSelect id="intake-sees" v-model="place.disclosure" :options="SEES_OPTIONS"
      /></BFormGroup>
      <BFormGroup label="Opens in" label-for="intake-target"
        ><BFormSelect id="intake-target" v-model="place.documentTarget" :options="TARGET_OPTIONS"
      /></BFormGroup>
      <div v-if="wrong" class="form-check">
        <input id="anyway" v-model="anyway" class="form-check-input" type="checkbox" />
        <label class="form-check-label" for="anyway">I have read what is wrong with it and want it all the same</label>
      </div>
      <BButton type="submit" variant="primary" :disabled="busy || !ready"
        >Register “{{ name || '…' }}” by LTI {{ read.version }}</BButton
      >
    </template>
  </form>
</template>
