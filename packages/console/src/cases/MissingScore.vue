<script setup lang="ts">
import type { CallAnswer } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'

/** A learner says that the own score is missing, and is told what is known already. */
const { assignment } = defineProps<{ assignment: string }>()
const { act, actError, busy } = useActing()
const isOpen = ref(false)
const said = ref('')
const heard = ref<CallAnswer<'reportMissingScore'>>()
const send = () =>
  act(async () => {
    heard.value = await call('reportMissingScore', { params: { assignment }, body: { said: said.value } })
  })
</script>

<template>
  <section class="mb-3">
    <div v-if="heard" class="note-good" role="status">
      <p class="mb-1">{{ heard.sentence }}</p>
      <p class="quiet mb-0">
        Your instructors know that you miss your score, since <MomentText :at="heard.since" />. If they write to you, it
        stands at the top of your pages.
      </p>
    </div>
    <template v-else>
      <BButton v-if="!isOpen" size="sm" variant="link" class="px-0" @click="isOpen = true">My score is missing</BButton>
      <form v-else class="panel d-grid gap-2" @submit.prevent="send">
        <label for="missing-said">What did you do, and when? What does the tool show you?</label>
        <textarea id="missing-said" v-model="said" class="form-control" rows="3" maxlength="2000" />
        <ErrorNote :error="actError" />
        <div class="d-flex gap-2">
          <BButton type="submit" size="sm" variant="primary" :disabled="busy">Tell my instructors</BButton>
          <BButton size="sm" variant="outline-primary" @click="isOpen = false">Cancel</BButton>
        </div>
      </form>
    </template>
  </section>
</template>
