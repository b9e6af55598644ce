<script setup lang="ts">
import PageHead from '../parts/PageHead.vue'
</script>

<template>
  <PageHead title="There is no such page" />
  <p>The address may be wrong, or what it led to is gone. <RouterLink to="/">Go to the start page.</RouterLink></p>
</template>
