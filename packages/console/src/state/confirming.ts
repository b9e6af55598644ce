import { computed, shallowRef } from 'vue'

interface Asking {
  given: Promise<boolean>
  settle: (given: boolean) => void
}
const asking = shallowRef<Asking>()

/** Whether the password is asked for just now. */
export const isConfirming = computed(() => asking.value !== undefined)

/** Asks for the password of who is signed in; what asks meanwhile waits for the same answer. @returns whether it was given */
export function askPassword(): Promise<boolean> {
  if (!asking.value) {
    let settle!: Asking['settle']
    const given = new Promise<boolean>((resolve) => (settle = resolve))
    asking.value = { given, settle }
  }
  return asking.value.given
}

/** Ends the asking: the password was taken, or whoever was asked left it. */
export function settlePassword(given: boolean): void {
  asking.value?.settle(given)
  asking.value = undefined
}

/** Between the window in which somebody signs in at a provider once more, and the page that asked for it. */
const CHANNEL = 'bathyscribe-confirmed'

export function tellConfirmed(): void {
  const channel = new BroadcastChannel(CHANNEL)
  channel.postMessage('confirmed')
  channel.close()
}

/** @returns a function that ends the listening */
export function onConfirmed(run: () => void): () => void {
  const channel = new BroadcastChannel(CHANNEL)
  channel.addEventListener('message', run)
  return () => channel.close()
}
