import { z } from 'zod'
import { Moment, SerialId, ToolRef } from './common.js'

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
