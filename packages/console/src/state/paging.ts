import { computed, ref } from 'vue'

/** The cursors of the pages one has come through; the last one is where one is. */
export function usePaging() {
  const cursors = ref<string[]>([])
  return {
    cursor: computed(() => cursors.value.at(-1)),
    depth: computed(() => cursors.value.length),
    forward: (next: string) => void cursors.value.push(next),
    back: () => void cursors.value.pop(),
    reset: () => void (cursors.value = []),
  }
}
