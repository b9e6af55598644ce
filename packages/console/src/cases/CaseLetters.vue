<script setup lang="ts">
import type { Case } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput, BTab, BTabs } from 'bootstrap-vue-next'
import { computed, reactive, ref, watch } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import LanguageChoice from '../parts/LanguageChoice.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'
import { useCopying } from '../state/copying'
import { isAdministrator } from '../state/session'

/** Texts to the learner and to the tool's support, to be looked over, changed, copied or sent. */
const { of } = defineProps<{ of: Case }>()
const { act, actError, busy } = useActing()
const { said, copy } = useCopying('Select and copy it by hand')
const to = ref<'learner' | 'support'>('learner')
const language = ref<'en' | 'de'>('en')
const written = reactive({ subject: '', text: '', address: '' })
const done = ref('')
const proposed = computed(() => of.letters[to.value]?.[language.value] ?? null)
/** The proposal as it was filled in; what was typed over it stays, whatever is proposed later. */
let filled = { subject: '', text: '' }
watch(
  [to, language, proposed],
  ([, , one], [toBefore, languageBefore]) => {
    const isTyped = written.subject !== filled.subject || written.text !== filled.text
    if (!one || (isTyped && to.value === toBefore && language.value === languageBefore)) return
    filled = { ...one }
    Object.assign(written, one)
    done.value = ''
  },
  { immediate: true },
)
const send = (by: 'mail' | 'page') =>
  act(async () => {
    const { subject, text, address } = written
    const body = { to: to.value, by, subject, text, ...(to.value === 'support' && { address: address.trim() }) }
    await call('writeInCase', { params: { assignment: of.assignment.id, person: of.person.id }, body })
    done.value = by === 'mail' ? 'It goes out within a minute; the list below says how that went.' : 'It stands at the top of the learner’s pages.'
  }) // oxfmt-ignore
</script>

<template>
  <section class="panel">
    <h2>Write</h2>
    <BTabs small @update:index="(i: number) => (to = i === 0 ? 'learner' : 'support')">
      <BTab title="To the learner" />
      <BTab v-if="of.letters.support" title="To the tool’s support" />
    </BTabs>
    <form class="d-grid gap-2 mt-2" @submit.prevent>
      <LanguageChoice v-model="language" />
      <BFormGroup v-if="to === 'support' && isAdministrator && of.mail.on" label="Address" label-for="letter-address"
        ><BFormInput id="letter-address" v-model="written.address" type="email" size="sm"
      /></BFormGroup>
      <BFormGroup label="Subject" label-for="letter-subject"
        ><BFormInput id="letter-subject" v-model="written.subject" size="sm" maxlength="200"
      /></BFormGroup>
      <label for="letter-text">Text</label>
      <textarea
        id="letter-text"
        v-model="written.text"
        class="form-control form-control-sm"
        rows="9"
        maxlength="8000"
        :lang="language"
      />
      <ErrorNote :error="actError" />
      <div class="d-flex gap-2 flex-wrap">
        <template v-if="to === 'learner'">
          <BButton size="sm" variant="primary" :disabled="busy" @click="send('page')">Show it on their pages</BButton>
          <BButton
            v-if="of.mail.on && of.mail.learner"
            size="sm"
            variant="outline-primary"
            :disabled="busy"
            @click="send('mail')"
            >Mail it to {{ of.mail.learner }}</BButton
          >
        </template>
        <BButton
          v-else-if="isAdministrator && of.mail.on"
          size="sm"
          variant="primary"
          :disabled="busy || written.address.trim() === ''"
          @click="send('mail')"
          >Mail it</BButton
        >
        <BButton size="sm" variant="outline-primary" @click="copy(written.text)">{{ said || 'Copy the text' }}</BButton>
      </div>
      <p v-if="to === 'learner' && of.mail.on && !of.mail.learner" class="quiet mb-0">
        The learner has no e-mail address.
      </p>
      <p v-if="done" class="note-good mb-0" role="status">{{ done }}</p>
    </form>
  </section>
</template>
