import { computed, watch, type ComputedRef } from 'vue'
import { useCall } from '../state/api'
import { isAdministrator } from '../state/session'

/** Courses in which a person may make something of a tool: every one for administrators, their own for instructors. */
export function useInstructedCourses() {
  const { data } = useCall('listCourses', { query: { limit: 200 } })
  return computed(() => (data.value?.items ?? []).filter((one) => isAdministrator.value || one.myRole === 'instructor'))
}

/** For what a person may register tools: administrators for the institution and every course, instructors for their own. */
export function useRegistrarCourses(
  chooseFirst: (id: string | null) => void,
  /** The course that it is wanted in, which an instructor gets first. */
  wantedIn: () => string | null = () => null,
): ComputedRef<{ value: string | null; text: string }[]> {
  const courses = useInstructedCourses()
  const options = computed(() => [
    ...(isAdministrator.value ? [{ value: null, text: 'The whole institution' }] : []),
    ...courses.value.map((one) => ({ value: one.id, text: `${one.code} ${one.title}` })),
  ])
  watch(
    options,
    (all) => {
      if (!isAdministrator.value) chooseFirst((all.find((one) => one.value === wantedIn()) ?? all[0])?.value ?? null)
    },
    { immediate: true },
  )
  return options
}
