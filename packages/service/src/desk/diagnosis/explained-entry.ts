import type { Diagnosis } from '@bathyscribe/contract'
import {
  supportLetter,
  type Diagnosis as Found,
  type LetterFacts,
  type LetterLanguage,
} from '@bathyscribe/core/diagnosis'
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
      const about: About = {
        tool: entry.tool?.name ?? null,
        kind: isToken(entry) ? 'token' : 'message',
        what: REFUSED[entry.kind] ?? REFUSED_MESSAGE,
        at: entry.at,
        reference: `wire entry ${entry.id}`,
      }
      return one ? [[entry.id, withLetter(context, one, about)] as const] : []
    }),
  )
}

/** A token is signed by itself, whatever brought it. */
function isToken({ kind, request }: WireDetailRow): boolean {
  const { parameters } = request as { parameters?: [string, string][] }
  return kind === 'token' || (parameters ?? []).some(([name]) => name === 'JWT')
}

type What = LetterFacts['what']
const REFUSED_MESSAGE: What = { en: 'a message was refused', de: 'eine Nachricht wurde abgewiesen' }
const REFUSED: Partial<Record<string, What>> = {
  outcome: { en: 'a score was refused', de: 'eine Punktzahl wurde abgewiesen' },
  score: { en: 'a score was refused', de: 'eine Punktzahl wurde abgewiesen' },
  token: { en: 'a request for an access token was refused', de: 'eine Anfrage nach einem Zugriffstoken wurde abgewiesen' },
  picker: { en: 'the answer of a picker was refused', de: 'die Antwort einer Inhaltsauswahl wurde abgewiesen' },
} // oxfmt-ignore
/** What was looked at because somebody pasted it. */
export const LOOKED_AT = {
  token: { en: 'a token was looked at', de: 'ein Token wurde geprüft' },
  form: { en: 'a form post was looked at', de: 'ein gesendetes Formular wurde geprüft' },
  base_string: { en: 'a base string was looked at', de: 'ein Base String wurde geprüft' },
} satisfies Record<string, What>

/** What a letter is about; `tool` is null for one that is not known. */
export type About = Pick<LetterFacts, 'kind' | 'what' | 'reference'> & { tool: string | null; at: Date | null }

/** The answer’s form: what was found, and a text for support in each language. */
export function withLetter({ settings }: Context, found: Found, about: About): Diagnosis {
  const from = [settings.platformName, settings.contactEmail, settings.publicUrl].filter(Boolean).join(' · ')
  const letterIn = (language: LetterLanguage) =>
    supportLetter(
      found,
      {
        ...about,
        tool: about.tool ?? { en: 'a tool that is not known here', de: 'einem hier nicht bekannten Tool' }[language],
        at: about.at?.toISOString() ?? null,
        platform: settings.publicUrl,
        from,
      },
      language,
    )
  const { certainty, sentence, ruledOut } = found
  // Commands are for the letter alone.
  const causes = found.causes.map(({ reproduce: _, ...cause }) => cause)
  return { certainty, sentence, causes, ruledOut, letters: { en: letterIn('en'), de: letterIn('de') } }
}
