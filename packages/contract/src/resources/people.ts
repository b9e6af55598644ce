import { writeTable } from '@bathyscribe/core/formats'
import { COURSE_ROLES, DISCLOSURES, plainUsername, SITE_ROLES } from '@bathyscribe/core/identity'
import { z } from 'zod'
import { SignOnChoice } from './sign-on.js'
import { CourseRef, Id, line, Moment, PersonRef, SerialId, TextFile, ToolRef } from './common.js'

export const Username = z
  .string()
  .max(200)
  .transform(plainUsername)
  .pipe(
    z
      .string()
      .regex(
        /^[\p{Ll}\p{Lo}\p{N}][\p{Ll}\p{Lo}\p{Lm}\p{M}\p{N}._-]{1,62}$/u,
        'two to 63 small letters of any script, digits, dots, hyphens and underscores',
      ),
  )
export const SHORTEST_PASSWORD = 12
export const Password = z.string().min(SHORTEST_PASSWORD, `at least ${SHORTEST_PASSWORD} characters`).max(200)

export const TOKEN_SCOPES = ['read', 'teach', 'administer'] as const
/** `read`: look at what the person may see. `teach`: change what belongs to courses. `administer`: change what belongs to the site. */
export const TokenScope = z.enum(TOKEN_SCOPES)
export type TokenScope = z.infer<typeof TokenScope>

export const Person = PersonRef.extend({
  givenName: z.string(),
  familyName: z.string(),
  email: z.string().nullable(),
  sourcedId: z.string().nullable(),
  siteRole: z.enum(SITE_ROLES),
  isTestLearner: z.boolean(),
  closed: z.boolean(),
  hasPassword: z.boolean(),
  createdAt: Moment,
})
export type Person = z.infer<typeof Person>

/** Parts of all people, as lists show them. */
export const PEOPLE_PARTS = ['administrators', 'without_password', 'closed', 'in_no_course'] as const

/** Where a person is, and which tools have met them. */
export const PersonPlaces = z.object({
  courses: z.array(
    z.object({
      course: CourseRef,
      role: z.enum(COURSE_ROLES),
      state: z.enum(['active', 'dropped']),
      since: Moment,
      droppedAt: Moment.nullable(),
    }),
  ),
  tools: z.array(
    z.object({
      tool: ToolRef,
      disclosure: z.enum(DISCLOSURES).describe('what of the person it may see'),
      assignments: z.int().describe('assignments that the person has opened'),
      launches: z.int(),
      firstAt: Moment,
      lastAt: Moment,
    }),
  ),
})
export type PersonPlaces = z.infer<typeof PersonPlaces>

/** One of the people who seem to share an account, as tools were told of them. */
export const Likeness = z.object({
  name: z.string().describe('as it was told last'),
  names: z.array(z.string()),
  emails: z.array(z.string()),
  firstAt: Moment,
  lastAt: Moment,
  launches: z.int(),
})
export const Doubles = z.object({
  lookedThrough: z.int().describe('how many of the newest wire entries were looked through'),
  items: z.array(z.object({ person: PersonRef, likenesses: z.array(Likeness) })),
})

export const PersonParted = z.object({
  done: z.boolean().describe('false: only what would be'),
  person: PersonRef,
  made: z.object({ username: z.string(), fullName: z.string(), email: z.string().nullable() }),
  launches: z.int(),
  scores: z.int(),
  undecided: z.int().describe('entries of the trail of which it is not known whose they are; they stay'),
  courses: z.array(z.string()),
})

/** All that is kept of one person. Secrets and their fingerprints are left out: they say nothing of anybody. */
export const PersonData = z.object({
  at: Moment,
  person: PersonRef,
  kinds: z.array(
    z.object({
      kind: z.string().describe('of what the rows tell, such as “scores”'),
      rows: z.array(z.record(z.string(), z.unknown())).describe('newest first, by the names of their columns'),
      more: z.boolean().describe('older ones are kept than are handed out at once'),
    }),
  ),
})
export type PersonData = z.infer<typeof PersonData>
export const PersonRemoval = z.strictObject({
  username: z.string().max(100).describe('once more, so that nobody is removed in the place of another'),
})
export const PersonRemoved = z.object({
  person: PersonRef.describe('under the name that courses use from now on'),
  messages: z.int().describe('wire entries that were removed'),
  results: z.int().describe('results that stay in gradebooks, of nobody who is known'),
})

const nullToUndefined = <T>(value: T | null) => value ?? undefined

export const PersonPart = z.strictObject({
  name: line(300).min(1).describe('one of the names that the account was launched under'),
  username: Username.describe('of the new account'),
  email: z.email().max(200).optional().describe('the one that tools were told of unless given'),
  apply: z.boolean().default(false).describe('without it nothing is done: what is said is what would be'),
})

export const NewPerson = z.strictObject({
  username: Username,
  givenName: line(100).default(''),
  familyName: line(100).default(''),
  fullName: line(200).min(1),
  email: z.email().max(254).nullish().transform(nullToUndefined),
  sourcedId: line(100).nullish().transform(nullToUndefined),
  siteRole: z.enum(SITE_ROLES).default('none'),
  password: Password.optional().describe('without one the person cannot sign in by password'),
})
export const PersonChange = z.strictObject({
  fullName: line(200).min(1).optional(),
  givenName: line(100).optional(),
  familyName: line(100).optional(),
  email: z.email().max(254).nullable().optional(),
  siteRole: z.enum(SITE_ROLES).optional(),
  closed: z.boolean().optional().describe('a closed account cannot sign in; its sessions and tokens end'),
  password: Password.optional(),
})

export const SignIn = z.strictObject({ username: z.string().max(100), password: z.string().max(200) })
export const SessionInfo = z.object({
  person: Person,
  /** For a browser: to be sent as `x-csrf-token` with every changing call. */
  csrfToken: z.string().nullable(),
  scopes: z.array(TokenScope),
  teaches: z.boolean().describe('is an instructor or teaching assistant of at least one course'),
  signedInBy: SignOnChoice.nullable().describe('the identity provider that the session was begun by'),
  platform: z.object({
    name: z.string(),
    version: z.string(),
    publicUrl: z.string(),
    soundOnPublish: z.boolean().describe('whether the console sounds what is published there'),
  }),
})
export type SessionInfo = z.infer<typeof SessionInfo>

export const SignedOut = z.object({
  leaveAt: z
    .string()
    .nullable()
    .describe('the identity provider’s page that signs out there, too; null where there is none'),
})

export const Session = z.object({
  id: Id,
  by: z.string().nullable().describe('the identity provider that it was begun by; null: user name and password'),
  createdAt: Moment,
  lastSeenAt: Moment,
  expiresAt: Moment,
  userAgent: z.string(),
  current: z.boolean(),
})
export const ApiToken = z.object({
  id: Id,
  name: z.string(),
  scopes: z.array(TokenScope),
  createdAt: Moment,
  expiresAt: Moment,
  lastUsedAt: Moment.nullable(),
  revokedAt: Moment.nullable(),
})
export const NewApiToken = z.strictObject({
  name: line(100).min(1),
  scopes: z.array(TokenScope).min(1).default(['read']),
  expiresInDays: z.int().min(1).max(366).default(90),
})
export const CreatedApiToken = ApiToken.extend({ token: z.string().describe('shown this once, kept only as a hash') })
export const Confirmation = z.strictObject({ password: z.string().max(200) })
export const PasswordChange = z.strictObject({
  present: z.string().max(200),
  wanted: Password,
  keepTokens: z
    .boolean()
    .default(false)
    .describe('keep API tokens and connections of tools; they end otherwise, as other sessions do'),
})
export const Setup = z.strictObject({
  code: z.string().trim().max(100),
  username: Username,
  fullName: line(200).min(1),
  password: Password,
})
/** Links by which people set a password of their own: for those who are named, those of a course, or everybody who has none. */
export const SignInLinks = z
  .strictObject({
    people: z.array(z.string().min(1).max(100)).min(1).max(1000).optional().describe('identifiers or user names'),
    course: z.string().max(60).optional(),
    again: z.boolean().default(false).describe('also for people who have a password; it stays until they set another'),
    days: z.int().min(1).max(30).default(14).describe('how long the links are good'),
    mail: z.boolean().default(false).describe('mail them to those who have an address'),
  })
  .refine((one) => one.people === undefined || one.course === undefined, 'name people or a course, not both')
export const SignInLinksMade = z.object({
  items: z.array(
    z.object({
      person: PersonRef,
      email: z.string().nullable(),
      link: z.string().nullable().describe('shown this once; null where it is mailed'),
    }),
  ),
  expiresAt: Moment,
  passedOver: z.array(PersonRef).describe('people who have a password'),
  more: z.boolean().describe('whether there are more people than one call makes links for'),
})
export type SignInLinksMade = z.infer<typeof SignInLinksMade>
/** As a table to hand out or to mail from. */
export function signInLinksCsv({ items }: SignInLinksMade): string {
  return writeTable(
    ['user name', 'name', 'email', 'link'],
    items.map(({ person, email, link }) => [person.username, person.fullName, email ?? '', link ?? 'mailed']),
  )
}
const LinkCode = z.string().trim().min(1).max(100)
export const SignInLinkQuestion = z.strictObject({ code: LinkCode })
export const SignInLinkHolder = z.object({ username: z.string(), fullName: z.string(), expiresAt: Moment })
export const SignInLinkUse = z.strictObject({ code: LinkCode, password: Password })
export const SetupState = z.object({ needed: z.boolean() })

export const Member = z.object({
  person: PersonRef.extend({ email: z.string().nullable() }),
  role: z.enum(COURSE_ROLES),
  state: z.enum(['active', 'dropped']),
  since: Moment,
  droppedAt: Moment.nullable(),
})
export type Member = z.infer<typeof Member>
export const NewEnrolment = z.strictObject({
  person: z.string().min(1).max(100).describe('identifier or user name'),
  role: z.enum(COURSE_ROLES),
})
export const EnrolmentChange = z
  .strictObject({
    role: z.enum(COURSE_ROLES).optional(),
    state: z.enum(['active', 'dropped']).optional(),
  })
  .refine((change) => change.role !== undefined || change.state !== undefined, 'role or state has to be given')

export const AuditEntry = z.object({
  id: SerialId,
  at: Moment,
  person: PersonRef.nullable(),
  via: z.string().describe('session, token or the service itself'),
  action: z.string(),
  subject: z.string(),
  before: z.unknown(),
  after: z.unknown(),
  course: CourseRef.nullable(),
})
export type AuditEntry = z.infer<typeof AuditEntry>

/** What is looked for in the audit. */
export const AuditQuery = z.strictObject({
  search: z.string().max(100).optional().describe('part of what was done, or of what it was done to'),
  person: z.string().max(100).optional().describe('by whom: identifier or user name'),
  course: z.string().max(60).optional(),
  since: Moment.optional(),
  until: Moment.optional(),
})
export const AuditReport = TextFile.extend({
  rows: z.int(),
  more: z.boolean().describe('there are older ones than stand in it'),
})
export type AuditReport = z.infer<typeof AuditReport>
