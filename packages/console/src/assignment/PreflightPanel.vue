<script setup lang="ts">
import type { PreflightRemark } from '@bathyscribe/contract'
import { BButton } from 'bootstrap-vue-next'
import { ref } from 'vue'
import StateWord from '../parts/StateWord.vue'

/** What preflight says: what stops publishing first. A warning can be let stand, with a reason. */
const { remarks, accepts } = defineProps<{ remarks: readonly PreflightRemark[]; accepts?: boolean }>()
const emit = defineEmits<{ accept: [string, string] }>()
const open = ref('')
const reason = ref('')
function accept(rule: string) {
  emit('accept', rule, reason.value)
  open.value = reason.value = ''
}
</script>

<template>
  <p v-if="remarks.length === 0" class="tone-good mb-2">● Nothing prevents publishing.</p>
  <div v-for="remark in remarks" :key="remark.rule" class="refusal">
    <div><StateWord :state="remark.accepted ? 'accepted' : remark.verdict" /> {{ remark.statement }}</div>
    <div v-if="remark.accepted" class="quiet">Accepted by {{ remark.accepted.by }}: “{{ remark.accepted.reason }}”</div>
    <template v-else>
      <div class="quiet">→ {{ remark.remedy }}</div>
      <template v-if="accepts && remark.verdict === 'warn'">
        <form v-if="open === remark.rule" class="d-flex gap-2 mt-1" @submit.prevent="accept(remark.rule)">
          <input
            v-model.trim="reason"
            class="form-control form-control-sm"
            aria-label="Why it is acceptable"
            placeholder="Why it is acceptable"
            required
            minlength="3"
            maxlength="500"
          />
          <BButton type="submit" size="sm" variant="outline-primary">Accept the warning</BButton>
        </form>
        <button
          v-else
          class="plain"
          type="button"
          :aria-label="`Accept “${remark.rule.replaceAll('_', ' ')}”`"
          @click="open = remark.rule"
        >
          Accept the warning …
        </button>
      </template>
    </template>
  </div>
</template>
