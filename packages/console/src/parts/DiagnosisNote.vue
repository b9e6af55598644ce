<script setup lang="ts">
import type { Diagnosis } from '@bathyscribe/contract'
import { ref } from 'vue'
import CopyValue from './CopyValue.vue'
import LanguageChoice from './LanguageChoice.vue'

/** What explains a refused message: the cause, what shows it, what to change at which end, and a text for the tool’s support. */
const { found } = defineProps<{ found: Diagnosis }>()
const language = ref<'en' | 'de'>('en')
const HEADS = {
  proven: 'Proven by computing',
  likely: 'Likely, not proven',
  several: 'More than one cause fits',
  none: 'No known cause fits',
} as const
</script>

<template>
  <section class="panel diagnosis">
    <h2>Diagnosis <span class="quiet">· {{ HEADS[found.certainty] }}</span></h2>
    <p class="lead-cause">{{ found.sentence }}</p>
    <p v-if="found.doubt" class="note-look"><span aria-hidden="true">▲</span> {{ found.doubt }}</p>
    <div v-for="cause in found.causes" :key="cause.code" class="cause">
      <p v-if="found.causes.length > 1" class="mb-1">
        <strong>{{ cause.sentence }}</strong>
      </p>
      <dl class="facts">
        <template v-for="([name, value], i) in cause.evidence" :key="i"
          ><dt>{{ name }}</dt>
          <dd class="mono">{{ value }}</dd></template
        >
      </dl>
      <div v-if="cause.ours"><strong>Here:</strong> {{ cause.ours }}</div>
      <div v-if="cause.theirs"><strong>At the tool’s end:</strong> {{ cause.theirs }}</div>
    </div>
    <details v-if="found.certainty !== 'proven' && found.ruledOut.length > 0" class="quiet mb-2">
      <summary>Tried and ruled out: {{ found.ruledOut.length }}</summary>
      <ul class="ruled-out">
        <li v-for="name in found.ruledOut" :key="name">{{ name }}</li>
      </ul>
    </details>
    <details v-if="found.causes.length > 0" class="mt-2">
      <summary>A text for the tool’s support</summary>
      <LanguageChoice v-model="language" class="mt-2" />
      <CopyValue class="letter" :lang="language" :value="found.letters[language]" label="the text" />
    </details>
    <slot />
  </section>
</template>

<style>
.diagnosis .lead-cause {
  font-size: 1.06rem;
  max-width: 60rem;
}
.diagnosis .cause + .cause {
  border-top: 1px solid var(--line);
  padding-top: 0.7rem;
}
.diagnosis .ruled-out {
  columns: 22rem;
  column-gap: 2rem;
  margin: 0.5rem 0 0;
}
.diagnosis .letter {
  white-space: pre-wrap;
  margin-top: 0.6rem;
  background: var(--rail);
  padding: 0.7rem;
  border-radius: 0.3rem;
}
</style>
