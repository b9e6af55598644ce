<script setup lang="ts">
import { BButton, BModal } from 'bootstrap-vue-next'
import { ref } from 'vue'

/** An act that takes something with it: says what, then asks once. */
const { text, question, disabled } = defineProps<{ text: string; question: string; disabled?: boolean }>()
const emit = defineEmits<{ done: [] }>()
const open = ref(false)
</script>

<template>
  <BButton size="sm" variant="outline-danger" :disabled="disabled" @click="open = true">{{ text }}</BButton>
  <BModal
    v-model="open"
    :title="`${text}?`"
    :ok-title="text"
    ok-variant="danger"
    cancel-title="Cancel"
    @ok="emit('done')"
    >{{ question }}</BModal
  >
</template>
