/** The same with each moment as the API carries it: ISO 8601 in UTC. */
export type InText<T> = T extends Date
  ? string
  : T extends readonly (infer One)[]
    ? InText<One>[]
    : T extends object
      ? { [Name in keyof T]: InText<T[Name]> }
      : T

/** Writes each moment of an answer as text, however deep it lies. */
export function inText<T>(value: T): InText<T> {
  return written(value) as InText<T>
}

function written(value: unknown): unknown {
  if (value instanceof Date) return value.toISOString()
  if (Array.isArray(value)) return value.map(written)
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(Object.entries(value).map(([name, one]) => [name, written(one)]))
}
