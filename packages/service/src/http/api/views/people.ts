import type { ApiToken, AuditEntry, Member, Person } from '@bathyscribe/contract'
import type { z } from 'zod'
import type { findDoubles } from '../../../desk/identity/doubles.js'
import type { AuditRow } from '../../../records/audit.js'
import type { ApiTokenRecord, PersonRecord } from '../../../records/entities/people.js'
import type { MemberRow } from '../../../records/people.js'
import { inText } from './moments.js'

/** Who seems to share accounts; without the launches themselves. */
export function doublesView({ lookedThrough, doubles }: Awaited<ReturnType<typeof findDoubles>>) {
  return {
    lookedThrough,
    items: doubles.map(({ person, likenesses }) => ({
      person,
      likenesses: likenesses.map(({ launches, ...one }) => ({ ...inText(one), launches: launches.length })),
    })),
  }
}

export function personView(person: PersonRecord): Person {
  const { id, username, givenName, familyName, fullName, email, sourcedId, siteRole, isTestLearner } = person
  return {
    id,
    username,
    givenName,
    familyName,
    fullName,
    email,
    sourcedId,
    siteRole,
    isTestLearner,
    hasPassword: person.passwordHash !== null,
    closed: person.closedAt !== null,
    createdAt: person.createdAt.toISOString(),
  }
}

export function memberView({ person, enrolment }: MemberRow): Member {
  const { id, fullName, username, email } = person
  const { role, state, since, droppedAt } = enrolment
  return { person: { id, fullName, username, email }, ...inText({ role, state, since, droppedAt }) }
}

export function tokenView(token: ApiTokenRecord): z.output<typeof ApiToken> {
  const { id, name, scopes, createdAt, expiresAt, lastUsedAt, revokedAt } = token
  return inText({ id, name, scopes, createdAt, expiresAt, lastUsedAt, revokedAt })
}

export function auditView(entry: AuditRow): AuditEntry {
  return { ...entry, at: entry.at.toISOString() }
}
