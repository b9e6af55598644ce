import type { ChangeEvent, OperationName } from '@bathyscribe/contract'
import type { QueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'

/** Which answers may be out of date after a change of each kind. */
const TOUCHES: Record<ChangeEvent['kind'], readonly OperationName[]> = {
  score: [
    'listScores',
    'listScoreBursts',
    'listUnscored',
    'listTwins',
    'showOutline',
    'listDue',
    'showGradebook',
    'showTrail',
    'listAssignments',
    'showAssignment',
    'listWork',
    'showWork',
    'showWatch',
    'listWire',
    'listCourses',
  ],
  refusal: [
    'listScores',
    'listUnscored',
    'showGradebook',
    'showTrail',
    'listAssignments',
    'showAssignment',
    'showWatch',
    'listWire',
    'listTools',
  ],
  launch: [
    'showOutline',
    'showGradebook',
    'listAssignments',
    'showAssignment',
    'listWork',
    'showWork',
    'showWatch',
    'listWire',
  ],
  sounding: [
    'showOutline',
    'listSoundings',
    'showSounding',
    'listAssignments',
    'showAssignment',
    'showWatch',
    'listWire',
  ],
  assignment: [
    'showOutline',
    'listDue',
    'preflightCourse',
    'listAssignments',
    'showAssignment',
    'showGradebook',
    'listWork',
    'showWork',
    'showCourse',
    'listCourses',
    'listCategories',
    'showWatch',
  ],
  tool: [
    'listTools',
    'showTool',
    'showExchangeSheet',
    'listToolKeys',
    'listDeployments',
    'showToolPlaces',
    'listReplacements',
    'previewIdentity',
    'showInvitation',
    'searchCatalogue',
    'listMenu',
    'listAssignments',
    'showAssignment',
    'showWatch',
  ],
  menu: ['listMenu', 'searchCatalogue', 'showToolPlaces', 'showWatch', 'listTools', 'showTool'],
  outline: ['showOutline', 'showUnitItem', 'listFiles', 'showGradebook', 'listTwins'],
  picking: ['showPicking', 'listFiles', 'listWire'],
  groups: ['listGroups', 'listAssignments', 'showAssignment', 'showOutline', 'listWork'],
  files: ['listFiles', 'showOutline'],
  office: ['showHandOn'],
  sweep: ['listSweeps', 'showSweep', 'listSweepLinks'],
  people: ['listToolRosters', 'listMembers', 'showGradebook', 'showCourse', 'listCourses'],
}
const GATHER_MS = 150

/** Whether changes are being heard; the pages say so when they are not. */
export const isLive = ref(true)

/** Follows the service's changes and refreshes what is on the page. @returns a function that ends it */
export function followChanges(queries: QueryClient): () => void {
  const source = new EventSource('/api/events')
  const waiting = new Set<string>()
  let timer: ReturnType<typeof setTimeout> | undefined
  const refresh = () => {
    timer = undefined
    const names = new Set(waiting)
    waiting.clear()
    void queries.invalidateQueries({ predicate: (query) => names.has(String(query.queryKey[0])) })
  }
  source.addEventListener('change', (event) => {
    const change = JSON.parse((event as MessageEvent<string>).data) as ChangeEvent
    for (const name of TOUCHES[change.kind]) waiting.add(name)
    timer ??= setTimeout(refresh, GATHER_MS)
  })
  source.addEventListener('open', () => {
    // What happened while nobody listened is not told again.
    if (!isLive.value) void queries.invalidateQueries()
    isLive.value = true
  })
  source.addEventListener('error', () => (isLive.value = false))
  return () => {
    clearTimeout(timer)
    source.close()
  }
}
