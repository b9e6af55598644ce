import { refAutoReset, useClipboard } from '@vueuse/core'
import { computed, type Ref } from 'vue'

const SHOWN_MS = 2500

/** Copies to the clipboard and says for a moment what became of it. @param refused what is said where the browser does not let us */
export function useCopying(refused: string): { said: Ref<string>; copy: (text: string) => Promise<void> } {
  // Older ways, too: a service without TLS in a closed network has no clipboard of its own.
  const { copy, copied } = useClipboard({ copiedDuring: SHOWN_MS, legacy: true })
  const failed = refAutoReset(false, SHOWN_MS)
  return {
    said: computed(() => (copied.value ? 'Copied' : failed.value ? refused : '')),
    copy: (text) =>
      copy(text).catch(() => {
        failed.value = true
      }),
  }
}
