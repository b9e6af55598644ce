import type { Diagnosis } from '@bathyscribe/contract'
import { supportLetter, type Diagnosis as Found } from '@bathyscribe/core/diagnosis'
import type { WireDetailRow } from '../../records/wire.js'
import type { Context } from '../context.js'

/** What was found about a refused entry when it came in, with a text for the tool’s support. */
export async function explainedEntry(context: Context, entry: WireDetailRow): Promise<Diagnosis | null> {
  if (entry.outcome === 'accepted') return null
  const found = await context.records.diagnoses.of(entry.id)
  return found
    ? withLetter(context, found, {
        tool: entry.tool?.name ?? 'a tool that is not known here',
        what: `a ${entry.kind} was refused`,
        at: entry.at,
        reference: `wire entry ${entry.id}`,
      })
    : null
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
