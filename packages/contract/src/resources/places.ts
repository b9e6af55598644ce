import { z } from 'zod'
import { Id, line, Moment, PersonRef } from './common.js'

export const Group = z.object({ id: Id, name: z.string(), members: z.array(PersonRef) })
export const GroupSet = z.object({
  id: Id,
  name: z.string(),
  groups: z.array(Group),
  without: z.int().describe('learners in none of its groups'),
})
export type GroupSet = z.infer<typeof GroupSet>
export const NewGroupSet = z.strictObject({
  name: line(100).min(1),
  groups: z.int().min(1).max(200).optional().describe('divides the learners at random into so many'),
  table: z
    .string()
    .max(500_000)
    .optional()
    .describe('CSV with the columns group and person (user name, email or identifier)'),
})
export const NewGroup = z.strictObject({ name: line(100).min(1) })
export const GroupChange = z.strictObject({
  name: line(100).min(1).optional(),
  members: z.array(z.string().max(100)).max(2000).optional().describe('all of them, by identifier or user name'),
})

export const CourseFile = z.object({
  id: Id,
  name: z.string(),
  mediaType: z.string().describe('by its content'),
  bytes: z.int(),
  by: z.string().nullable(),
  createdAt: Moment,
  uses: z.int().describe('places in the outline'),
  href: z.string().describe('where it can be read'),
})
export type CourseFile = z.infer<typeof CourseFile>
