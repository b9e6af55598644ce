<script setup lang="ts">
import { BButton, BButtonGroup } from 'bootstrap-vue-next'

/** In which language a text to somebody outside is. */
const language = defineModel<'en' | 'de'>({ required: true })
const LANGUAGES = [
  ['en', 'English'],
  ['de', 'Deutsch'],
] as const
</script>

<template>
  <BButtonGroup size="sm" aria-label="Language of the text">
    <BButton
      v-for="[code, name] in LANGUAGES"
      :key="code"
      variant="outline-primary"
      :pressed="language === code"
      :lang="code"
      @click="language = code"
      >{{ name }}</BButton
    >
  </BButtonGroup>
</template>
