import type { AuditEntry } from './people.js'

/** One field of what an act changed; null where there was nothing, or is nothing any longer. */
export interface AuditChange {
  name: string
  before: string | null
  after: string | null
}

const LONGEST = 300

/** What differs between before and after, field by field; all that was said where one of them is missing. */
export function auditChanges({ before, after }: Pick<AuditEntry, 'before' | 'after'>): AuditChange[] {
  const [was, is] = [fieldsOf(before), fieldsOf(after)]
  return [...new Set([...Object.keys(was), ...Object.keys(is)])].flatMap((name) => {
    const [a, b] = [textOf(was[name]), textOf(is[name])]
    return a === b ? [] : [{ name, before: a, after: b }]
  })
}

function fieldsOf(value: unknown): Record<string, unknown> {
  if (value === null || value === undefined) return {}
  return typeof value === 'object' && !Array.isArray(value) ? (value as Record<string, unknown>) : { value }
}

function textOf(value: unknown): string | null {
  if (value === null || value === undefined || isEmpty(value)) return null
  const text = typeof value === 'string' ? value : JSON.stringify(value)
  return text.length > LONGEST ? `${text.slice(0, LONGEST)}…` : text
}

/** An empty list, or a record without fields: nothing is in it. */
function isEmpty(value: unknown): boolean {
  return typeof value === 'object' && value !== null && Object.keys(value).length === 0
}
