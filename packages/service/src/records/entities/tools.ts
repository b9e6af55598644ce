import type { Feature, FirstEntryRule, LtiVersion, Offer, ToolState } from '@bathyscribe/contract'
import type { Disclosure } from '@bathyscribe/core/identity'
import type { Audience, FramePermission, Placement } from '@bathyscribe/core/links'
import type { DocumentTarget } from '@bathyscribe/core/lti1'
import type { PublicKey, ToolMetadata } from '@bathyscribe/core/lti13'
import type { SignatureMethod } from '@bathyscribe/core/oauth1'
import { Column, Entity, PrimaryColumn } from 'typeorm'

@Entity('registration')
export class RegistrationRecord {
  @PrimaryColumn('text') id!: string
  @Column('text') slug!: string
  @Column('text') name!: string
  @Column('text') description!: string
  /** What names of look-alike tools have in common. */
  @Column('text') likeness!: string
  /** Null when it is registered for the whole institution. */
  @Column('text', { name: 'course_id', nullable: true }) courseId!: string | null
  @Column('text') state!: ToolState
  @Column('text') version!: LtiVersion
  /** Of LTI 1.1; of LTI 1.3 the pair it came from, for the migration claim. */
  @Column('text', { name: 'consumer_key', nullable: true }) consumerKey!: string | null
  /** The secret that launches are signed with. */
  @Column('bytea', { name: 'secret_sealed', nullable: true }) secretSealed!: Buffer | null
  @Column('timestamptz', { name: 'secret_set_at', nullable: true }) secretSetAt!: Date | null
  @Column('text', { name: 'launch_url', nullable: true }) launchUrl!: string | null
  @Column('text', { name: 'signature_method' }) signatureMethod!: SignatureMethod
  @Column('text', { name: 'client_id', nullable: true }) clientId!: string | null
  /** Where the vendor publishes what stands here. */
  @Column('text', { name: 'configuration_url', nullable: true }) configurationUrl!: string | null
  @Column('text', { name: 'initiation_url', nullable: true }) initiationUrl!: string | null
  @Column('text', { name: 'redirect_uris', array: true }) redirectUris!: string[]
  @Column('text', { name: 'keyset_url', nullable: true }) keysetUrl!: string | null
  @Column('jsonb', { name: 'public_keys', nullable: true }) publicKeys!: PublicKey[] | null
  /** Where its picker is opened; null for the launch address. */
  @Column('text', { name: 'picker_url', nullable: true }) pickerUrl!: string | null
  /** Rich text for learners, offered when an assignment on it is made. */
  @Column('text', { name: 'learner_text' }) learnerText!: string
  /** Titles under which it opens, letter by letter; empty for any. */
  @Column('text', { name: 'exact_titles', array: true }) exactTitles!: string[]
  /** What its pages may use in a frame. */
  @Column('text', { name: 'frame_permissions', array: true }) framePermissions!: FramePermission[]
  /** What its pages said of frames when they were last looked at. */
  @Column('text') framing!: 'unknown' | 'allowed' | 'refused'
  @Column('text', { array: true }) scopes!: string[]
  @Column('text', { array: true }) features!: Feature[]
  @Column('jsonb') placements!: Placement[]
  @Column('text') offer!: Offer
  @Column('boolean', { name: 'keys_per_course' }) keysPerCourse!: boolean
  /** The registration of the institution that a course's own one was made from. */
  @Column('text', { name: 'template_id', nullable: true }) templateId!: string | null
  @Column('text', { name: 'first_entry' }) firstEntry!: FirstEntryRule
  @Column('boolean', { name: 'scores_while_suspended' }) scoresWhileSuspended!: boolean
  @Column('text') disclosure!: Disclosure
  @Column('text', { name: 'document_target' }) documentTarget!: DocumentTarget
  @Column('jsonb', { name: 'custom_parameters' }) customParameters!: Record<string, string>
  @Column('jsonb', { name: 'sounding_parameters' }) soundingParameters!: Record<string, string>
  @Column('text') note!: string
  /** What the tool said of itself when it registered. */
  @Column('jsonb', { nullable: true }) metadata!: ToolMetadata | null
  /** What it wants to be changed, waiting for approval. */
  @Column('jsonb', { nullable: true }) proposal!: ToolMetadata | null
  /** Of the token by which the tool may read and propose changes. */
  @Column('bytea', { name: 'management_hash', nullable: true }) managementHash!: Buffer | null
  @Column('text', { name: 'state_before', nullable: true }) stateBefore!: ToolState | null
  @Column('timestamptz', { name: 'deleted_at', nullable: true }) deletedAt!: Date | null
  @Column('text', { name: 'replaced_by_id', nullable: true }) replacedById!: string | null
  @Column('integer') revision!: number
  @Column('timestamptz', { name: 'created_at' }) createdAt!: Date
  @Column('timestamptz', { name: 'updated_at' }) updatedAt!: Date
}

@Entity('menu_entry')
export class MenuEntryRecord {
  @PrimaryColumn('text') id!: string
  @Column('text', { name: 'course_id' }) courseId!: string
  @Column('text', { name: 'registration_id' }) registrationId!: string
  @Column('text') label!: string
  @Column('text', { name: 'launch_url', nullable: true }) launchUrl!: string | null
  @Column('jsonb', { name: 'custom_parameters' }) customParameters!: Record<string, string>
  @Column('text', { name: 'document_target' }) documentTarget!: DocumentTarget
  @Column('text') audience!: Audience
  @Column('boolean') shown!: boolean
  @Column('integer') position!: number
  @Column('text', { name: 'resource_link_id' }) resourceLinkId!: string
  @Column('integer') revision!: number
  @Column('timestamptz', { name: 'created_at' }) createdAt!: Date
  @Column('timestamptz', { name: 'updated_at' }) updatedAt!: Date
}

@Entity('deployment')
export class DeploymentRecord {
  @PrimaryColumn('text') id!: string
  @Column('text', { name: 'registration_id' }) registrationId!: string
  /** Null for the whole institution, or for the course that the registration belongs to. */
  @Column('text', { name: 'course_id', nullable: true }) courseId!: string | null
  @Column('text') label!: string
  @Column('timestamptz', { name: 'created_at' }) createdAt!: Date
}

@Entity('invitation')
export class InvitationRecord {
  @PrimaryColumn('text') id!: string
  @Column('bytea', { name: 'token_hash' }) tokenHash!: Buffer
  @Column('text') address!: string
  @Column('text', { name: 'course_id', nullable: true }) courseId!: string | null
  @Column('text', { name: 'person_id' }) personId!: string
  @Column('timestamptz', { name: 'made_at' }) madeAt!: Date
  @Column('timestamptz', { name: 'expires_at' }) expiresAt!: Date
  @Column('timestamptz', { name: 'used_at', nullable: true }) usedAt!: Date | null
  @Column('text', { name: 'registration_id', nullable: true }) registrationId!: string | null
  /** What it shall be called; null for what the tool calls itself. */
  @Column('text', { nullable: true }) name!: string | null
  /** Why the same tool may register a second time. */
  @Column('text', { name: 'second_reason', nullable: true }) secondReason!: string | null
  /** The registration of the same tool for which it was refused. */
  @Column('text', { name: 'same_as_id', nullable: true }) sameAsId!: string | null
}
