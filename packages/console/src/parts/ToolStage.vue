<script setup lang="ts">
import { ref } from 'vue'

/** A tool in a frame that can fill the window, or behind a button that opens a window. */
const { link, target, name, query, page } = defineProps<{
  /** Identifier of the assignment, menu entry, unit item or picking. */
  link: string
  target: 'frame' | 'window'
  name: string
  /** As what it is opened, such as `as=test_learner`. */
  query?: string
  /** Address of the framed page when it is not that of a launch. */
  page?: string
  low?: boolean
}>()
// Our own page around the tool’s frame gets these, and hands on to the tool’s origins what the registration lets them use; the browser asks the person.
const HANDED_ON = 'autoplay; camera; clipboard-write; display-capture; fullscreen; microphone; picture-in-picture'
const fills = ref(false)
const opened = ref(false)
</script>

<template>
  <div v-if="target === 'frame'" class="stage-frame" :class="{ fills, low }" @keydown.esc="fills = false">
    <div class="stage-bar">
      <span>{{ name }}</span
      ><button class="plain" type="button" @click="fills = !fills">
        {{ fills ? 'Back to the page' : 'Fill the window' }}
      </button>
    </div>
    <iframe :src="page ?? `/lti/stage/${link}${query ? `?${query}` : ''}`" :title="name" :allow="HANDED_ON"></iframe>
  </div>
  <div v-else>
    <a
      class="btn btn-primary"
      :href="`/lti/launch/${link}?target=window${query ? `&${query}` : ''}`"
      target="_blank"
      rel="noopener"
      @click="opened = true"
      >Open {{ name }} in a window</a
    >
    <p v-if="opened" class="quiet mt-3"><slot name="opened">It is open in another window.</slot></p>
  </div>
</template>

<style>
.stage-frame.fills {
  position: fixed;
  inset: 0;
  z-index: 1000;
  height: auto;
  border-radius: 0;
}
.stage-frame.low {
  height: 26rem;
}
.stage-bar {
  display: flex;
  justify-content: space-between;
  padding: 0.3rem 0.8rem;
  border-bottom: 1px solid var(--line);
}
</style>
