/** The middle of some measurements, of whatever order; at least one. */
export function middle(values: readonly number[]): number {
  return [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]!
}
