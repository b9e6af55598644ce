<script setup lang="ts">
/** Says all over the page whose eyes one looks through, and leads out. */
defineProps<{ out: string }>()
</script>

<template>
  <p class="note-look d-flex gap-3 flex-wrap rehearsal-band" role="status">
    <span>You rehearse as the course’s test learner. Nothing done here touches real learners’ numbers.</span>
    <span class="ms-auto d-flex gap-3"><slot /><RouterLink :to="out">Leave the rehearsal</RouterLink></span>
  </p>
</template>

<style>
.rehearsal-band {
  position: sticky;
  top: 0;
  z-index: 5;
}
</style>
