import { computed, watch, type ComputedRef } from 'vue'
import { useCall } from '../state/api'
import { isAdministrator } from '../state/session'

/** For what a person may register tools: administrators for the institution and every course, instructors for their own. */
export function useRegistrarCourses(
  chooseFirst: (id: string | null) => void,
): ComputedRef<{ value: string | null; text: string }[]> {
  const { data: courses } = useCall('listCourses', { query: { limit: 200 } })
  const options = computed(() => [
    ...(isAdministrator.value ? [{ value: null, text: 'The whole institution' }] : []),
    ...(courses.value?.items ?? [])
      .filter((one) => isAdministrator.value || one.myRole === 'instructor')
      .map((one) => ({ value: one.id, text: `${one.code} ${one.title}` })),
  ])
  watch(
    options,
    (all) => {
      if (!isAdministrator.value) chooseFirst(all[0]?.value ?? null)
    },
    { immediate: true },
  )
  return options
}
