<script setup lang="ts">
import { GLOSSARY } from '@bathyscribe/contract'
import { computed, ref } from 'vue'
import PageHead from '../parts/PageHead.vue'

/** Our words, with what standards and vendors call the same. */
const text = ref('')
const shown = computed(() => {
  const wanted = text.value.trim().toLowerCase()
  return GLOSSARY.map(({ part, entries }) => ({
    part,
    entries: entries.filter((one) =>
      [one.word, one.means, ...(one.standards ?? []), ...(one.also ?? [])].some((word) =>
        word.toLowerCase().includes(wanted),
      ),
    ),
  })).filter(({ entries }) => entries.length > 0)
})
</script>

<template>
  <PageHead title="Glossary"
    ><template #under>Our words, and what standards and vendors call the same</template></PageHead
  >
  <input
    v-model="text"
    class="form-control form-control-sm w-auto mb-3"
    type="search"
    placeholder="Any word of a vendor’s mail"
    aria-label="Search the glossary"
  />
  <p v-if="shown.length === 0" class="panel" role="status">
    No word here contains “{{ text.trim() }}”. Tell the person who runs this service: the glossary can grow.
  </p>
  <section v-for="{ part, entries } in shown" :key="part" class="panel table-wrap mb-3">
    <h2>{{ part }}</h2>
    <table class="grid-table">
      <thead>
        <tr>
          <th>Word</th>
          <th>Meaning</th>
          <th>In the standards</th>
          <th>In vendors’ mails</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in entries" :key="one.word">
          <th scope="row" class="glossary-word">{{ one.word }}</th>
          <td class="wide">{{ one.means }}</td>
          <td>{{ one.standards?.join(', ') ?? '–' }}</td>
          <td>{{ one.also?.join(', ') ?? '–' }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style>
.grid-table th.glossary-word {
  min-width: 10rem;
  vertical-align: top;
  color: inherit;
  font-size: inherit;
}
</style>
