<script setup lang="ts">
import type { IntakeAnswer } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { ref } from 'vue'

/** What was recognised, from which part of the input, and what is wrong or doubtful about it. */
const { read } = defineProps<{ read: IntakeAnswer }>()
type MightFill = NonNullable<IntakeAnswer['beyond'][number]['mightFill']>
const emit = defineEmits<{ take: [MightFill] }>()
const FILLS = { disclosure: 'what it sees', placements: 'where it shows', pickerUrl: 'picker address' }
const shown = ref(false)
const KINDS = { text: 'text', xml: 'XML', json: 'JSON', address: 'an address', nothing: 'nothing' }
</script>

<template>
  <section class="panel" aria-live="polite">
    <h2>Recognised</h2>
    <p class="quiet">
      Read as {{ KINDS[read.kind] }}<template v-if="read.version">, LTI {{ read.version }}</template
      ><template v-if="read.fetched">, from <span class="mono">{{ read.fetched }}</span></template>
    </p>
    <div
      v-for="one in read.remarks"
      :key="one.code + one.statement"
      :class="one.verdict === 'fail' ? 'note-bad mb-2' : 'note-look mb-2'"
    >
      <span aria-hidden="true">{{ one.verdict === 'fail' ? '✕' : '▲' }}</span> {{ one.statement }}
      <div class="quiet">→ {{ one.remedy }}</div>
    </div>
    <div v-if="read.recognised.length > 0" class="table-wrap">
      <table class="grid-table">
        <tbody>
          <tr v-for="one in read.recognised" :key="one.field + one.value">
            <td class="text-nowrap">{{ one.word }}</td>
            <td class="mono">
              <template v-if="one.field === 'sharedSecret'">
                {{ shown ? one.value : `${'•'.repeat(8)} (${one.value.length} characters)` }}
                <button class="plain" type="button" @click="shown = !shown">{{ shown ? 'Hide' : 'Show' }}</button>
              </template>
              <template v-else>{{ one.value }}</template>
            </td>
            <td class="quiet">{{ one.source }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <template v-if="read.beyond.length > 0">
      <h3 class="fs-6 mt-3">It also says, and nothing of it is taken by itself</h3>
      <div class="table-wrap">
        <table class="grid-table">
          <tbody>
            <tr v-for="(one, i) in read.beyond" :key="i">
              <td>{{ one.name }}</td>
              <td class="mono text-break">{{ one.value }}</td>
              <td class="quiet">{{ one.from }}</td>
              <td class="text-end">
                <BButton v-if="one.mightFill" size="sm" variant="outline-primary" @click="emit('take', one.mightFill)"
                  >Take it as {{ FILLS[one.mightFill.field] }}</BButton
                >
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
  </section>
</template>
