import type { Admits, Match } from '@bathyscribe/core/identity'
import { Column, Entity, PrimaryColumn } from 'typeorm'

@Entity('identity_provider')
export class IdentityProviderRecord {
  @PrimaryColumn('text') id!: string
  @Column('text') handle!: string
  @Column('text') name!: string
  @Column('text') issuer!: string
  @Column('text', { name: 'client_id' }) clientId!: string
  @Column('bytea', { name: 'secret_sealed', nullable: true }) secretSealed!: Buffer | null
  @Column('text') scopes!: string
  @Column('text') match!: Match
  @Column('text', { name: 'match_claim', nullable: true }) matchClaim!: string | null
  @Column('text') admits!: Admits
  @Column('text', { name: 'administrator_claim', nullable: true }) administratorClaim!: string | null
  @Column('text', { name: 'administrator_value', nullable: true }) administratorValue!: string | null
  @Column('boolean') enabled!: boolean
  @Column('integer') revision!: number
  @Column('timestamptz', { name: 'created_at' }) createdAt!: Date
}

/** That an account here belongs to one at an identity provider. */
@Entity('identity')
export class IdentityRecord {
  @PrimaryColumn('text', { name: 'provider_id' }) providerId!: string
  @PrimaryColumn('text') subject!: string
  @Column('text', { name: 'person_id' }) personId!: string
  @Column('text', { name: 'tied_by' }) tiedBy!: 'match' | 'made' | 'person'
  @Column('timestamptz', { name: 'tied_at' }) tiedAt!: Date
  @Column('timestamptz', { name: 'last_at' }) lastAt!: Date
  /** Since when its claims make the person an administrator; null unless they do. */
  @Column('timestamptz', { name: 'administrator_since', nullable: true }) administratorSince!: Date | null
}
