<script setup lang="ts">
/** Says beside a title whose eyes one looks through. */
</script>

<template>
  <span class="rehearsal-chip" role="status" title="Nothing done here touches real learners’ results."
    >▲ Rehearsal as the test learner</span
  >
</template>

<style>
.rehearsal-chip {
  background: var(--brass-soft);
  border: 1px solid var(--brass);
  border-radius: 1rem;
  padding: 0.15rem 0.7rem;
  font-size: 0.85rem;
  white-space: nowrap;
}
</style>
