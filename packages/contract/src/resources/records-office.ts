import { z } from 'zod'
import { AssignmentRef, Decimal, line, Moment, PersonRef } from './common.js'

/** How a column's results go on to the records office. */
export const HAND_ON = ['manual', 'scheduled', 'at_once', 'never'] as const
export type HandOn = (typeof HAND_ON)[number]
export const HAND_ON_WORDS: Readonly<Record<HandOn, string>> = {
  manual: 'by hand',
  scheduled: 'on schedule',
  at_once: 'at once',
  never: 'never',
}

const address = z.url({ protocol: /^https?$/ }).max(2000)

export const RecordsOffice = z.object({
  url: z.string(),
  tokenUrl: z.string(),
  clientId: z.string(),
  paused: z.boolean(),
  everyMinutes: z.int().nullable().describe('how often scheduled columns go on'),
  updatedAt: Moment,
})
export type RecordsOffice = z.infer<typeof RecordsOffice>
export const RecordsOfficeAnswer = z.object({ office: RecordsOffice.nullable() })
export const RecordsOfficeSettings = z.strictObject({
  url: address.describe('where its OneRoster 1.2 services are, without /ims/oneroster'),
  tokenUrl: address,
  clientId: line(200).min(1),
  clientSecret: line(500).min(1).optional().describe('the one held stays unless given'),
  paused: z.boolean().default(false),
  everyMinutes: z.int().min(1).max(10_080).nullable().default(60),
})

export const HANDED_ON_STATES = ['waiting', 'accepted', 'refused'] as const
export const HandOnColumn = AssignmentRef.extend({
  mode: z.enum(HAND_ON),
  results: z.int().describe('results that there are'),
  accepted: z.int().describe('as they are now, accepted by the records office'),
  waiting: z.int(),
  refused: z.int(),
  unsent: z.int().describe('never sent, or changed since'),
})
export type HandOnColumn = z.infer<typeof HandOnColumn>
export const HandOnTrouble = z.object({
  person: PersonRef,
  column: AssignmentRef,
  points: Decimal.nullable(),
  state: z.enum(HANDED_ON_STATES),
  tries: z.int(),
  answer: z.string().describe('what the records office said'),
  nextAt: Moment.nullable(),
})
export type HandOnTrouble = z.infer<typeof HandOnTrouble>
export const HandOnView = z.object({
  office: z.boolean().describe('whether there is a records office to send to'),
  paused: z.boolean(),
  columns: z.array(HandOnColumn),
  trouble: z.array(HandOnTrouble).describe('refused ones, and those that wait for another try'),
})
export type HandOnView = z.infer<typeof HandOnView>
export const HandOnAsk = z.strictObject({
  columns: z
    .array(z.string().max(200))
    .max(500)
    .optional()
    .describe('identifiers or COURSE/short-names; all of the course unless given'),
  again: z.boolean().default(false).describe('also what was refused, unchanged'),
  check: z.boolean().default(false).describe('only says how many would be sent'),
})
export const HandOnAsked = z.object({
  queued: z.int().describe('with `check`: that would be'),
  unchanged: z.int(),
})
export const Archive = z.object({ fileName: z.string(), zip: z.base64() })
