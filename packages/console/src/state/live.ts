import { operations, type ChangeEvent, type OperationName } from '@bathyscribe/contract'
import type { QueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'

type Kind = ChangeEvent['kind']

/** Which answers may be out of date after a change of each kind, as each call says of itself. */
const TOUCHED = new Map<Kind, OperationName[]>()
for (const [name, { touchedBy }] of Object.entries(operations) as [OperationName, { touchedBy: readonly Kind[] }][])
  for (const kind of touchedBy) TOUCHED.set(kind, [...(TOUCHED.get(kind) ?? []), name])

const GATHER_MS = 150

/** Whether changes are being heard; the pages say so when they are not. */
export const isLive = ref(true)

/** Follows the service's changes and refreshes what is on the page. @returns a function that ends it */
export function followChanges(queries: QueryClient): () => void {
  const source = new EventSource('/api/events')
  /** When a change last came that touches a call's answer. */
  const changedAt = new Map<string, number>()
  /** When each answer was last asked for: what was asked for after a change knows of it, and is not read twice. */
  const askedAt = new Map<string, number>()
  const stopListening = queries.getQueryCache().subscribe((event) => {
    if (event.type === 'removed') askedAt.delete(event.query.queryHash)
    else if (event.type === 'updated' && event.action.type === 'fetch')
      askedAt.set(event.query.queryHash, performance.now())
  })
  let timer: ReturnType<typeof setTimeout> | undefined
  const refresh = () => {
    timer = undefined
    const changes = new Map(changedAt)
    changedAt.clear()
    void queries.invalidateQueries({
      predicate: ({ queryKey, queryHash }) => {
        const at = changes.get(String(queryKey[0]))
        return at !== undefined && at >= (askedAt.get(queryHash) ?? -Infinity)
      },
    })
  }
  source.addEventListener('change', (event) => {
    const change = JSON.parse((event as MessageEvent<string>).data) as ChangeEvent
    for (const name of TOUCHED.get(change.kind) ?? []) changedAt.set(name, performance.now())
    timer ??= setTimeout(refresh, GATHER_MS)
  })
  source.addEventListener('open', () => {
    // What happened while nobody listened is not told again.
    if (!isLive.value) void queries.invalidateQueries()
    isLive.value = true
  })
  source.addEventListener('error', () => (isLive.value = false))
  return () => {
    stopListening()
    clearTimeout(timer)
    source.close()
  }
}
