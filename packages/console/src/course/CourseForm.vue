<script setup lang="ts">
import type { Course } from '@bathyscribe/contract'
import { BButton, BFormGroup, BFormInput } from 'bootstrap-vue-next'
import { reactive, ref } from 'vue'
import ErrorNote from '../parts/ErrorNote.vue'
import { useActing } from '../state/acting'
import { call } from '../state/api'
import { fromInput, toInput } from '../state/moments'

/** What a course is called and when it is; without a course, makes one. */
const { course } = defineProps<{ course?: Course }>()
const emit = defineEmits<{ made: [Course] }>()
const { act, actError, busy } = useActing()
const saved = ref(false)
const wanted = reactive({
  code: course?.code ?? '',
  title: course?.title ?? '',
  term: course?.term ?? '',
  timeZone: course?.timeZone ?? Intl.DateTimeFormat().resolvedOptions().timeZone,
  sourcedId: course?.sourcedId ?? '',
  starts: toInput(course?.startsAt ?? null, course?.timeZone ?? 'UTC'),
  ends: toInput(course?.endsAt ?? null, course?.timeZone ?? 'UTC'),
})
const ZONES = Intl.supportedValuesOf('timeZone')

async function save() {
  const { code, title, term, timeZone, sourcedId, starts, ends } = wanted
  const body = {
    code,
    title,
    term,
    timeZone,
    sourcedId: sourcedId.trim() || null,
    startsAt: fromInput(starts, timeZone),
    endsAt: fromInput(ends, timeZone),
  }
  saved.value = await act(async () => {
    if (course) await call('changeCourse', { params: { course: course.id }, body })
    else emit('made', await call('createCourse', { body }))
  })
}
</script>

<template>
  <form class="panel" @submit.prevent="save" @input="saved = false">
    <ErrorNote :error="actError" />
    <div class="row g-3">
      <BFormGroup class="col-md-3" label="Code" label-for="course-code">
        <BFormInput id="course-code" v-model="wanted.code" required maxlength="40" placeholder="HYD 210" />
      </BFormGroup>
      <BFormGroup class="col-md-9" label="Title" label-for="course-title">
        <BFormInput id="course-title" v-model="wanted.title" required maxlength="200" />
      </BFormGroup>
      <BFormGroup class="col-md-6" label="Term" label-for="course-term" description="Sweeps and lists go by it.">
        <BFormInput id="course-term" v-model="wanted.term" maxlength="60" placeholder="Autumn 2026" />
      </BFormGroup>
      <BFormGroup
        class="col-md-6"
        label="Time zone"
        label-for="course-zone"
        description="Its dates are read and shown in it; moments that are set already stay."
      >
        <BFormInput id="course-zone" v-model="wanted.timeZone" required list="course-zones" />
        <datalist id="course-zones"><option v-for="zone in ZONES" :key="zone" :value="zone" /></datalist>
      </BFormGroup>
      <BFormGroup class="col-md-6" :label="`Starts (${wanted.timeZone})`" label-for="course-starts">
        <BFormInput id="course-starts" v-model="wanted.starts" type="datetime-local" />
      </BFormGroup>
      <BFormGroup class="col-md-6" :label="`Ends (${wanted.timeZone})`" label-for="course-ends">
        <BFormInput id="course-ends" v-model="wanted.ends" type="datetime-local" />
      </BFormGroup>
      <BFormGroup
        class="col-md-6"
        label="Identifier in the registrar’s system"
        label-for="course-sourced"
        description="Rosters are matched by it; empty for none."
      >
        <BFormInput id="course-sourced" v-model="wanted.sourcedId" maxlength="100" />
      </BFormGroup>
    </div>
    <BButton class="mt-3" type="submit" size="sm" variant="primary" :disabled="busy">{{
      course ? 'Save' : 'Make the course'
    }}</BButton>
    <span v-if="saved && course" class="tone-good ms-2" role="status">● saved</span>
  </form>
</template>
