<script setup lang="ts">
import type { Invitation } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput, BFormSelect } from 'bootstrap-vue-next'
import { onBeforeUnmount, ref, watch } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'
import { useRegistrarCourses } from './registrar-courses'

/** A tool that registers itself: its page is opened in a window, which closes by the tool's own message; then it waits for approval. */
const { address, wantedIn = null } = defineProps<{ address: string; wantedIn?: string | null }>()
const emit = defineEmits<{ done: [string] }>()
const course = ref<string | null>(null)
const courseOptions = useRegistrarCourses(
  (id) => (course.value = id),
  () => wantedIn,
)
const name = ref('')
const secondReason = ref('')
const { act, actError, busy } = useActing()
const invitation = ref<Invitation>()
const { data: state, refetch } = useCall('showInvitation', () =>
  invitation.value ? { params: { id: invitation.value.id } } : undefined,
)
let opened: Window | null = null
const blocked = ref(false)
const LISTEN_AFTER_MS = 600_000
const origin = new URL(address).origin

async function begin() {
  // Opened before anything is waited for: browsers let a click open a window, but not what comes after an answer.
  opened = window.open('', 'bathyscribe-registration', 'popup,width=760,height=680')
  blocked.value = opened === null
  const invited = await act(
    async () =>
      (invitation.value = await call('inviteTool', {
        body: {
          address,
          course: course.value,
          ...(name.value.trim() && { name: name.value }),
          ...(secondReason.value.trim() && { secondReason: secondReason.value }),
        },
      })),
  )
  if (invited && opened && invitation.value) opened.location.href = invitation.value.openAt
  else if (!invited) opened?.close()
}
function hear(event: MessageEvent<unknown>) {
  const data = event.data as { subject?: unknown } | null
  if (event.origin !== origin || data?.subject !== 'org.imsglobal.lti.close') return
  opened?.close()
  removeEventListener('message', hear)
  void refetch().catch(() => undefined)
}
addEventListener('message', hear)
// The page goes on as soon as the tool is registered, often before its window says that it may be closed.
onBeforeUnmount(() => setTimeout(() => removeEventListener('message', hear), LISTEN_AFTER_MS))
watch(
  () => state.value?.tool,
  (tool) => {
    if (tool) emit('done', tool.slug)
  },
)
</script>

<template>
  <section class="panel d-grid gap-3">
    <h2 class="mb-0">This tool registers itself</h2>
    <ErrorNote :error="actError" />
    <p class="mb-0">
      At <span class="mono">{{ origin }}</span> it is told who we are, and describes itself. It then waits: you see what
      it asks for, and approve all of it, a part, or nothing.
    </p>
    <BFormGroup label="For" label-for="self-course"
      ><BFormSelect id="self-course" v-model="course" :options="courseOptions"
    /></BFormGroup>
    <BFormGroup label="Called" label-for="self-name" description="As it calls itself when empty."
      ><BFormInput id="self-name" v-model="name" maxlength="120"
    /></BFormGroup>
    <slot />
    <template v-if="state?.registeredAlready">
      <p class="note-bad mb-0" role="alert">
        ✕ It is registered already<template v-if="state.sameAs"
          >, as <RouterLink :to="`/tools/${state.sameAs.slug}`">{{ state.sameAs.name }}</RouterLink></template
        >. A tool that registers twice answers under its newer client ID for both.
      </p>
      <BFormGroup label="Register it a second time anyway, because" label-for="self-second"
        ><BFormInput id="self-second" v-model="secondReason" maxlength="300"
      /></BFormGroup>
    </template>
    <BButton
      variant="primary"
      :disabled="busy || (Boolean(state?.registeredAlready) && !secondReason.trim())"
      @click="begin"
      >Let it register</BButton
    >
    <p v-if="invitation && !state?.tool && !state?.registeredAlready" class="note-look mb-0" role="status">
      <template v-if="blocked"
        >Your browser opened no window.
        <a :href="invitation.openAt" target="bathyscribe-registration">Open the tool’s page</a></template
      >
      <template v-else>Do in the tool’s window what it asks for. This page goes on by itself.</template>
    </p>
  </section>
</template>
