<script setup lang="ts">
import { BButton } from 'bootstrap-vue-next'
import { computed, ref, watch } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { count } from '../state/words'
import { caseAddress } from './address'

/** Who never opened an assignment, reminded one by one or all in one act. */
const { assignment, course } = defineProps<{ assignment: string; course: string }>()
const SHOWN = 8
const { data: there } = useCall('showReminders', () => ({ params: { assignment } }))
const { act, actError, busy } = useActing()
const text = ref('')
watch(
  () => there.value?.texts.en,
  (proposed, before) => {
    if (proposed !== undefined && (text.value === '' || text.value === before)) text.value = proposed
  },
  { immediate: true },
)
const all = ref(false)
const shown = computed(() => there.value?.items.slice(0, all.value ? undefined : SHOWN) ?? [])
const done = ref('')
/** @param person one of them; everybody unless given */
const remind = (by: 'mail' | 'page', person?: string) =>
  act(async () => {
    const body = { by, text: text.value, ...(person !== undefined && { people: [person], again: true }) }
    const { reminded, withoutAddress, passedOver } = await call('remindLearners', { params: { assignment }, body })
    done.value = [
      `${count(reminded.length, 'learner')} reminded.`,
      ...(withoutAddress.length > 0 ? [`${withoutAddress.length} without an e-mail address.`] : []),
      ...(passedOver.length > 0 ? [`${passedOver.length} not again: they were reminded less than 20 hours ago.`] : []),
    ].join(' ')
  })
</script>

<template>
  <div v-if="there">
    <ErrorNote :error="actError" />
    <p v-if="done" class="note-good" role="status">{{ done }}</p>
    <template v-if="there.items.length > 0">
      <label class="d-grid gap-1"
        >What they are told
        <textarea v-model="text" class="form-control form-control-sm" rows="3" maxlength="2000" />
      </label>
      <div class="d-flex gap-2 flex-wrap my-2">
        <BButton size="sm" variant="primary" :disabled="busy" @click="remind('page')"
          >Remind all on their pages</BButton
        >
        <BButton v-if="there.mail" size="sm" variant="outline-primary" :disabled="busy" @click="remind('mail')"
          >Remind all by mail</BButton
        >
      </div>
      <div v-for="one in shown" :key="one.person.id" class="refusal d-flex gap-2 align-items-baseline">
        <span class="flex-grow-1"
          ><RouterLink :to="caseAddress(course, assignment, one.person.id)"
            ><bdi>{{ one.person.fullName }}</bdi></RouterLink
          ><span v-if="one.remindedAt" class="quiet"> reminded <MomentText :at="one.remindedAt" relative /></span
        ></span>
        <BButton
          size="sm"
          variant="outline-primary"
          :disabled="busy"
          :aria-label="`Remind ${one.person.fullName}`"
          @click="remind('page', one.person.id)"
          >Remind</BButton
        >
      </div>
      <BButton v-if="there.items.length > SHOWN && !all" size="sm" variant="link" class="px-0" @click="all = true"
        >Show all {{ there.items.length }}</BButton
      >
    </template>
  </div>
</template>
