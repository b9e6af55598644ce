<script setup lang="ts">
import type { IntakeAnswer } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { onMounted, ref, useTemplateRef } from 'vue'
import { useRoute } from 'vue-router'
import ErrorNote from '../parts/ErrorNote.vue'
import PageHead from '../parts/PageHead.vue'
import { call } from '../state/api'
import { useDebouncedCall } from '../state/debounced-call'
import { useNextPage } from '../state/next-page'
import IntakeConfirm from '../tool/IntakeConfirm.vue'
import IntakeReading from '../tool/IntakeReading.vue'
import NextCourse from '../tool/NextCourse.vue'
import SelfRegistration from '../tool/SelfRegistration.vue'

/** One large box takes whatever the vendor handed over; nothing is registered before it was seen what it will be. */
const goOn = useNextPage()
const route = useRoute()
/** The course that the tool is wanted in: there an assignment is made with it next. */
const next = ref(typeof route.query['course'] === 'string' ? route.query['course'] : null)
const text = ref('')
const box = useTemplateRef<HTMLTextAreaElement>('box')
onMounted(() => box.value?.focus())
const taken = ref<IntakeAnswer['beyond'][number]['mightFill']>()
const reading = (follow: boolean) => call('readIntake', { body: { text: text.value, follow } })
/** Set by pasting, until it was read. */
let pasted = false
// Text is read as one types; an address only when one pastes it or asks, because something is fetched then.
const {
  answer: read,
  error,
  busy,
  now,
} = useDebouncedCall({
  on: text,
  waitMs: 350,
  isEmpty: () => text.value.trim() === '',
  ask: () => {
    const follow = pasted
    pasted = false
    return reading(follow)
  },
})
async function takeFile(event: DragEvent) {
  const file = event.dataTransfer?.files[0]
  if (file) text.value = (await file.text()).slice(0, 200_000)
}
/** @param waits for approval: what comes next is decided on the tool’s page */
const done = (slug: string, waits = false) =>
  goOn(
    next.value === null
      ? `/tools/${slug}`
      : waits
        ? `/tools/${slug}?next=${next.value}`
        : `/courses/${next.value}/assignments/new?tool=${slug}&pick=1`,
  )
</script>

<template>
  <PageHead title="Register a tool" :back="{ to: '/tools', text: 'Tools' }">
    <RouterLink class="btn btn-sm btn-outline-primary" to="/tools/register/by-hand"
      >Enter everything by hand</RouterLink
    >
  </PageHead>
  <div class="two intake">
    <div class="d-grid gap-3">
      <section class="panel">
        <label for="handover" class="form-label"><strong>Paste whatever the vendor gave you</strong></label>
        <textarea
          id="handover"
          ref="box"
          v-model="text"
          class="form-control mono"
          rows="11"
          spellcheck="false"
          autocomplete="off"
          placeholder="The mail with key and secret, lines copied off a page, a configuration address, a registration address, XML or JSON"
          @paste="pasted = true"
          @drop.prevent="takeFile"
          @dragover.prevent
        ></textarea>
        <div class="d-flex gap-2 mt-2 align-items-baseline">
          <BButton
            variant="outline-primary"
            size="sm"
            :disabled="busy || text.trim() === ''"
            @click="now(() => reading(true))"
            >Read it, addresses too</BButton
          >
          <span class="quiet" role="status">{{ busy ? 'Reading …' : 'Nothing is registered by reading.' }}</span>
        </div>
      </section>
      <ErrorNote :error="error" />
      <IntakeReading v-if="read && read.kind !== 'nothing'" :read="read" @take="(one) => (taken = one)" />
    </div>
    <div class="d-grid gap-3">
      <template v-if="read && read.kind !== 'nothing'">
        <SelfRegistration
          v-if="read.registrationAddress"
          :key="read.registrationAddress"
          :address="read.registrationAddress"
          :wanted-in="next"
          @done="(slug) => done(slug, true)"
        >
          <NextCourse v-model="next" />
        </SelfRegistration>
        <IntakeConfirm v-else :read="read" :taken="taken" :wanted-in="next" @done="done">
          <NextCourse v-model="next" />
        </IntakeConfirm>
      </template>
      <section v-else class="panel quiet">
        <h2>What happens then</h2>
        <p>
          You see what was recognised and from where, what is wrong or doubtful in it, and are asked only for what is
          missing.
        </p>
        <p class="mb-0">
          Hidden spaces, swapped values, placeholders and tools that are registered already are found before they do
          harm.
        </p>
      </section>
    </div>
  </div>
</template>
