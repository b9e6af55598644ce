import { useEventListener } from '@vueuse/core'

/** Does something when a key is pressed anywhere but where text is typed. */
export function onPressed(key: string, act: () => void): void {
  useEventListener(document, 'keydown', (event: KeyboardEvent) => {
    const on = event.target as HTMLElement
    const isTyping = /^(INPUT|TEXTAREA|SELECT)$/.test(on.tagName) || on.isContentEditable
    if (event.key !== key || event.ctrlKey || event.metaKey || isTyping) return
    event.preventDefault()
    act()
  })
}

/** Does something when a key is pressed with Control, or with Command, wherever one is: also while one types. */
export function onPressedWithControl(key: string, act: () => void): void {
  useEventListener(document, 'keydown', (event: KeyboardEvent) => {
    if (event.key.toLowerCase() !== key || event.altKey || event.shiftKey || !(event.ctrlKey || event.metaKey)) return
    event.preventDefault()
    act()
  })
}
