import type { ExplainedOne } from '@bathyscribe/contract'
import type { Pasted } from '@bathyscribe/core/diagnosis'
import type { Context } from '../context.js'

/** What is told of one message of a pasted text. */
export type Part = Omit<ExplainedOne, 'kind' | 'takenFor'>
export type Of<K extends Pasted['kind']> = Extract<Pasted, { kind: K }>

export const NOTHING: Part = { what: '', tool: null, parts: [], entry: null, differences: [], diagnosis: null }

export async function toolRef({ records }: Context, id: string): Promise<ExplainedOne['tool']> {
  const { slug, name, state } = await records.tools.byId(id)
  return { id, slug, name, state }
}

/** Registrations whose key a message names, the one first that it was sent for, if that is known, else the oldest. */
export function holdersOf<T extends { registrationId: string; consumerKey: string }>(
  newestFirst: readonly T[],
  consumerKey: string | undefined,
  registrationId: string | null,
): T[] {
  const holders = newestFirst.filter((one) => one.consumerKey === consumerKey).reverse()
  return holders.sort(
    (a, b) => Number(b.registrationId === registrationId) - Number(a.registrationId === registrationId),
  )
}
