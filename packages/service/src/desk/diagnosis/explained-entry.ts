import type { Diagnosis } from '@bathyscribe/contract'
import {
  asDoubted,
  MOST_WRONG,
  supportLetter,
  type Diagnosis as Found,
  type LetterFacts,
  type LetterLanguage,
} from '@bathyscribe/core/diagnosis'
import type { WireDetailRow } from '../../records/wire.js'
import type { Context } from '../context.js'
import { signatureOf } from '../mail/signature.js'

/** What was found about refused entries when they came in, with a text for the tool’s support, by entry. */
export async function explainedEntries(
  context: Context,
  entries: readonly WireDetailRow[],
): Promise<Map<string, Diagnosis>> {
  const refused = entries.filter((one) => one.outcome !== 'accepted')
  if (refused.length === 0) return new Map()
  const found = await context.records.diagnoses.of(refused.map((one) => one.id))
  if (found.size === 0) return new Map()
  const doubted = await doubtedCauses(context)
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
      return one ? [[entry.id, inWords(context, one, about, doubted)] as const] : []
    }),
  )
}

/** What explains an entry, as far as its causes are not in doubt. */
export async function toldOf(context: Context, wireEntryId: string): Promise<Found | undefined> {
  const found = (await context.records.diagnoses.of([wireEntryId])).get(wireEntryId)
  return found && asDoubted(found, await doubtedCauses(context)).found
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

/** Causes that were said to be wrong too often, and how often, since somebody looked at them. */
type Doubted = ReadonlyMap<string, number>
function doubtedCauses({ records }: Context): Promise<Doubted> {
  return records.verdicts.doubted(MOST_WRONG)
}

/** The answer’s form: what was found, as far as its causes are not in doubt, and a text for support in each language. */
export async function withLetter(context: Context, found: Found, about: About): Promise<Diagnosis> {
  return inWords(context, found, about, found.causes.length > 0 ? await doubtedCauses(context) : new Map())
}

function inWords({ settings }: Context, given: Found, about: About, doubted: Doubted): Diagnosis {
  const { found, doubts } = asDoubted(given, doubted)
  const from = signatureOf({ settings })
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
  const doubt = doubts.length > 0 ? doubtOf(doubts, doubted, given.certainty === 'proven') : null
  return { certainty, sentence, causes, ruledOut, doubt, letters: { en: letterIn('en'), de: letterIn('de') } }
}

function doubtOf(doubts: readonly string[], doubted: Doubted, isShown: boolean): string {
  const often = doubts
    .map((code) => `“${code.replaceAll('_', ' ')}” has been said to be wrong ${doubted.get(code)} times`)
    .join(', and ')
  return isShown
    ? `Computing shows it, but ${often}. Until an administrator has looked at that, it is told as likely.`
    : `Of what is told here, ${often}.`
}
