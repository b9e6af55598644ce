<script setup lang="ts">
import type { Tool } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormSelect } from 'bootstrap-vue-next'
import { computed, ref, watch } from 'vue'
import ConfirmAct from '../parts/ConfirmAct.vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'
import { isAdministrator } from '../state/session'
import { PLACE_WORDS, SEES_OPTIONS } from '../state/words'

/** A registration that waits, or a change that a tool proposes: what it asks for, to be granted all or in part, or refused. */
const { tool } = defineProps<{ tool: Tool }>()
const emit = defineEmits<{ approved: [] }>()
const asked = computed(() => tool.proposal?.metadata ?? tool.asked)
const granted = ref<string[]>([])
const disclosure = ref(tool.disclosure)
const params = computed(() => ({ tool: tool.id }))
const { act, actError, busy } = useActing()
watch(asked, (value) => (granted.value = value?.scopes.map((one) => one.scope) ?? []), { immediate: true })

const approve = () =>
  act(async () => {
    await call(tool.proposal ? 'acceptProposal' : 'approveTool', {
      params: params.value,
      body: { revision: tool.revision, ...(asked.value && { scopes: granted.value }), disclosure: disclosure.value },
    })
    // Said while this is still on the page: read again, the registration waits for nothing any longer.
    emit('approved')
  })
const refuse = () =>
  act(() =>
    call(tool.proposal ? 'declineProposal' : 'refuseTool', { params: params.value, body: { revision: tool.revision } }),
  )
</script>

<template>
  <section class="panel mb-3 waiting">
    <h2>
      <span class="tone-look" aria-hidden="true">▲</span>
      {{ tool.proposal ? 'The tool wants a change' : 'This registration waits for approval' }}
    </h2>
    <ErrorNote :error="actError" />
    <div v-if="tool.proposal" class="table-wrap mb-3">
      <table class="grid-table">
        <thead>
          <tr>
            <th>What</th>
            <th>Now</th>
            <th>Proposed</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in tool.proposal.differences" :key="one.what">
            <td>{{ one.what }}</td>
            <td class="lines">{{ one.now || '–' }}</td>
            <td class="lines tone-look">{{ one.proposed || '–' }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <template v-if="asked">
      <fieldset :disabled="!isAdministrator">
        <legend>It asks to be allowed to</legend>
        <p v-if="asked.scopes.length === 0" class="quiet">nothing</p>
        <div v-for="one in asked.scopes" :key="one.scope" class="form-check">
          <input :id="one.scope" v-model="granted" class="form-check-input" type="checkbox" :value="one.scope" />
          <label class="form-check-label" :for="one.scope">{{ one.allows }}</label>
        </div>
        <p v-if="asked.unknownScopes.length > 0" class="quiet">
          It also asks for what is not given here: {{ asked.unknownScopes.join(', ') }}
        </p>
      </fieldset>
      <dl class="facts mt-3">
        <dt>Would like to see of people</dt>
        <dd>{{ asked.claims.join(', ') || 'nothing' }}</dd>
        <dt>Takes messages</dt>
        <dd>
          <div v-for="one in asked.messages" :key="one.type + one.label">
            {{ one.type
            }}<template v-if="one.places.length > 0"
              >, shown at {{ one.places.map((place) => PLACE_WORDS[place]).join(', ') }}</template
            >
          </div>
          <span v-if="asked.messages.length === 0">none</span>
        </dd>
        <dt>Its domain</dt>
        <dd class="mono">{{ asked.domain }}</dd>
        <template v-if="asked.policyUrl || asked.termsUrl">
          <dt>Policy and terms</dt>
          <dd class="mono">{{ [asked.policyUrl, asked.termsUrl].filter(Boolean).join(' ') }}</dd>
        </template>
        <dt>Contacts</dt>
        <dd>{{ asked.contacts.join(', ') || 'none' }}</dd>
      </dl>
    </template>
    <p v-else class="quiet">An instructor registered it for {{ tool.course?.code }}; what they entered is below.</p>
    <template v-if="isAdministrator">
      <BFormGroup v-if="!tool.proposal" label="It may see of people" label-for="approval-sees" class="mb-3"
        ><BFormSelect id="approval-sees" v-model="disclosure" :options="SEES_OPTIONS"
      /></BFormGroup>
      <div class="d-flex gap-2">
        <BButton variant="primary" :disabled="busy" @click="approve">{{
          tool.proposal ? 'Take the change over' : 'Approve and enable'
        }}</BButton>
        <ConfirmAct
          :text="tool.proposal ? 'Leave it as it is' : 'Refuse'"
          :question="
            tool.proposal
              ? 'The registration stays as it is; the tool may propose again.'
              : 'The registration goes out of sight; it can be restored for a while.'
          "
          @done="refuse"
        />
      </div>
    </template>
    <p v-else class="mb-0">An administrator sees on Watch that it waits.</p>
  </section>
</template>

<style>
.waiting {
  border-left: 4px solid var(--brass);
}
.waiting legend {
  font-size: 1rem;
  font-weight: 600;
}
.lines {
  white-space: pre-line;
}
</style>
