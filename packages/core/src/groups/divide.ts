/**
 * Divides people at random into groups of as equal size as can be.
 * @param random a number from 0 up to, not including, 1
 * @returns identifiers by group; exactly `groups` lists, whose lengths differ by one at most
 */
export function divideAtRandom(people: readonly string[], groups: number, random: () => number): string[][] {
  const order = [...people]
  for (let i = order.length - 1; i > 0; i--) {
    const j = Math.min(i, Math.floor(random() * (i + 1)))
    ;[order[i], order[j]] = [order[j]!, order[i]!]
  }
  const divided = Array.from({ length: groups }, (): string[] => [])
  order.forEach((one, i) => divided[i % groups]!.push(one))
  return divided
}
