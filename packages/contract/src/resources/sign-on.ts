import { ADMITS, MATCHES } from '@bathyscribe/core/identity'
import { z } from 'zod'
import { Id, line, Moment, Revision } from './common.js'

export { ADMITS, MATCHES, type Admits, type Match } from '@bathyscribe/core/identity'

/** As a person would say them. */
export const MATCH_WORDS: Readonly<Record<(typeof MATCHES)[number], string>> = {
  nobody: 'not at all: people tie their accounts themselves',
  email: 'by email address, where the provider has verified it',
  username: 'by user name',
  sourced_id: 'by the registrar’s identifier',
}
export const ADMITS_WORDS: Readonly<Record<(typeof ADMITS)[number], string>> = {
  known: 'only people who have an account here, as by a roster',
  everybody: 'everybody; who has no account gets one',
}

const handle = z.string().regex(/^[a-z][a-z0-9-]{0,39}$/, 'one to 40 small letters, digits and hyphens, a letter first')
/** A claim’s name as it stands in an ID token. */
const claim = line(100).min(1)

/** Where somebody can sign in, as the sign-in page shows it to strangers. */
export const SignOnChoice = z.object({ handle: z.string(), name: z.string() })
export type SignOnChoice = z.infer<typeof SignOnChoice>

export const IdentityProvider = SignOnChoice.extend({
  id: Id,
  issuer: z.string(),
  clientId: z.string(),
  hasSecret: z.boolean(),
  scopes: z.string(),
  match: z.enum(MATCHES),
  matchClaim: z.string().nullable().describe('null: the usual one'),
  admits: z.enum(ADMITS),
  administratorClaim: z.string().nullable(),
  administratorValue: z.string().nullable(),
  enabled: z.boolean(),
  people: z.int().describe('whose accounts are tied to it'),
  lastAt: Moment.nullable().describe('when somebody last signed in by it'),
  revision: Revision,
  redirectUri: z.string().describe('to be registered at the provider'),
  signOutUri: z.string().describe('where the provider may send logout tokens (OpenID Connect Back-Channel Logout 1.0)'),
  afterSignOutUri: z.string().describe('where browsers come back to after signing out at the provider'),
})
export type IdentityProvider = z.infer<typeof IdentityProvider>

const issuer = z
  .url({ protocol: /^https?$/ })
  .max(2000)
  .refine((text) => !/[?#]/.test(text), 'must have neither a query nor a fragment')
const scopes = line(500).refine((text) => text.split(' ').includes('openid'), 'must hold openid')

const changeable = {
  name: line(100).min(1).describe('as people know it: it stands on the button'),
  issuer: issuer.describe('exactly as the provider writes it into its tokens'),
  clientId: line(300).min(1),
  clientSecret: line(1000)
    .min(1)
    .nullable()
    .optional()
    .describe('null: a public client; the one held stays unless given'),
  scopes: scopes.describe('separated by spaces'),
  match: z.enum(MATCHES).describe('how people are found at their first visit'),
  matchClaim: claim.nullable().describe('the claim that holds it, unless the usual one'),
  admits: z.enum(ADMITS).describe('who may sign in'),
  administratorClaim: claim.nullable().describe('the claim that makes administrators, such as groups'),
  administratorValue: line(300).min(1).nullable().describe('the value that it has, or holds, for them'),
  enabled: z.boolean(),
}
const bothOrNone = (one: {
  administratorClaim?: string | null | undefined
  administratorValue?: string | null | undefined
}) =>
  (one.administratorClaim === undefined) === (one.administratorValue === undefined) &&
  ((one.administratorClaim ?? null) === null) === ((one.administratorValue ?? null) === null)
const BOTH = { error: 'claim and value belong together: give both, or neither', path: ['administratorValue'] }

export const NewIdentityProvider = z
  .strictObject({
    ...changeable,
    handle: handle.describe('short name; it stands in the addresses that the provider is told'),
    scopes: changeable.scopes.default('openid profile email'),
    match: changeable.match.default('email'),
    matchClaim: changeable.matchClaim.default(null),
    admits: changeable.admits.default('known'),
    administratorClaim: changeable.administratorClaim.default(null),
    administratorValue: changeable.administratorValue.default(null),
    enabled: changeable.enabled.default(true),
  })
  .refine(bothOrNone, BOTH)
export const IdentityProviderChange = z
  .strictObject({ ...z.object(changeable).partial().shape, revision: Revision.describe('the one that was read') })
  .refine(bothOrNone, BOTH)

/** One thing that was looked at in a provider. */
export const SignOnFinding = z.object({
  what: z.string(),
  state: z.enum(['good', 'look', 'bad']),
  says: z.string(),
})
export type SignOnFinding = z.infer<typeof SignOnFinding>
export const SignOnChecked = z.object({ provider: IdentityProvider, findings: z.array(SignOnFinding) })
export type SignOnChecked = z.infer<typeof SignOnChecked>

/** An account at an identity provider that is tied to an account here. */
export const Identity = z.object({
  provider: SignOnChoice.extend({ enabled: z.boolean() }),
  subject: z.string().describe('as the provider calls the person, for good'),
  tiedAt: Moment,
  tiedBy: z.enum(['match', 'made', 'person']).describe('found at the first visit, made at it, or tied by the person'),
  lastAt: Moment,
  gaveAdministrator: z.boolean().describe('whether the site role comes from its claims'),
})
export type Identity = z.infer<typeof Identity>
/** As a person would say them. */
export const TIED_BY_WORDS: Readonly<Record<Identity['tiedBy'], string>> = {
  match: 'found at the first sign-in',
  made: 'the account was made by it',
  person: 'tied by hand',
}

const localPath = z
  .string()
  .max(2000)
  .regex(/^\/([^/\\\u0000-\u001f\u007f][^\u0000-\u001f\u007f]*)?$/, 'must be a path of this service')
export const SignOnStart = z.strictObject({
  provider: z.string().max(40),
  next: localPath.default('/').describe('the page to come back to'),
})
export const SignOnStarted = z.object({ location: z.string().describe('the provider’s page, to go to') })
export const LocalPath = localPath
