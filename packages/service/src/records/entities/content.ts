import type { PICKING_PURPOSES, PICKING_STATES, UNIT_ITEM_KINDS } from '@bathyscribe/contract'
import type { ContentItem, ItemProblem } from '@bathyscribe/core/content'
import type { DocumentTarget } from '@bathyscribe/core/lti1'
import { Column, Entity, PrimaryColumn } from 'typeorm'

@Entity('unit')
export class UnitRecord {
  @PrimaryColumn('text') id!: string
  @Column('text', { name: 'course_id' }) courseId!: string
  @Column('text') title!: string
  @Column('boolean') published!: boolean
  @Column('integer') position!: number
  @Column('integer') revision!: number
  @Column('timestamptz', { name: 'created_at' }) createdAt!: Date
  @Column('timestamptz', { name: 'updated_at' }) updatedAt!: Date
}

/** What stands in a unit. A tool link without a unit is one that running text shows. */
@Entity('unit_item')
export class UnitItemRecord {
  @PrimaryColumn('text') id!: string
  @Column('text', { name: 'course_id' }) courseId!: string
  @Column('text', { name: 'unit_id', nullable: true }) unitId!: string | null
  @Column('text') kind!: (typeof UNIT_ITEM_KINDS)[number]
  /** Of an assignment it is the assignment's own, and empty here. */
  @Column('text') title!: string
  @Column('boolean') published!: boolean
  @Column('boolean') pinned!: boolean
  @Column('integer') position!: number
  @Column('text', { name: 'assignment_id', nullable: true }) assignmentId!: string | null
  @Column('text', { name: 'file_id', nullable: true }) fileId!: string | null
  /** Rich text, sanitised. */
  @Column('text') body!: string
  @Column('text', { nullable: true }) address!: string | null
  @Column('text', { name: 'registration_id', nullable: true }) registrationId!: string | null
  @Column('text', { name: 'launch_url', nullable: true }) launchUrl!: string | null
  @Column('jsonb', { name: 'custom_parameters' }) customParameters!: Record<string, string>
  @Column('text', { name: 'document_target' }) documentTarget!: DocumentTarget
  @Column('text', { name: 'resource_link_id', nullable: true }) resourceLinkId!: string | null
  @Column('jsonb', { nullable: true }) content!: ContentItem | null
  @Column('integer') revision!: number
  @Column('timestamptz', { name: 'created_at' }) createdAt!: Date
  @Column('timestamptz', { name: 'updated_at' }) updatedAt!: Date
}

@Entity('course_file')
export class CourseFileRecord {
  @PrimaryColumn('text') id!: string
  @Column('text', { name: 'course_id' }) courseId!: string
  @Column('text') name!: string
  @Column('text', { name: 'media_type' }) mediaType!: string
  @Column('bigint', { transformer: { from: Number, to: (n: number) => n } }) bytes!: number
  /** SHA-256 of the content, in hexadecimal: where it stands, shared by equal ones. */
  @Column('text', { name: 'content_key' }) contentKey!: string
  @Column('text', { name: 'person_id', nullable: true }) personId!: string | null
  @Column('timestamptz', { name: 'created_at' }) createdAt!: Date
}

/** A question to a tool's picker. */
@Entity('picking')
export class PickingRecord {
  @PrimaryColumn('text') id!: string
  @Column('text', { name: 'course_id' }) courseId!: string
  @Column('text', { name: 'registration_id' }) registrationId!: string
  @Column('text', { name: 'person_id' }) personId!: string
  @Column('text') purpose!: (typeof PICKING_PURPOSES)[number]
  @Column('text', { name: 'assignment_id', nullable: true }) assignmentId!: string | null
  @Column('boolean') multiple!: boolean
  @Column('text') state!: (typeof PICKING_STATES)[number]
  @Column('jsonb') items!: PickedContent[]
  @Column('jsonb') problems!: ItemProblem[]
  @Column('text', { nullable: true }) said!: string | null
  @Column('text', { nullable: true }) code!: string | null
  @Column('bigint', { name: 'wire_entry_id', nullable: true }) wireEntryId!: string | null
  @Column('timestamptz', { name: 'made_at' }) madeAt!: Date
  @Column('timestamptz', { name: 'expires_at' }) expiresAt!: Date
  @Column('timestamptz', { name: 'answered_at', nullable: true }) answeredAt!: Date | null
}

/** An item of a picker as it is kept: HTML sanitised, a file fetched into the course. */
export interface PickedContent extends ContentItem {
  fileId?: string | null
}
