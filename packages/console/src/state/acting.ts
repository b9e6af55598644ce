import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'

/** Acts of a page: buttons are `busy` while one is on its way, what went wrong kept to be shown, and everything on the page read again afterwards. */
export function useActing() {
  const queries = useQueryClient()
  const actError = ref<unknown>()
  const busy = ref(false)
  /** @returns whether it was done */
  async function act(run: () => Promise<unknown>): Promise<boolean> {
    busy.value = true
    actError.value = undefined
    try {
      await run()
      await queries.invalidateQueries()
      return true
    } catch (reason) {
      actError.value = reason
      return false
    } finally {
      busy.value = false
    }
  }
  return { act, actError, busy }
}
