import { useEventListener, useMutationObserver } from '@vueuse/core'
import { onMounted, onScopeDispose, type Ref } from 'vue'

/** What may be wider than its place: tables, texts as they were sent, and on a phone every panel. */
const MAY_SCROLL = '.table-wrap, .panel, pre, .nav-tabs'
/** Set here, so that a place in the order of keys that somebody else gave stays. */
const MARK = 'scrolls'

/** Lets keys reach whatever scrolls by itself (WCAG 2.1.1), and nothing that does not: it would be one more stop on the way through a page. */
export function useKeyScrolling(within: Readonly<Ref<HTMLElement | null>>): void {
  let asked = 0
  const look = () => {
    asked = 0
    for (const one of within.value?.querySelectorAll<HTMLElement>(MAY_SCROLL) ?? []) mark(one)
  }
  const soon = () => (asked ||= requestAnimationFrame(look))
  onMounted(soon)
  useMutationObserver(within, soon, { childList: true, subtree: true, characterData: true })
  useEventListener(window, 'resize', soon)
  onScopeDispose(() => cancelAnimationFrame(asked))
}

function mark(one: HTMLElement): void {
  const { overflowX, overflowY } = getComputedStyle(one)
  const isLarger =
    (one.scrollWidth > one.clientWidth && overflowX !== 'visible') ||
    (one.scrollHeight > one.clientHeight && overflowY !== 'visible')
  if (isLarger && !one.hasAttribute('tabindex')) {
    one.tabIndex = 0
    one.dataset[MARK] = ''
  } else if (!isLarger && MARK in one.dataset) {
    one.removeAttribute('tabindex')
    delete one.dataset[MARK]
  }
}
