import type { Diagnosis } from '@bathyscribe/contract'
import { supportLetter, type Diagnosis as Found } from '@bathyscribe/core/diagnosis'
import type { WireDetailRow } from '../../records/wire.js'
import type { Context } from '../context.js'

/** What was found about refused entries when they came in, with a text for the tool’s support, by entry. */
export async function explainedEntries(
  context: Context,
  entries: readonly WireDetailRow[],
): Promise<Map<string, Diagnosis>> {
  const refused = entries.filter((one) => one.outcome !== 'accepted')
  if (refused.length === 0) return new Map()
  const found = await context.records.diagnoses.of(refused.map((one) => one.id))
  return new Map(
    refused.flatMap((entry) => {
      const one = found.get(entry.id)
      const about = {
        tool: entry.tool?.name ?? 'a tool that is not known here',
        what: `a ${entry.kind} was refused`,
        at: entry.at,
        reference: `wire entry ${entry.id}`,
      }
      return one ? [[entry.id, withLetter(context, one, about)] as const] : []
    }),
  )
}

/** The answer’s form: what was found, and the text. */
export function withLetter(
  { settings }: Context,
  found: Found,
  about: { tool: string; what: string; at: Date | null; reference: string | null },
): Diagnosis {
  const from = [settings.platformName, settings.contactEmail, settings.publicUrl].filter(Boolean).join(' · ')
  return { ...found, letter: supportLetter(found, { ...about, at: about.at?.toISOString() ?? null, from }) }
}
