export interface Worked {
  sent: number
  refused: number
  why: Record<string, number>
  p50Ms: number
  p99Ms: number
}
export function workload(scene: {
  url: string
  cookies: string[]
  assignment: string
  signing: { key: string; secret: string; resultIds: string[] }
}): Promise<(seconds: number, perSecond?: number) => Promise<Worked>>
