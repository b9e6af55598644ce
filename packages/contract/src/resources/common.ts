import { z } from 'zod'

export const Id = z.string().regex(/^[0-9a-z]{1,32}$/)
/** Identifier of something that only ever grows: a whole number as text, in the range of the records. */
export const SerialId = z.string().regex(/^[0-9]{1,18}$/)
/** How often something was changed; one more is still in the range of the records. */
export const Revision = z
  .int()
  .min(0)
  .max(2 ** 31 - 2)
export const Moment = z.iso.datetime({
  offset: true,
  error: 'must be a moment with its zone, such as 2026-12-31T23:59:00Z',
})
/** A plain decimal as text, so that nothing is lost on the way. */
export const Decimal = z.string().regex(/^-?\d{1,80}(\.\d{1,80})?$/)

/** Text of one line: trimmed, without control characters. */
export const line = (max: number) =>
  z
    .string()
    .trim()
    .max(max)
    .regex(/^[^\u0000-\u001f\u007f]*$/, 'must be one line of text')
    .refine((text) => text.isWellFormed(), 'must not hold half a character')
/** Text of several lines. PostgreSQL cannot hold U+0000. */
export const prose = (max: number) =>
  z
    .string()
    .max(max)
    .regex(/^[^\u0000]*$/, 'must not hold the character U+0000')
    .refine((text) => text.isWellFormed(), 'must not hold half a character')

export const PageQuery = z.strictObject({
  limit: z.coerce.number().int().min(1).max(200).default(50).describe('how many rows at most'),
  cursor: z.string().max(200).optional().describe('`next` of the page before'),
})

export const page = <T extends z.ZodType>(item: T) =>
  z.object({ items: z.array(item), next: z.string().nullable().describe('cursor of the next page; null on the last') })

export const CustomParameters = z
  .record(line(100).min(1), prose(2000))
  .refine((record) => Object.keys(record).length <= 50, 'at most 50 parameters')

export const PersonRef = z.object({ id: Id, fullName: z.string(), username: z.string() })
export const CourseRef = z.object({ id: Id, code: z.string(), title: z.string() })
/** A course with the time zone in which its dates are planned. */
export const DatedCourse = CourseRef.extend({ timeZone: z.string() })
/** `waiting`: registered, but not approved yet. `deleted`: can be brought back for a while. */
export const TOOL_STATES = ['draft', 'waiting', 'enabled', 'suspended', 'retired', 'deleted'] as const
export type ToolState = (typeof TOOL_STATES)[number]
export const ToolRef = z.object({ id: Id, slug: z.string(), name: z.string(), state: z.enum(TOOL_STATES) })
export const AssignmentRef = z.object({ id: Id, slug: z.string(), title: z.string() })

/** What is known of something found, by name: numbers, codes, what others said. Words are made of it last. */
export const KnownFacts = z
  .record(z.string(), z.unknown())
  .describe('what is known of it; the sentences are made of this')

/** A file that is made when it is asked for. */
export const TextFile = z.object({ name: z.string(), mediaType: z.string(), text: z.string() })
