import type { ExplainedMessage } from '@bathyscribe/contract'
import type { Pasted } from '@bathyscribe/core/diagnosis'
import type { Context } from '../context.js'

/** One message of a pasted text, as it is told. */
export type Explained = Omit<ExplainedMessage, 'also'>
export type Part = Omit<Explained, 'kind' | 'takenFor'>
export type Of<K extends Pasted['kind']> = Extract<Pasted, { kind: K }>

export const NOTHING: Part = { what: '', tool: null, parts: [], entry: null, differences: [], diagnosis: null }

export async function toolRef({ records }: Context, id: string): Promise<ExplainedMessage['tool']> {
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
