<script setup lang="ts">
import { BButton, BDropdownItemButton, BModal } from 'bootstrap-vue-next'
import { ref } from 'vue'

/** An act that takes something with it: says what, then asks once. `item`: it stands in a menu. */
const { text, question, disabled, item } = defineProps<{
  text: string
  question: string
  disabled?: boolean
  item?: boolean
}>()
const emit = defineEmits<{ done: [] }>()
const open = ref(false)
</script>

<template>
  <BDropdownItemButton v-if="item" variant="danger" :disabled="disabled" @click="open = true">{{
    text
  }}</BDropdownItemButton>
  <BButton v-else size="sm" variant="outline-danger" :disabled="disabled" @click="open = true">{{ text }}</BButton>
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
