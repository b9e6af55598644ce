import { Refusal, type ErrorCode } from '@bathyscribe/contract'
import type { PersonRefRow } from '../identity/person-ref.js'

/** Those of all whom references name, each once. @param missing what is said of somebody who is none of them @throws Refusal */
export function chosen<One>(
  all: readonly One[],
  refs: readonly string[],
  { personOf, missing }: { personOf: (one: One) => Pick<PersonRefRow, 'id' | 'username'>; missing: ErrorCode },
): One[] {
  const byRef = new Map(
    all.flatMap((one) => [personOf(one).id, personOf(one).username].map((ref) => [ref, one] as const)),
  )
  const found = refs.map((ref) => {
    const one = byRef.get(ref) ?? byRef.get(ref.toLowerCase())
    if (!one) throw new Refusal(missing, ref)
    return one
  })
  return [...new Set(found)]
}

/** Whom a letter reaches: by mail only those who have an address. */
export function byWay<One extends { email: string | null }>(
  rows: readonly One[],
  way: 'mail' | 'page',
): { reached: One[]; withoutAddress: One[] } {
  const isReached = ({ email }: One) => way === 'page' || email !== null
  return { reached: rows.filter(isReached), withoutAddress: rows.filter((one) => !isReached(one)) }
}
