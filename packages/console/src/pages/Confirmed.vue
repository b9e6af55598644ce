<script setup lang="ts">
import { onMounted } from 'vue'
import { tellConfirmed } from '../state/confirming'

/** Where a window ends in which somebody confirmed who they are: it tells the page that asked, and closes. */
onMounted(() => {
  tellConfirmed()
  window.close()
})
</script>

<template>
  <div class="door">
    <img src="/icon.svg" alt="" width="44" height="44" />
    <h1>Confirmed</h1>
    <p>You can close this window; what you began goes on in the other one.</p>
  </div>
</template>
