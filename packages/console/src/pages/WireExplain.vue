<script setup lang="ts">
import type { ExplainedMessage } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput, BFormTextarea } from 'bootstrap-vue-next'
import { ref } from 'vue'
import DiagnosisNote from '../parts/DiagnosisNote.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import PageHead from '../parts/PageHead.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'

/** A message from elsewhere, pasted: what it is, and what is wrong with it. */
const text = ref('')
const address = ref('')
const explained = ref<ExplainedMessage>()
const { act, actError, busy } = useActing()
const explain = () =>
  act(async () => {
    explained.value = undefined
    explained.value = await call('explainMessage', {
      body: { text: text.value, ...(address.value.trim() && { address: address.value.trim() }) },
    })
  })
</script>

<template>
  <PageHead title="Explain a message" :back="{ to: '/wire', text: 'Wire' }"
    ><template #under
      >A base string, form post or token from a tool’s log or a browser. It is looked at, not kept.</template
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
      label="Where it was sent"
      label-for="pasted-address"
      description="For a form post whose address is not the registration’s own"
      ><BFormInput id="pasted-address" v-model="address" placeholder="https://" maxlength="2000"
    /></BFormGroup>
    <div><BButton type="submit" variant="primary" :disabled="busy || !text.trim()">Explain it</BButton></div>
  </form>
  <ErrorNote :error="actError" />
  <div v-if="explained" aria-live="polite" class="d-grid gap-3">
    <p
      :class="
        explained.differences.length > 0 || (explained.diagnosis && explained.diagnosis.causes.length > 0)
          ? 'note-bad'
          : explained.kind === 'unreadable' || explained.diagnosis
            ? 'note-look'
            : 'note-good'
      "
      class="mb-0"
    >
      {{ explained.what }}
      <RouterLink v-if="explained.tool" :to="`/tools/${explained.tool.slug}`">{{ explained.tool.name }}</RouterLink>
      <span v-if="explained.entry">
        · <RouterLink :to="`/wire/${explained.entry.id}`">ours, sent <MomentText :at="explained.entry.at" /></RouterLink
      ></span>
    </p>
    <DiagnosisNote v-if="explained.diagnosis" :found="explained.diagnosis" />
    <section v-if="explained.differences.length > 0" class="panel">
      <h2>Where it differs from what was sent</h2>
      <table class="grid-table">
        <thead>
          <tr>
            <th>Part</th>
            <th>Theirs</th>
            <th>Ours</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in explained.differences" :key="one.part">
            <td class="mono">{{ one.part }}</td>
            <td class="mono">{{ one.theirs }}</td>
            <td class="mono">{{ one.ours }}</td>
          </tr>
        </tbody>
      </table>
    </section>
    <section v-for="part in explained.parts" :key="part.title" class="panel">
      <h2>{{ part.title }}</h2>
      <dl class="wire-lines">
        <template v-for="([name, value], i) in part.rows" :key="i"
          ><dt class="mono">{{ name }}</dt>
          <dd class="mono">{{ value }}</dd></template
        >
      </dl>
    </section>
  </div>
</template>
