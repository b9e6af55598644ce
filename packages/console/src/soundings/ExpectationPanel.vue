<script setup lang="ts">
import { BButton } from 'bootstrap-vue-next'
import { computed, reactive, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import { useActing } from '../state/acting'
import { call, useCall } from '../state/api'

/** What every sounding of an assignment is held against: set by hand, or learned from one that passed. */
const { assignment } = defineProps<{ assignment: string }>()
const params = computed(() => ({ params: { assignment } }))
const { data, error } = useCall('showExpectation', params)
const one = computed(() => data.value?.expectation ?? null)
const { act, actError, busy } = useActing()
const changing = ref(false)
const wanted = reactive({ answersWithinMs: '', contains: '', scoreFrom: '', scoreTo: '', membersFrom: '' })
function change() {
  const text = (value: string | number | null | undefined) =>
    value === null || value === undefined ? '' : String(value)
  for (const name of Object.keys(wanted) as (keyof typeof wanted)[]) wanted[name] = text(one.value?.[name])
  changing.value = true
}
async function keep() {
  const { answersWithinMs, contains, scoreFrom, scoreTo, membersFrom } = wanted
  const body = {
    ...(answersWithinMs !== '' && { answersWithinMs: Number(answersWithinMs) }),
    ...(contains !== '' && { contains }),
    ...(scoreFrom !== '' && { scoreFrom }),
    ...(scoreTo !== '' && { scoreTo }),
    ...(membersFrom !== '' && { membersFrom: Number(membersFrom) }),
  }
  if (await act(() => call('setExpectation', { ...params.value, body }))) changing.value = false
}
const learn = () => act(() => call('learnExpectation', params.value))
const remove = () => act(() => call('removeExpectation', params.value))
</script>

<template>
  <section class="panel">
    <h2>Expected of it</h2>
    <ErrorNote :error="error ?? actError" />
    <form v-if="changing" class="expect-fields" @submit.prevent="keep">
      <label
        >Answers within, ms
        <input v-model="wanted.answersWithinMs" class="form-control form-control-sm" inputmode="numeric" />
      </label>
      <label
        >Its page shows the words
        <input v-model="wanted.contains" class="form-control form-control-sm" maxlength="500" />
      </label>
      <label
        >Score from, part of 1
        <input v-model="wanted.scoreFrom" class="form-control form-control-sm" inputmode="decimal" />
      </label>
      <label>to <input v-model="wanted.scoreTo" class="form-control form-control-sm" inputmode="decimal" /></label>
      <label
        >Roster of at least
        <input v-model="wanted.membersFrom" class="form-control form-control-sm" inputmode="numeric" />
      </label>
      <div class="d-flex gap-2 align-self-end">
        <BButton type="submit" size="sm" variant="primary" :disabled="busy">Save</BButton>
        <BButton size="sm" variant="outline-primary" @click="changing = false">Cancel</BButton>
      </div>
    </form>
    <template v-else>
      <dl v-if="one" class="facts">
        <template v-if="one.answersWithinMs !== null"
          ><dt>Answers within</dt>
          <dd>{{ one.answersWithinMs }} ms</dd></template
        >
        <template v-if="one.contains !== null"
          ><dt>Shows</dt>
          <dd>“{{ one.contains }}”</dd></template
        >
        <template v-if="one.scoreFrom !== null || one.scoreTo !== null"
          ><dt>Score</dt>
          <dd>{{ one.scoreFrom ?? '0' }} to {{ one.scoreTo ?? 'any' }} of 1</dd></template
        >
        <template v-if="one.membersFrom !== null"
          ><dt>Roster</dt>
          <dd>at least {{ one.membersFrom }} members</dd></template
        >
        <dt>Set</dt>
        <dd>
          <MomentText :at="one.setAt" /><template v-if="one.by"> by {{ one.by.fullName }}</template
          ><template v-if="one.learnedFrom"
            >, learned from
            <RouterLink :to="`/soundings/${one.learnedFrom}`">a sounding that passed</RouterLink></template
          >
        </dd>
      </dl>
      <p v-else class="quiet">Nothing beyond what every tool should do.</p>
      <div class="d-flex gap-2 flex-wrap">
        <BButton size="sm" variant="outline-primary" :disabled="busy" @click="change">{{
          one ? 'Change' : 'Say what is expected'
        }}</BButton>
        <BButton size="sm" variant="outline-primary" :disabled="busy" @click="learn"
          >Learn from the last passed</BButton
        >
        <BButton v-if="one" size="sm" variant="outline-danger" :disabled="busy" @click="remove">Expect nothing</BButton>
      </div>
    </template>
  </section>
</template>

<style>
.expect-fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(12rem, 1fr));
  gap: 0.6rem 1rem;
}
</style>
