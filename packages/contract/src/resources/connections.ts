import { z } from 'zod'
import { CourseRef, Id, Moment, PersonRef, ToolRef } from './common.js'

const asked = {
  clientId: z.string().min(1).max(120),
  redirectUri: z.string().min(1).max(2000),
  scope: z.string().max(2000).describe('what the tool asks for, separated by spaces'),
  state: z.string().max(2000).default(''),
}
/** What a tool asks of an instructor's browser (RFC 6749 section 4.1.1). */
export const ConnectionAsked = z.strictObject(asked)
export const ConnectionAnswer = z.object({
  tool: ToolRef,
  description: z.string(),
  scopes: z.array(z.object({ scope: z.string(), says: z.string() })),
  courses: z.array(CourseRef).describe('courses that you instruct'),
  refuseTo: z.string().describe('where the browser goes when you refuse'),
})
export type ConnectionAnswer = z.infer<typeof ConnectionAnswer>
export const NewConnection = z.strictObject({
  ...asked,
  codeChallenge: z.string().max(200).describe('PKCE, S256'),
  scopes: z.array(z.string().max(200)).min(1).max(20),
  courses: z.array(Id).min(1).max(200),
})
export const Connection = z.object({
  id: Id,
  tool: ToolRef,
  person: PersonRef,
  scopes: z.array(z.string()),
  courses: z.array(CourseRef),
  madeAt: Moment,
  lastUsedAt: Moment.nullable(),
  revokedAt: Moment.nullable(),
  revokedBy: z.enum(['person', 'administrator', 'tool', 'misuse']).nullable(),
})
export type Connection = z.infer<typeof Connection>
