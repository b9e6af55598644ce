<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, onBeforeUnmount, useTemplateRef, watch } from 'vue'
import { RouterLink, RouterView, useRouter } from 'vue-router'
import MyNotes from './cases/MyNotes.vue'
import ConfirmPassword from './parts/ConfirmPassword.vue'
import SearchBox from './parts/SearchBox.vue'
import { followChanges, isLive } from './state/live'
import { onPressed } from './state/pressed'
import { useKeyScrolling } from './state/scrollable'
import { currentSession, isAdministrator, signOut, teachesSomething } from './state/session'
import { theme } from './state/theme'

const router = useRouter()
const queries = useQueryClient()
const rail = computed(() => (teachesSomething.value ? ['Watch', 'Tools', 'Courses', 'Soundings', 'Wire'] : ['Courses']))

let stop: (() => void) | undefined
watch(
  () => currentSession.value?.person.id,
  (id) => {
    stop?.()
    stop = id ? followChanges(queries) : undefined
  },
  { immediate: true },
)
onBeforeUnmount(() => stop?.())
useKeyScrolling(useTemplateRef<HTMLElement>('main'))
onPressed('?', () => void (currentSession.value && router.push('/glossary')))

async function leave() {
  const leaveAt = await signOut().catch(() => null)
  queries.clear()
  if (leaveAt === null) await router.push('/sign-in')
  else location.assign(leaveAt)
}
const NEXT_THEME = { auto: 'light', light: 'dark', dark: 'auto' } as const
/** Sweeps are soundings, too. */
const isHere = (word: string) =>
  router.currentRoute.value.path.replace(/^\/sweeps/, '/soundings').startsWith(`/${word.toLowerCase()}`)
</script>

<template>
  <a class="skip" href="#main">Skip to the content</a>
  <div v-if="currentSession" class="frame">
    <nav class="rail" aria-label="Main">
      <RouterLink to="/" class="brand" aria-label="Bathyscribe, start page"
        ><img src="/icon.svg" alt="" width="28" height="28"
      /></RouterLink>
      <RouterLink
        v-for="word in rail"
        :key="word"
        :to="`/${word.toLowerCase()}`"
        class="rail-word"
        :class="{ here: isHere(word) }"
        >{{ word }}</RouterLink
      >
    </nav>
    <div class="sheet">
      <header class="top">
        <SearchBox />
        <span class="house">{{ currentSession.platform.name }}</span>
        <template v-if="isAdministrator">
          <RouterLink to="/people">People</RouterLink>
          <RouterLink to="/audit">Audit</RouterLink>
        </template>
        <button class="plain" type="button" :title="`Colours: ${theme}`" @click="theme = NEXT_THEME[theme]">
          Colours: {{ theme }}
        </button>
        <RouterLink to="/glossary" aria-label="Glossary" title="Glossary ( ? )">?</RouterLink>
        <RouterLink to="/account">{{ currentSession.person.fullName }}</RouterLink>
        <button class="plain" type="button" @click="leave">Sign out</button>
      </header>
      <p v-if="!isLive" class="note-look mx-4 mt-3 mb-0" role="status">
        Changes are not coming in just now; trying again …
      </p>
      <ConfirmPassword />
      <MyNotes />
      <main id="main" ref="main" tabindex="-1"><RouterView :key="$route.path" /></main>
    </div>
  </div>
  <main v-else id="main"><RouterView /></main>
</template>

<style>
.skip {
  position: absolute;
  left: -999px;
}
.skip:focus {
  left: 1rem;
  top: 0.5rem;
  z-index: 20;
  background: var(--card);
  padding: 0.4rem 0.8rem;
}
.frame {
  display: grid;
  grid-template-columns: 7.4rem minmax(0, 1fr);
  min-height: 100vh;
}
.rail {
  background: var(--rail);
  border-right: 1px solid var(--line);
  display: flex;
  flex-direction: column;
  gap: 0.15rem;
  padding: 0.8rem 0.6rem;
  position: sticky;
  top: 0;
  height: 100vh;
}
.brand {
  padding: 0.2rem 0.5rem 0.9rem;
}
.rail-word {
  color: inherit;
  text-decoration: none;
  padding: 0.4rem 0.6rem;
  border-radius: 0.3rem;
}
.rail-word:hover {
  background: var(--sea-soft);
}
.rail-word.here {
  background: var(--sea-soft);
  color: var(--sea);
  font-weight: 600;
}
.top {
  display: flex;
  align-items: center;
  gap: 1.1rem;
  padding: 0.6rem 1.6rem;
  border-bottom: 1px solid var(--line);
}
.house {
  margin-left: auto;
  color: var(--quiet);
}
.sheet > main {
  padding: 1.3rem 1.6rem 4rem;
  max-width: 86rem;
}
#main:focus {
  outline: none;
}
@media (max-width: 48rem) {
  .frame {
    grid-template-columns: minmax(0, 1fr);
    grid-template-rows: auto 1fr;
  }
  .rail {
    flex-direction: row;
    position: static;
    height: auto;
    padding: 0.4rem 0.8rem;
    overflow-x: auto;
    border-right: 0;
    border-bottom: 1px solid var(--line);
  }
  .brand {
    padding: 0.2rem 0.5rem;
  }
  .top {
    padding: 0.5rem 0.9rem;
    flex-wrap: wrap;
  }
  .house {
    display: none;
  }
  .sheet > main {
    padding: 1rem 0.9rem 3rem;
  }
}
</style>
