import { z } from 'zod'
import { Diagnosis } from './diagnosis.js'
import { AssignmentRef, CourseRef, Id, Moment, PageQuery, PersonRef, SerialId, ToolRef } from './common.js'

/**
 * `login`: a login initiation was sent through a browser. `launch`: the launch itself. `try`: sent by the service itself. `probe`: sent
 * wrong on purpose. `outcome`, `token`, `registration`, `service`, `score`: received. `return`: a browser came back. `picker`: a tool’s picker was opened or answered.
 */
export const WIRE_KINDS = [
  'login',
  'launch',
  'try',
  'probe',
  'reachability',
  'outcome',
  'token',
  'registration',
  'return',
  'picker',
  'service',
  'score',
] as const
export const WIRE_OUTCOMES = ['accepted', 'refused', 'failed'] as const

export const WireEntry = z.object({
  id: SerialId,
  at: Moment,
  kind: z.enum(WIRE_KINDS),
  direction: z.enum(['sent', 'received']),
  outcome: z.enum(WIRE_OUTCOMES),
  code: z.string().nullable(),
  statement: z.string(),
  tool: ToolRef.nullable(),
  course: CourseRef.nullable(),
  assignment: AssignmentRef.nullable(),
  person: PersonRef.nullable(),
  soundingId: Id.nullable(),
  durationMs: z.number(),
})
export type WireEntry = z.infer<typeof WireEntry>

export const WireEntryDetail = WireEntry.extend({
  /** As it crossed the wire, secrets masked. */
  request: z.object({
    method: z.string(),
    url: z.string(),
    headers: z.record(z.string(), z.string()).optional(),
    parameters: z.array(z.tuple([z.string(), z.string()])).optional(),
    body: z.string().optional(),
  }),
  response: z
    .object({
      status: z.int(),
      headers: z.record(z.string(), z.string()).optional(),
      body: z.string().optional(),
      steps: z
        .array(z.object({ method: z.string(), url: z.string(), status: z.int(), durationMs: z.number() }))
        .optional(),
    })
    .nullable(),
  /** What the code means and what to do, when there is one. */
  diagnosis: z.object({ sentence: z.string(), hint: z.string(), detail: z.string().nullable() }).nullable(),
  /** What explains it, where that could be found by computing. */
  explained: Diagnosis.nullable(),
})
export type WireEntryDetail = z.infer<typeof WireEntryDetail>

export const WireQuery = PageQuery.extend({
  tool: z.string().max(120).optional(),
  course: z.string().max(60).optional(),
  assignment: z.string().max(200).optional(),
  person: z.string().max(100).optional(),
  kind: z.enum(WIRE_KINDS).optional(),
  outcome: z.enum(WIRE_OUTCOMES).optional(),
  search: z
    .string()
    .max(200)
    .optional()
    .describe(
      'found in code, statement or request: any identifier that crossed the wire; of the last 100,000 entries unless narrowed',
    ),
})
