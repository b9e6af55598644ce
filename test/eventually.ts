import { vi } from 'vitest'

/** So long a test waits for what must come: a busy machine is slow, what never comes still fails. */
export const PATIENCE_MS = 60_000

/** Looks again until what is looked for holds. @throws what was wrong at the last look */
export function eventually<T>(look: () => T | Promise<T>): Promise<T> {
  return vi.waitFor(look, { timeout: PATIENCE_MS, interval: 40 })
}
