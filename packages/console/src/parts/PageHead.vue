<script setup lang="ts">
/** A page's title with what can be done on it, and the way back up. */
const { title } = defineProps<{ title: string; back?: { to: string; text: string } }>()
</script>

<template>
  <div class="page-head">
    <div>
      <RouterLink v-if="back" class="back" :to="back.to">{{ back.text }}</RouterLink>
      <div class="page-title">
        <h1>{{ title }}</h1>
        <slot name="chip" />
      </div>
      <div v-if="$slots['under']" class="quiet"><slot name="under" /></div>
    </div>
    <div class="page-acts"><slot /></div>
  </div>
</template>

<style>
.page-head {
  display: flex;
  justify-content: space-between;
  align-items: end;
  gap: 1rem;
  flex-wrap: wrap;
  margin-bottom: 1.1rem;
}
.page-head .back {
  font-size: 0.9rem;
}
.page-title {
  display: flex;
  align-items: center;
  gap: 0.8rem;
  flex-wrap: wrap;
}
.page-acts {
  display: flex;
  gap: 0.5rem;
  flex-wrap: wrap;
}
</style>
