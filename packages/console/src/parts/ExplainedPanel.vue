<script setup lang="ts">
import type { ExplainedOne } from '@bathyscribe/contract'
import DiagnosisNote from './DiagnosisNote.vue'
import MomentText from './MomentText.vue'

/** One message of a pasted text: what it is, what it was taken for, and what is wrong with it. */
const { explained } = defineProps<{ explained: ExplainedOne }>()
</script>

<template>
  <p
    :class="
      explained.differences.length > 0 || (explained.diagnosis && explained.diagnosis.causes.length > 0)
        ? 'note-bad'
        : explained.kind === 'unreadable' ||
            explained.diagnosis ||
            (explained.kind === 'base_string' && !explained.entry)
          ? 'note-look'
          : 'note-good'
    "
    class="mb-0"
  >
    {{ explained.what }}
    <span v-if="explained.takenFor" class="quiet">Taken for {{ explained.takenFor }}.</span>
    <RouterLink v-if="explained.tool" :to="`/tools/${explained.tool.slug}`">{{ explained.tool.name }}</RouterLink>
    <span v-if="explained.entry">
      ·
      <RouterLink :to="`/wire/${explained.entry.id}`"
        >{{ explained.entry.direction === 'sent' ? 'sent' : 'came' }}
        <MomentText :at="explained.entry.at" /></RouterLink
    ></span>
  </p>
  <DiagnosisNote v-if="explained.diagnosis" :found="explained.diagnosis" />
  <section v-if="explained.differences.length > 0" class="panel">
    <h2>Where it differs from what {{ explained.entry?.direction === 'received' ? 'came' : 'was sent' }}</h2>
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
</template>
