import { upTo } from '../text/index.js'
/** What a column of a tool's export can hold. */
export const EXPORT_FIELDS = ['identifier', 'email', 'name', 'given', 'family', 'score', 'maximum'] as const
export type ExportField = (typeof EXPORT_FIELDS)[number]
/** Which head holds what; fields that the export does not have are left out. */
export type ExportReading = Partial<Record<ExportField, string>>

const WORDS: Record<ExportField, RegExp> = {
  identifier:
    /^(user ?id|user ?name|login|identifier|id|sis ?id|sourced ?id|student ?(id|no|number)|matriculation|kennung|identifiant)$/,
  email: /^(e-?mail|e-?mail address|mail|courriel)$/,
  name: /^(name|full ?name|student|learner|participant|navn|nom)$/,
  given: /^(first|first ?name|given ?name|forename|fornavn|vorname|prénom)$/,
  family: /^(last|last ?name|family ?name|surname|etternavn|nachname)$/,
  score: /^(score|points|result|grade|mark|earned|points earned|final score|percent|percentage|poeng|punkte)$/,
  maximum: /^(max|maximum|max ?score|max ?points|out ?of|possible|points possible|total possible|of)$/,
}

/** Guesses what columns hold, by their heads and, where these say nothing, by what stands in them. Each head is used once. */
export function guessColumns(heads: readonly string[], rows: readonly (readonly string[])[]): ExportReading {
  const reading: ExportReading = {}
  const used = new Set<string>()
  const take = (field: ExportField, head: string | undefined) => {
    if (head === undefined || reading[field] !== undefined || used.has(head)) return
    reading[field] = head
    used.add(head)
  }
  const plain = (head: string) => upTo(head.toLowerCase().replace(/[_.]+/g, ' '), '([').trim()
  for (const field of EXPORT_FIELDS)
    take(
      field,
      heads.find((head) => !used.has(head) && WORDS[field].test(plain(head))),
    )
  const column = (i: number) =>
    rows
      .slice(0, 50)
      .map((row) => row[i] ?? '')
      .filter((cell) => cell !== '')
  const all = (i: number, test: RegExp) => column(i).length > 0 && column(i).every((cell) => test.test(cell))
  take(
    'email',
    heads.find((head, i) => !used.has(head) && all(i, /^[^\s@]+@[^\s@]+$/)),
  )
  // The last column of numbers is the score more often than the first, which counts rows.
  const numbers = heads.filter((head, i) => !used.has(head) && all(i, /^-?\d+([.,]\d+)?%?$/))
  take('score', numbers.at(-1))
  return reading
}
