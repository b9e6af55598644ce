<script setup lang="ts">
import { TIED_BY_WORDS, type Identity } from '@bathyscribe/contract'
import ConfirmAct from '../parts/ConfirmAct.vue'
import MomentText from '../parts/MomentText.vue'

/** The accounts at identity providers that one account here is tied to. */
const { items, title, question } = defineProps<{
  items: readonly Identity[]
  title: string
  /** What untying takes with it, by the provider's name. */
  question: (name: string) => string
}>()
const emit = defineEmits<{ untie: [handle: string] }>()
</script>

<template>
  <section class="panel">
    <h2>{{ title }}</h2>
    <ul v-if="items.length > 0" class="list-unstyled d-grid gap-3 mb-0">
      <li v-for="one in items" :key="one.provider.handle">
        <div class="d-flex justify-content-between gap-2">
          <strong>{{ one.provider.name }}</strong>
          <ConfirmAct text="Untie" :question="question(one.provider.name)" @done="emit('untie', one.provider.handle)" />
        </div>
        <div class="quiet">
          <span class="mono">{{ one.subject }}</span> · {{ TIED_BY_WORDS[one.tiedBy] }}, <MomentText :at="one.tiedAt" />
        </div>
        <div class="quiet">
          last used <MomentText :at="one.lastAt" /><template v-if="!one.provider.enabled">
            · <span class="tone-look">▲ switched off</span></template
          ><template v-if="one.gaveAdministrator"> · administrator by its claims</template>
        </div>
      </li>
    </ul>
    <slot />
  </section>
</template>
