export interface Running {
  servicePort: number
  toolsPort: number
  url: string
  knotwork: string
  harbour: string
  chandlery: string
  sextant: string
  plotting: string
  signal: string
  lantern: string
  watchlog: string
  tally: string
  office: string
  pids: number[]
  fresh: boolean
}
export const CLI: string
export function startStack(options: {
  folder: string
  servicePort?: number
  toolsPort?: number
  serverSettings?: Record<string, string>
  detached?: boolean
  migrated?: boolean
  extraEnvironment?: Record<string, string>
}): Promise<Running>
export function stopStack(folder: string, options?: { remove?: boolean }): Promise<boolean>
export function setupCodeOf(folder: string): string | undefined
