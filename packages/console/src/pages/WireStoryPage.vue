<script setup lang="ts">
import { WireStory } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { computed, ref } from 'vue'
import DiagnosisNote from '../parts/DiagnosisNote.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import PageHead from '../parts/PageHead.vue'
import StateWord from '../parts/StateWord.vue'
import { useCall } from '../state/api'
import { saveFile } from '../state/save-file'
import { count, plain } from '../state/words'

/** The messages of one launch in time, from the log or from a file that somebody sent. */
const { entry: id } = defineProps<{ entry?: string }>()
const { data, error } = useCall('showWireStory', () => (id === undefined ? undefined : { params: { entry: id } }))
const opened = ref<WireStory>()
const unreadable = ref('')
const story = computed(() => opened.value ?? data.value)
const first = computed(() => story.value?.entries[0])
const after = (at: string) => ((Date.parse(at) - Date.parse(first.value!.at)) / 1000).toFixed(1)
const path = (url: string) => {
  try {
    return new URL(url).host + new URL(url).pathname
  } catch {
    return url
  }
}

async function open(event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (!file) return
  unreadable.value = ''
  try {
    opened.value = WireStory.parse(JSON.parse(await file.text()))
  } catch {
    opened.value = undefined
    unreadable.value = `“${file.name}” is no file of a story.`
  }
}
const save = () =>
  saveFile(`wire-story-${story.value!.about}.json`, 'application/json', JSON.stringify(story.value, null, 2))
</script>

<template>
  <PageHead
    :title="id === undefined ? 'A story from a file' : 'The story of a launch'"
    :back="id === undefined ? { to: '/wire', text: 'Wire' } : { to: `/wire/${id}`, text: `Wire entry ${id}` }"
  >
    <template v-if="first" #under
      >{{ first.tool?.name ?? 'unknown tool'
      }}<template v-if="first.assignment"> · {{ first.assignment.title }}</template
      ><template v-if="first.person"> · {{ first.person.fullName }}</template> · <MomentText :at="first.at" /> ·
      {{ count(story!.entries.length, 'message') }}</template
    >
    <BButton v-if="story && id !== undefined" size="sm" variant="primary" @click="save">Save for support</BButton>
  </PageHead>
  <ErrorNote :error="error"><RouterLink to="/wire">All entries</RouterLink></ErrorNote>
  <p v-if="id === undefined" class="panel">
    <label for="story-file">A file that was saved from a story; it is read here and sent nowhere</label>
    <input id="story-file" class="form-control mt-2" type="file" accept="application/json,.json" @change="open" />
  </p>
  <p v-if="unreadable" class="note-bad" role="alert">{{ unreadable }}</p>
  <p v-if="story && first && !['login', 'launch', 'try', 'picker'].includes(first.kind)" class="note-look">
    No launch of this person and link is kept from the hours before: the tool sent this by itself, or the launch has
    aged out of the log.
  </p>
  <ol v-if="story" class="story panel">
    <li v-for="one in story.entries" :key="one.id" :class="{ asked: one.id === story.about }">
      <span class="number quiet">+{{ after(one.at) }} s</span>
      <span class="way" :aria-label="one.direction">{{ one.direction === 'sent' ? '→' : '←' }}</span>
      <div>
        <strong>{{ plain(one.kind) }}</strong> <StateWord :state="one.outcome" />
        <span v-if="!one.certain" class="quiet"> · in the same time; it names neither person nor link</span>
        <div>{{ one.statement }}</div>
        <div class="quiet mono">{{ one.request.method }} {{ path(one.request.url) }}</div>
        <RouterLink v-if="id !== undefined" :to="`/wire/${one.id}`">Wire entry {{ one.id }}</RouterLink>
        <details v-else>
          <summary>The message</summary>
          <pre class="mono body">{{ JSON.stringify({ request: one.request, response: one.response }, null, 2) }}</pre>
        </details>
        <DiagnosisNote v-if="one.explained" class="mt-2" :found="one.explained" />
      </div>
    </li>
  </ol>
</template>

<style>
.story {
  list-style: none;
}
.story > li {
  display: grid;
  grid-template-columns: 4.5rem 1.5rem minmax(0, 1fr);
  gap: 0.6rem;
  padding: 0.7rem 0.4rem;
}
.story > li + li {
  border-top: 1px solid var(--line);
}
.story > li.asked {
  background: var(--sea-soft);
}
.story .way {
  font-size: 1.2rem;
  line-height: 1.2;
  color: var(--sea);
}
</style>
