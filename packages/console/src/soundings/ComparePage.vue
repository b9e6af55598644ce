<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import ErrorNote from '../parts/ErrorNote.vue'
import MomentText from '../parts/MomentText.vue'
import PageHead from '../parts/PageHead.vue'
import StateWord from '../parts/StateWord.vue'
import { useCall } from '../state/api'
import { shortMoment } from '../state/moments'
import { ms, plain, stageWord } from '../state/words'

/** Two soundings of one assignment side by side, check by check; what is the same is left out until asked for. */
const { id, earlier } = defineProps<{ id: string; earlier?: string }>()
const router = useRouter()
const all = ref(false)
const { data: both, error } = useCall('compareSoundings', () => ({
  params: { id },
  query: earlier ? { with: earlier } : {},
}))
const { data: others } = useCall('listSoundings', () =>
  both.value ? { query: { assignment: both.value.later.assignment.id, limit: 50 } } : undefined,
)
const rows = computed(() => both.value?.checks.filter((one) => all.value || one.change !== 'same') ?? [])
const same = computed(() => both.value?.checks.filter((one) => one.change === 'same').length ?? 0)
const TONES: Record<string, string> = { better: 'tone-good', worse: 'tone-bad', same: 'quiet' }
const against = (event: Event) => router.push(`/soundings/${id}/against/${(event.target as HTMLSelectElement).value}`)
</script>

<template>
  <ErrorNote :error="error"><RouterLink :to="`/soundings/${id}`">The sounding</RouterLink></ErrorNote>
  <template v-if="both">
    <PageHead
      :title="`Two soundings of ${both.later.assignment.title}`"
      :back="{ to: `/soundings/${id}`, text: 'The sounding' }"
    >
      <template #under>{{ both.later.course.code }} · {{ both.later.tool.name }}</template>
      <label class="quiet"
        >Against
        <select class="form-select form-select-sm d-inline-block w-auto" :value="both.earlier.id" @change="against">
          <template v-for="one in others?.items" :key="one.id">
            <option v-if="one.id !== id" :value="one.id">
              {{ shortMoment(one.startedAt) }}, {{ one.verdict ?? one.state }}
            </option>
          </template>
        </select>
      </label>
    </PageHead>
    <section class="panel table-wrap">
      <table class="grid-table">
        <thead>
          <tr>
            <th>Check</th>
            <th>Change</th>
            <th>
              Then: <MomentText :at="both.earlier.startedAt" />
              <StateWord :state="both.earlier.verdict ?? both.earlier.state" />
            </th>
            <th>
              Now: <MomentText :at="both.later.startedAt" />
              <StateWord :state="both.later.verdict ?? both.later.state" />
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-if="rows.length === 0">
            <td colspan="4">Every check found the same both times.</td>
          </tr>
          <tr v-for="(one, i) in rows" :key="i">
            <td>
              <strong>{{ stageWord(one.stage) }}</strong>
              <div class="quiet">{{ plain(one.check) }}</div>
            </td>
            <td :class="TONES[one.change] ?? 'tone-look'">{{ one.change }}</td>
            <td v-for="(found, side) in [one.earlier, one.later]" :key="side" class="said">
              <template v-if="found"
                ><StateWord :state="found.verdict" /> {{ found.statement }}
                <span class="quiet">{{ ms(found.durationMs) }}</span></template
              ><span v-else class="quiet">not looked at</span>
            </td>
          </tr>
        </tbody>
      </table>
      <button v-if="same > 0" type="button" class="plain mt-2" @click="all = !all">
        {{ all ? 'Leave out what is the same' : `Show also the ${same} that found the same` }}
      </button>
    </section>
  </template>
</template>
