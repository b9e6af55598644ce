import { plainUsername } from './username.js'
import type { SiteRole } from './roles.js'

/** By what somebody is found who comes from an identity provider for the first time. `nobody`: accounts are tied by their people only. */
export const MATCHES = ['nobody', 'email', 'username', 'sourced_id'] as const
export type Match = (typeof MATCHES)[number]
/** `known`: who has an account here already, as by a roster. `everybody`: others get one at their first visit. */
export const ADMITS = ['known', 'everybody'] as const
export type Admits = (typeof ADMITS)[number]

/** What an administrator decided about the people of an identity provider. */
export interface SignOnRule {
  match: Match
  /** The claim that holds what is matched; the usual one of OpenID Connect Core section 5.1 unless given. */
  matchClaim: string | null
  admits: Admits
  /** The claim, and its value, that make somebody an administrator; both null where no claim does. */
  administratorClaim: string | null
  administratorValue: string | null
}

/** The claims of a verified ID token (OpenID Connect Core section 2), and of its UserInfo answer. */
export type IdentityClaims = Readonly<Record<string, unknown>>

/** An account that has the identifier which was looked for. */
export interface FoundAccount {
  id: string
  siteRole: SiteRole
  closed: boolean
  /** Whether somebody else of the same identity provider has it already. */
  tiedToOther: boolean
}

export type FirstVisit =
  | { act: 'tie'; personId: string }
  | { act: 'make' }
  | { act: 'refuse'; why: 'not_known' | 'several' | 'tie_first' | 'other_subject' | 'closed' }

export type Identifier =
  | { found: 'none' }
  | { found: 'value'; match: Exclude<Match, 'nobody'>; value: string }
  | { found: 'missing' | 'unverified'; claim: string }

/** The claim in which each identifier is, unless the rule names another one. */
const USUAL_CLAIM: Readonly<Record<Exclude<Match, 'nobody'>, string>> = {
  email: 'email',
  username: 'preferred_username',
  sourced_id: 'sub',
}

/** The claim by which people are found at their first visit; undefined where none is. */
export function matchedClaim({ match, matchClaim }: Pick<SignOnRule, 'match' | 'matchClaim'>): string | undefined {
  return match === 'nobody' ? undefined : (matchClaim ?? USUAL_CLAIM[match])
}

/** Some providers write it as a text. */
const isVerified = (claims: IdentityClaims) => claims['email_verified'] === true || claims['email_verified'] === 'true'

/**
 * What is looked for at a first visit. An address counts only when the provider says that it belongs to the person
 * (`email_verified`, OpenID Connect Core section 5.7: of claims only `sub` is sure to stay a person’s own).
 */
export function identifierOf(rule: SignOnRule, claims: IdentityClaims): Identifier {
  const { match } = rule
  const claim = matchedClaim(rule)
  if (match === 'nobody' || claim === undefined) return { found: 'none' }
  const value = textOf(claims[claim])
  if (value === '') return { found: 'missing', claim }
  if (match === 'email' && !isVerified(claims)) return { found: 'unverified', claim }
  return { found: 'value', match, value: match === 'sourced_id' ? value : value.toLowerCase() }
}

/**
 * What is done with somebody who comes for the first time.
 * An administrator’s account is never given to whoever brings its address: its owner ties it, signed in another way.
 */
export function judgeFirstVisit({ admits }: Pick<SignOnRule, 'admits'>, accounts: readonly FoundAccount[]): FirstVisit {
  const [account] = accounts
  if (accounts.length > 1) return { act: 'refuse', why: 'several' }
  if (!account) return admits === 'everybody' ? { act: 'make' } : { act: 'refuse', why: 'not_known' }
  if (account.closed) return { act: 'refuse', why: 'closed' }
  if (account.tiedToOther) return { act: 'refuse', why: 'other_subject' }
  if (account.siteRole === 'administrator') return { act: 'refuse', why: 'tie_first' }
  return { act: 'tie', personId: account.id }
}

/** Whether the claims make their person an administrator; null where the rule leaves that to people. A claim may be one value or several. */
export function saysAdministrator(
  { administratorClaim, administratorValue }: SignOnRule,
  claims: IdentityClaims,
): boolean | null {
  if (administratorClaim === null || administratorValue === null) return null
  const claim = claims[administratorClaim]
  return Array.isArray(claim) ? claim.includes(administratorValue) : claim === administratorValue
}

/** What a sign-in changes of a site role. Only a role that the provider gave is taken back by it. */
export function roleChange(
  says: boolean | null,
  now: { siteRole: SiteRole; givenByProvider: boolean },
): 'widen' | 'narrow' | null {
  if (says === true && now.siteRole !== 'administrator') return 'widen'
  const isTakenBack = says !== true && now.siteRole === 'administrator' && now.givenByProvider
  return isTakenBack ? 'narrow' : null
}

/** The account that is made for claims, as far as they tell; the user name may be taken. */
export function accountOf(claims: IdentityClaims): {
  username: string
  fullName: string
  givenName: string
  familyName: string
  email: string | null
} {
  const [givenName, familyName] = [textOf(claims['given_name'], 100), textOf(claims['family_name'], 100)]
  const address = textOf(claims['email'], 254)
  const email = isVerified(claims) && /^[^\s@]+@[^\s@]+$/u.test(address) ? address : null
  const [local = ''] = address.split('@')
  const username = [textOf(claims['preferred_username']).split('@')[0] ?? '', local, 'person']
    .map(asUsername)
    .find((name) => name.length >= 2)!
  const fullName = textOf(claims['name'], 200) || `${givenName} ${familyName}`.trim() || username
  return { username, fullName, givenName, familyName, email }
}

/** With what user names may hold, and room for a number behind it. */
function asUsername(text: string): string {
  const plain = [...plainUsername(text)].map((one) => (/[\p{Ll}\p{Lo}\p{N}._-]/u.test(one) ? one : '-')).join('')
  return [...plain.replace(/^[._-]+/u, '')].slice(0, 50).join('')
}

function textOf(value: unknown, most = 300): string {
  if (typeof value === 'number') return String(value)
  return typeof value === 'string' ? value.replaceAll('\u0000', '').trim().slice(0, most) : ''
}
