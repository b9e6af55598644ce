import { computed, reactive, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

/** What a list is narrowed down by. The address keeps it, so that it can be passed on. @param onChange when another is wanted, as to begin at the first page */
export function useAddressFilter<Key extends string>(keys: readonly Key[], onChange: () => void) {
  const route = useRoute()
  const router = useRouter()
  const ofAddress = (key: Key) => (typeof route.query[key] === 'string' ? route.query[key] : '')
  const filter = reactive(Object.fromEntries(keys.map((key) => [key, ofAddress(key)]))) as Record<Key, string>
  watch(filter, (value) => {
    onChange()
    void router.replace({ query: Object.fromEntries(Object.entries<string>(value).filter(([, text]) => text)) })
  })
  const isFiltered = computed(() => Object.values(filter).some(Boolean))
  const clear = () => keys.forEach((key) => (filter[key] = ''))
  return { filter, isFiltered, clear }
}
