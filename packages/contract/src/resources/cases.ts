import { CASE_ACTORS, CASE_CERTAINTIES, CASE_CODES, type CaseActor, type CaseCertainty } from '@bathyscribe/core/cases'
import { z } from 'zod'
import { AssignmentRef, DatedCourse, Decimal, Id, line, Moment, PersonRef, prose, SerialId, ToolRef } from './common.js'
import { Diagnosis } from './diagnosis.js'
import { Cell } from './gradebook.js'

/** `none`: nobody has taken it up. */
export const CASE_STATES = ['none', 'open', 'closed'] as const

/**
 * `message`: crossed the wire. `score`: entered the trail. `change`: of the assignment, the tool or the points of the column. `said`: by the learner.
 * `letter`, `reminder`: written to somebody. `state`: the case was opened or closed.
 */
export const CASE_EVENT_KINDS = ['message', 'score', 'change', 'said', 'letter', 'reminder', 'state'] as const

/** One thing that happened between one person and one assignment. */
export const CaseEvent = z.object({
  at: Moment,
  kind: z.enum(CASE_EVENT_KINDS),
  tone: z.enum(['good', 'bad', 'plain']),
  sentence: z.string(),
  isCertain: z.boolean().describe('it is about this person beyond doubt; otherwise it may be'),
  by: z.string().nullable().describe('full name of who did it, when it was a person'),
  text: z.string().nullable().describe('what was said or written'),
  wireEntryId: SerialId.nullable(),
})
export type CaseEvent = z.infer<typeof CaseEvent>

const Letter = z.object({ subject: z.string(), text: z.string() })
const Letters = z.object({ en: Letter, de: Letter })

/** Who has to act, and how certain something is, as people say it. */
export const CASE_ACTOR_WORDS: Readonly<Record<CaseActor, string>> = {
  nobody: 'nobody',
  learner: 'the learner',
  instructor: 'the instructor',
  technologist: 'the learning technologist',
  tool: 'the tool’s support',
}
export const CASE_CERTAINTY_WORDS: Readonly<Record<CaseCertainty, string>> = {
  proven: 'proven',
  likely: 'likely',
  unknown: 'not known',
}

/** What explains where somebody stands, and who has to act next. */
export const CaseJudged = z.object({
  code: z.enum(CASE_CODES),
  certainty: z.enum(CASE_CERTAINTIES),
  actor: z.enum(CASE_ACTORS).describe('who has to act; `tool`: its support'),
  sentence: z.string(),
  act: z.string().describe('what is to be done'),
})

/** Everything that happened between one person and one assignment. */
export const Case = z.object({
  person: PersonRef,
  assignment: AssignmentRef,
  course: DatedCourse,
  tool: ToolRef,
  state: z.enum(CASE_STATES),
  since: Moment.nullable().describe('since when it is in that state'),
  cell: Cell,
  outOf: Decimal,
  judged: CaseJudged,
  diagnosis: Diagnosis.nullable().describe('why the message was refused that it is about'),
  events: z.array(CaseEvent).describe('newest first'),
  more: z.boolean().describe('older ones are not shown'),
  letters: z.object({
    learner: Letters,
    support: Letters.nullable().describe('null where there is nothing to ask'),
  }),
  mail: z.object({ on: z.boolean().describe('whether this service sends mail'), learner: z.string().nullable() }),
})
export type Case = z.infer<typeof Case>

export const CaseStateChange = z.strictObject({
  state: z.enum(['open', 'closed']),
  note: prose(2000).default('').describe('for those who look at it later'),
})

export const CaseLetter = z
  .strictObject({
    to: z.enum(['learner', 'support']),
    by: z.enum(['mail', 'page']).describe('`page`: stands on the learner’s own pages until they have read it'),
    address: z.email().max(200).optional().describe('of the support; a learner’s is known'),
    subject: line(200).min(1),
    text: prose(8000).refine((text) => text.trim() !== '', 'must not be empty'),
  })
  .refine(({ to, by }) => to === 'learner' || by === 'mail', { path: ['by'], error: 'support is written to by mail' })
  .refine(({ to, address }) => (to === 'support') === (address !== undefined), {
    path: ['address'],
    error: 'must be there for the support, and only then',
  })

/** The same text to several learners of one assignment. */
export const NewLetters = z.strictObject({
  people: z.array(line(100)).min(1).max(2000).describe('identifiers or user names'),
  by: z.enum(['mail', 'page']).default('page'),
  subject: line(200).min(1),
  text: prose(8000).refine((text) => text.trim() !== '', 'must not be empty'),
})
export const Written = z.object({
  written: z.array(PersonRef),
  withoutAddress: z.array(PersonRef).describe('not mailed'),
})
export type Written = z.infer<typeof Written>

/** A case as lists show it. */
export const CaseRow = z.object({
  person: PersonRef,
  assignment: AssignmentRef,
  course: DatedCourse.omit({ timeZone: true }),
  tool: ToolRef,
  state: z.enum(['open', 'closed']),
  since: Moment,
  said: z.string().nullable().describe('what the learner said last'),
})
export type CaseRow = z.infer<typeof CaseRow>

export const MissingScore = z.strictObject({
  said: prose(2000).default('').describe('what was done, and when'),
})
export const MissingScoreHeard = z.object({
  sentence: z.string().describe('what is known already'),
  since: Moment.describe('when it was first said'),
})

/** Somebody who never opened an assignment. */
export const ToRemind = z.object({
  person: PersonRef,
  hasAddress: z.boolean(),
  remindedAt: Moment.nullable(),
})
export const Reminders = z.object({
  items: z.array(ToRemind),
  mail: z.boolean().describe('whether this service sends mail'),
  texts: z.object({ en: z.string(), de: z.string() }).describe('as it is said unless another text is given'),
})
export type Reminders = z.infer<typeof Reminders>

export const NewReminder = z.strictObject({
  people: z
    .array(line(100))
    .max(2000)
    .optional()
    .describe('identifiers or user names; everybody who never opened it unless given'),
  by: z.enum(['mail', 'page']).default('page'),
  text: prose(2000).optional(),
  again: z.boolean().default(false).describe('also those who were reminded less than 20 hours ago'),
})
export const Reminded = z.object({
  reminded: z.array(PersonRef),
  withoutAddress: z.array(PersonRef).describe('not mailed'),
  passedOver: z.array(PersonRef).describe('reminded less than 20 hours ago'),
})
export type Reminded = z.infer<typeof Reminded>

/** What somebody was told on their own pages and has not put away yet. */
export const Note = z.object({
  id: SerialId,
  at: Moment,
  subject: z.string(),
  text: z.string(),
  by: z.string().nullable(),
  assignment: AssignmentRef,
  course: z.object({ id: Id, code: z.string(), title: z.string() }),
})
export type Note = z.infer<typeof Note>
