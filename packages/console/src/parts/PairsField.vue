<script setup lang="ts">
import { BFormGroup, BFormTextarea } from 'bootstrap-vue-next'
import { computed, ref, watch } from 'vue'

/** Parameters, one `name=value` a line. What cannot be read is said at once. */
const { id, label, description } = defineProps<{ id: string; label: string; description: string }>()
const pairs = defineModel<Record<string, string>>({ required: true })
const text = ref('')
watch(
  pairs,
  (value) => {
    if (JSON.stringify(value) !== JSON.stringify(read(text.value).pairs))
      text.value = Object.entries(value)
        .map(([name, one]) => `${name}=${one}`)
        .join('\n')
  },
  { immediate: true },
)
function read(given: string) {
  const lines = given
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
  const bad = lines.filter((line) => line.indexOf('=') < 1)
  const good = lines
    .filter((line) => line.indexOf('=') >= 1)
    .map((line) => [line.slice(0, line.indexOf('=')).trim(), line.slice(line.indexOf('=') + 1).trim()])
  return { bad, pairs: Object.fromEntries(good) as Record<string, string> }
}
const bad = computed(() => read(text.value).bad)
watch(text, (value) => (pairs.value = read(value).pairs))
</script>

<template>
  <BFormGroup :label="label" :label-for="id" :description="description">
    <BFormTextarea :id="id" v-model="text" rows="2" class="mono" spellcheck="false" placeholder="name=value" />
    <div v-if="bad.length > 0" class="tone-look" role="status">
      ▲ Not read, because there is no “=” in it: {{ bad.join(', ') }}
    </div>
  </BFormGroup>
</template>
