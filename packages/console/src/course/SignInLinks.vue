<script setup lang="ts">
import { signInLinksCsv, type Course, type SignInLinksMade } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'
import { saveTable } from '../state/save-file'

/** Links by which people set a password of their own, mailed or handed out as a table: those of a course, or everybody who has none. */
const { course } = defineProps<{ course?: Course }>()
const { act, actError, busy } = useActing()
const again = ref(false)
const mail = ref(false)
const made = ref<SignInLinksMade>()
const toHand = computed(() => made.value?.items.filter((one) => one.link !== null) ?? [])
const make = () =>
  act(async () => {
    made.value = await call('makeSignInLinks', {
      body: { ...(course && { course: course.id }), again: course !== undefined && again.value, mail: mail.value },
    })
  })
const download = () =>
  saveTable(
    `sign-in-links${course ? `-${course.code.replaceAll(' ', '-')}` : ''}.csv`,
    signInLinksCsv({ ...made.value!, items: toHand.value }),
  )
</script>

<template>
  <details class="panel mt-3">
    <summary>Let them sign in</summary>
    <p class="quiet mt-2">
      Makes a link for each who has no password yet, by which they set one of their own. A link works once, for 14 days;
      a newer one ends the older.
    </p>
    <ErrorNote :error="actError" />
    <div class="d-flex gap-3 flex-wrap align-items-center">
      <label class="form-check mb-0"
        ><input v-model="mail" class="form-check-input" type="checkbox" /> Mail them to those who have an address</label
      >
      <label v-if="course" class="form-check mb-0"
        ><input v-model="again" class="form-check-input" type="checkbox" /> Also for those who have a password</label
      >
      <BButton size="sm" variant="primary" :disabled="busy" @click="make">Make the links</BButton>
    </div>
    <div v-if="made" class="mt-3" role="status">
      <p class="note-good mb-2">
        ● {{ made.items.length }} made, good until <MomentText :at="made.expiresAt" /><template
          v-if="made.items.length > toHand.length"
          >; {{ made.items.length - toHand.length }} go out by mail within a minute or two</template
        >. {{ made.passedOver.length }} have a password and were passed over.
        <template v-if="made.more">There are more: make the next ones when these are handed out.</template>
      </p>
      <BButton v-if="toHand.length > 0" size="sm" variant="outline-primary" @click="download"
        >Save {{ toHand.length === 1 ? 'the link' : `the ${toHand.length} links` }} as CSV</BButton
      >
      <span v-if="toHand.length > 0" class="quiet ms-2">They are shown this once.</span>
    </div>
  </details>
</template>
