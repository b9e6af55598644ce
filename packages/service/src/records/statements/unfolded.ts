/**
 * SQL: many questions as a table `name`, one row each, numbered by `n` in their order: values from `$1` on, one array for each column. The connections of such statements plan them
 * for any number of rows (`plan_cache_mode` in `database.ts`).
 * @param types PostgreSQL's, by column
 */
export function unfolded(types: Readonly<Record<string, string>>, name = 'asked'): string {
  const arrays = Object.values(types).map((type, i) => `$${i + 1}::${type}[]`)
  return `unnest(${arrays.join(', ')}) with ordinality as ${name}(${Object.keys(types).join(', ')}, n)`
}
