import { computed } from 'vue'
import { useCall } from './api'

/** The enabled tools of a course, and the same as options to choose from, after one that says so. */
export function useCourseTools(course: () => string, first: { text: string; disabled?: boolean }) {
  const { data } = useCall('listTools', () => ({ query: { course: course(), limit: 200 } }))
  const tools = computed(() => (data.value?.items ?? []).filter((one) => one.state === 'enabled'))
  const toolOptions = computed((): { value: string; text: string; disabled?: boolean }[] => [
    { value: '', ...first },
    ...tools.value.map((one) => ({ value: one.slug, text: one.name })),
  ])
  return { tools, toolOptions }
}
