export interface Scale {
  tools: number
  courses: number
  links: number
  learners: number
  scores: number
  wire: number
}
export const INSTITUTION: Scale
export function fillSite(
  database: { query: (sql: string, values?: unknown[]) => Promise<{ rows: Record<string, unknown>[] }> },
  scale: Scale,
  options?: { prefix?: string; say?: (line: string) => void },
): Promise<{ course: string; link: string; tool: string }>
