import type { CourseRole, SiteRole } from '@bathyscribe/core/identity'
import type { TokenScope } from '@bathyscribe/contract'
import { Column, Entity, PrimaryColumn } from 'typeorm'

@Entity('person')
export class PersonRecord {
  @PrimaryColumn('text') id!: string
  @Column('text') username!: string
  @Column('text', { name: 'given_name' }) givenName!: string
  @Column('text', { name: 'family_name' }) familyName!: string
  @Column('text', { name: 'full_name' }) fullName!: string
  @Column('text', { nullable: true }) email!: string | null
  @Column('text', { name: 'sourced_id', nullable: true }) sourcedId!: string | null
  @Column('text') subject!: string
  @Column('text', { name: 'site_role' }) siteRole!: SiteRole
  @Column('text', { name: 'password_hash', nullable: true }) passwordHash!: string | null
  @Column('boolean', { name: 'is_test_learner' }) isTestLearner!: boolean
  @Column('timestamptz', { name: 'closed_at', nullable: true }) closedAt!: Date | null
  @Column('timestamptz', { name: 'created_at' }) createdAt!: Date
}

@Entity('session')
export class SessionRecord {
  @PrimaryColumn('text') id!: string
  @Column('bytea', { name: 'token_hash' }) tokenHash!: Buffer
  @Column('text', { name: 'person_id' }) personId!: string
  @Column('timestamptz', { name: 'created_at' }) createdAt!: Date
  @Column('timestamptz', { name: 'last_seen_at' }) lastSeenAt!: Date
  @Column('timestamptz', { name: 'expires_at' }) expiresAt!: Date
  /** When its person last proved who they are: by the password, or by signing in at the provider. */
  @Column('timestamptz', { name: 'confirmed_at' }) confirmedAt!: Date
  @Column('text', { name: 'user_agent' }) userAgent!: string
  /** The identity provider that it was begun by, what that one calls the session, and its ID token, sealed: for signing out there. */
  @Column('text', { name: 'provider_id', nullable: true }) providerId!: string | null
  @Column('text', { name: 'provider_session', nullable: true }) providerSession!: string | null
  @Column('bytea', { name: 'id_token_sealed', nullable: true }) idTokenSealed!: Buffer | null
}

@Entity('api_token')
export class ApiTokenRecord {
  @PrimaryColumn('text') id!: string
  @Column('bytea', { name: 'token_hash' }) tokenHash!: Buffer
  @Column('text', { name: 'person_id' }) personId!: string
  @Column('text') name!: string
  @Column('text', { array: true }) scopes!: TokenScope[]
  @Column('timestamptz', { name: 'created_at' }) createdAt!: Date
  @Column('timestamptz', { name: 'expires_at' }) expiresAt!: Date
  @Column('timestamptz', { name: 'last_used_at', nullable: true }) lastUsedAt!: Date | null
  @Column('timestamptz', { name: 'revoked_at', nullable: true }) revokedAt!: Date | null
}

@Entity('enrolment')
export class EnrolmentRecord {
  @PrimaryColumn('text', { name: 'course_id' }) courseId!: string
  @PrimaryColumn('text', { name: 'person_id' }) personId!: string
  @Column('text') role!: CourseRole
  @Column('text') state!: 'active' | 'dropped'
  @Column('timestamptz') since!: Date
  @Column('timestamptz', { name: 'dropped_at', nullable: true }) droppedAt!: Date | null
}
