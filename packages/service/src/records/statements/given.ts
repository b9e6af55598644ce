/**
 * SQL: the n-th value, an array, as a statement of many questions unfolds it. By way of a question of its own, so that PostgreSQL plans for the same number of rows whether it looks
 * into the array or not. Else it takes every plan that it made for two rows for cheaper than the one for any number, and plans these statements anew each time, which costs more than
 * they do themselves (PostgreSQL, PREPARE: custom and generic plans).
 */
export function given(n: number, type: string): string {
  return `(select $${n}::${type}[])`
}
