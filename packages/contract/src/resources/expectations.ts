import { z } from 'zod'
import { Decimal, Id, Moment, PersonRef, prose } from './common.js'

const Fraction = z
  .string()
  .regex(/^(0(\.\d{1,20})?|1(\.0{1,20})?)$/)
  .describe('part of the whole, from 0 to 1')

/** What a link should do. What is left out is not expected. */
export const NewExpectation = z.strictObject({
  answersWithinMs: z.int().min(1).max(120_000).optional().describe('until the tool has answered a launch'),
  contains: prose(500).optional().describe('words that the page of a learner shows'),
  scoreFrom: Fraction.optional(),
  scoreTo: Fraction.optional(),
  membersFrom: z.int().min(0).max(100_000).optional().describe('people in the roster that the tool may read'),
})
export type NewExpectation = z.infer<typeof NewExpectation>

export const Expectation = z.object({
  answersWithinMs: z.int().nullable(),
  contains: z.string().nullable(),
  scoreFrom: Decimal.nullable(),
  scoreTo: Decimal.nullable(),
  membersFrom: z.int().nullable(),
  setAt: Moment,
  by: PersonRef.nullable(),
  learnedFrom: Id.nullable().describe('the sounding that it was learned from'),
})
export type Expectation = z.infer<typeof Expectation>
