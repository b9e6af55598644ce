<script setup lang="ts">
import { requestsOnly, type ExplainedMessage } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput, BFormTextarea } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import ExplainedPanel from '../parts/ExplainedPanel.vue'
import PageHead from '../parts/PageHead.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'

/** A message from elsewhere, pasted: what it is, and what is wrong with it. */
const text = ref('')
const address = ref('')
const explained = ref<ExplainedMessage>()
const all = computed(() => (explained.value ? [explained.value, ...explained.value.also] : []))
async function fromFile(file: File | undefined) {
  if (file) text.value = requestsOnly(await file.text())
}
const { act, actError, busy } = useActing()
const explain = () =>
  act(async () => {
    explained.value = undefined
    explained.value = await call('explainMessage', {
      body: { text: requestsOnly(text.value), ...(address.value.trim() && { address: address.value.trim() }) },
    })
  })
</script>

<template>
  <PageHead title="Explain a message" :back="{ to: '/wire', text: 'Wire' }"
    ><template #under
      >Whatever support sends: a base string, token or form post, the source of a page, a curl command, a HAR file,
      lines of a log. It is looked at, not kept.</template
    ></PageHead
  >
  <form class="panel d-grid gap-3 mb-3" @submit.prevent="explain">
    <BFormGroup label="The message" label-for="pasted"
      ><BFormTextarea
        id="pasted"
        v-model="text"
        class="mono"
        rows="6"
        spellcheck="false"
        required
        placeholder="POST&amp;https%3A%2F%2F…    or    oauth_consumer_key=…&amp;oauth_nonce=…    or    eyJ…"
    /></BFormGroup>
    <BFormGroup
      label="Or from a file"
      label-for="pasted-file"
      description="Of a HAR file the requests are read, and nothing of what was answered"
      ><input
        id="pasted-file"
        class="form-control"
        type="file"
        accept=".har,.json,.txt,.log,.html"
        @change="fromFile(($event.target as HTMLInputElement).files?.[0])"
    /></BFormGroup>
    <BFormGroup
      label="Where it was sent"
      label-for="pasted-address"
      description="For a form post whose address is not the registration’s own"
      ><BFormInput id="pasted-address" v-model="address" placeholder="https://" maxlength="2000"
    /></BFormGroup>
    <div><BButton type="submit" variant="primary" :disabled="busy || !text.trim()">Explain it</BButton></div>
  </form>
  <ErrorNote :error="actError" />
  <div v-if="explained" aria-live="polite" class="d-grid gap-3">
    <template v-for="(one, n) in all" :key="n">
      <h2 v-if="all.length > 1" class="mb-0">Message {{ n + 1 }} of {{ all.length }}</h2>
      <ExplainedPanel :explained="one" />
    </template>
  </div>
</template>
