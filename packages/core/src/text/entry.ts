/** What a table says of a name from outside: only what was written into it, never what every object has (`constructor`, `__proto__`). */
export function entryOf<T>(table: Readonly<Record<string, T>>, name: string): T | undefined {
  return Object.hasOwn(table, name) ? table[name] : undefined
}
