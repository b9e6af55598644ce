import { refDebounced } from '@vueuse/core'
import { onScopeDispose, ref, shallowRef, watch, type Ref, type WatchSource } from 'vue'

interface Parts<A> {
  /** What is watched; a change of it asks anew. */
  on: WatchSource | WatchSource[]
  /** So long nothing may change before it is asked, in milliseconds. */
  waitMs: number
  /** Asks by what is typed now. */
  ask: () => Promise<A>
  /** Whether there is nothing to ask for: then nothing is, and what was answered goes at once. */
  isEmpty?: () => boolean
  /** Also asks by what stands there when the page opens. */
  immediate?: boolean
  /** What was answered before stays while nothing better is known: when asking fails. */
  keeps?: boolean
}

/** The answer to what stands in the form now. */
export interface DebouncedCall<A> {
  answer: Ref<A | undefined>
  error: Ref<unknown>
  busy: Ref<boolean>
  /** Asks something else for the same place, without waiting. With `keeps`, what stood there before stays when it fails. */
  now: (ask: () => Promise<A>, keeps?: boolean) => Promise<void>
}

/** Asks the service a little while after the last change. Only the answer to the newest question counts: a late one to an older question is dropped, and so is its failure. */
export function useDebouncedCall<A>({
  on,
  waitMs,
  ask,
  isEmpty = () => false,
  immediate = false,
  keeps = false,
}: Parts<A>): DebouncedCall<A> {
  const answer = shallowRef<A>()
  const error = ref<unknown>()
  const busy = ref(false)
  let newest = 0
  let timer: ReturnType<typeof setTimeout> | undefined

  async function now(question: () => Promise<A>, keepsNow = keeps): Promise<void> {
    clearTimeout(timer)
    const mine = ++newest
    busy.value = true
    try {
      const found = await question()
      if (mine !== newest) return
      answer.value = found
      error.value = undefined
    } catch (reason) {
      if (mine !== newest) return
      if (!keepsNow) answer.value = undefined
      error.value = reason
    } finally {
      if (mine === newest) busy.value = false
    }
  }

  watch(
    on,
    () => {
      // What is on its way answers what no longer stands there.
      newest++
      busy.value = false
      clearTimeout(timer)
      if (isEmpty()) {
        answer.value = undefined
        error.value = undefined
      } else timer = setTimeout(() => void now(ask), waitMs)
    },
    { deep: true, immediate },
  )
  onScopeDispose(() => {
    newest++
    clearTimeout(timer)
  })
  return { answer, error, busy, now }
}

/** What is searched for, a moment after one stopped typing. */
export function useSearched(typed: Ref<string>): Readonly<Ref<string>> {
  return refDebounced(typed, 150)
}
