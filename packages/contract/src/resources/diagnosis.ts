import { z } from 'zod'
import { Moment, PersonRef, SerialId, ToolRef } from './common.js'

const Pair = z.tuple([z.string(), z.string()])

export const DiagnosedCause = z.object({
  code: z.string(),
  sentence: z.string(),
  evidence: z.array(Pair),
  ours: z.string().nullable().describe('what to change here'),
  theirs: z.string().nullable().describe('what to change at the tool’s end'),
})

/** What explains a refused message. `proven` by recomputing; `likely` by what speaks for it; `several` fit and it cannot be told which; `none` of all that are known. */
export const Diagnosis = z.object({
  certainty: z.enum(['proven', 'likely', 'several', 'none']),
  sentence: z.string(),
  causes: z.array(DiagnosedCause),
  ruledOut: z.array(z.string()),
  doubt: z
    .string()
    .nullable()
    .default(null)
    .describe('why it is told as no more than likely though computing shows it: its cause was wrong too often lately'),
  letters: z
    .object({ en: z.string(), de: z.string() })
    .describe('a text for the tool’s support in two languages, without secrets'),
})
export type Diagnosis = z.infer<typeof Diagnosis>

export const PastedMessage = z.strictObject({
  text: z.string().max(400_000),
  /** Where a pasted form post was sent, when it does not say so itself. */
  address: z.string().max(2000).optional(),
})

/** What a message from elsewhere is, and what is wrong with it. */
const ExplainedOne = z.object({
  kind: z.enum(['token', 'base_string', 'form', 'unreadable']),
  what: z.string(),
  tool: ToolRef.nullable(),
  parts: z.array(z.object({ title: z.string(), rows: z.array(Pair) })),
  /** The message that crossed the wire under the same nonce: the other end’s form of ours, or ours of theirs. */
  entry: z.object({ id: SerialId, at: Moment, direction: z.enum(['sent', 'received']) }).nullable(),
  differences: z.array(z.object({ part: z.string(), theirs: z.string(), ours: z.string() })),
  diagnosis: Diagnosis.nullable(),
  takenFor: z.string().describe('what the text was taken for, such as “a curl command”; empty for what cannot be read'),
})
/** One message of a pasted text. */
export type ExplainedOne = z.infer<typeof ExplainedOne>
export const ExplainedMessage = ExplainedOne.extend({
  also: z.array(ExplainedOne).describe('further messages in the same text, in their order'),
})
export type ExplainedMessage = z.infer<typeof ExplainedMessage>

export const VERDICTS = ['right', 'wrong'] as const
const CauseCode = z.string().max(200)

/** What a person says of a diagnosis afterwards. */
export const NewVerdict = z.strictObject({
  verdict: z.enum(VERDICTS),
  cause: CauseCode.optional().describe('which of its causes, by code; all of them unless said'),
  was: CauseCode.optional().describe('what it was instead, by code, where that is known'),
})

/** What was said of a cause afterwards, by a person or by the next message of the link. */
export const Verdict = z.object({
  code: z.string().describe('“none” where no cause was told'),
  verdict: z.enum(VERDICTS),
  was: z.string().nullable(),
  byItself: z.boolean().describe('the next message of the same link and kind passed within a day'),
  by: PersonRef.nullable(),
  at: Moment,
})
export type Verdict = z.infer<typeof Verdict>
export const Verdicts = z.object({
  items: z.array(Verdict),
  doubted: z
    .array(z.string())
    .describe('causes of this diagnosis that are told as likely until somebody has looked at them'),
})
export type Verdicts = z.infer<typeof Verdicts>

const Counted = z.object({
  right: z.int().describe('said by people'),
  rightByItself: z.int(),
  wrong: z.int(),
  missed: z.int().describe('it was this, and another or none was told'),
  precision: z.number().nullable().describe('of those told that were judged, the part that was right'),
  recall: z.number().nullable().describe('of those that it was, the part that was told'),
})
const MonthOfCause = Counted.extend({ month: z.string().describe('such as 2026-11, in UTC') })

/** How often a cause was right. */
export const CauseRecord = Counted.extend({
  code: z.string(),
  sentence: z.string().nullable().describe('as it was told last'),
  inDoubt: z.boolean().describe('told as likely until somebody has looked at it'),
  wrongSince: z.int().describe('wrong since somebody looked at it last'),
  lookedAt: z.object({ at: Moment, by: PersonRef.nullable() }).nullable(),
  last: z.object({ entry: SerialId.nullable(), at: Moment }).describe('judged last; the entry, while it is kept'),
  months: z.array(MonthOfCause).describe('oldest first'),
})
export type CauseRecord = z.infer<typeof CauseRecord>
export const CauseRecords = z.object({
  items: z.array(CauseRecord).describe('those in doubt first, then by how often they were judged'),
  months: z.array(MonthOfCause).describe('of all causes together, oldest first'),
})
export type CauseRecords = z.infer<typeof CauseRecords>
