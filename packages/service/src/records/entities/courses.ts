import type { DocumentTarget } from '@bathyscribe/core/lti1'
import type { ContentItem } from '@bathyscribe/core/content'
import { Column, Entity, PrimaryColumn } from 'typeorm'

@Entity('course')
export class CourseRecord {
  @PrimaryColumn('text') id!: string
  @Column('text') code!: string
  /** The code as people type it in commands: capitals, blanks as hyphens. */
  @Column('text', { name: 'code_key' }) codeKey!: string
  @Column('text') title!: string
  @Column('text') term!: string
  @Column('text', { name: 'time_zone' }) timeZone!: string
  @Column('text', { name: 'sourced_id', nullable: true }) sourcedId!: string | null
  @Column('timestamptz', { name: 'starts_at', nullable: true }) startsAt!: Date | null
  @Column('timestamptz', { name: 'ends_at', nullable: true }) endsAt!: Date | null
  /** Rich text, sanitised. */
  @Column('text') welcome!: string
  /** Of the welcome page. */
  @Column('integer') revision!: number
  @Column('timestamptz', { name: 'created_at' }) createdAt!: Date
}

@Entity('category')
export class CategoryRecord {
  @PrimaryColumn('text') id!: string
  @Column('text', { name: 'course_id' }) courseId!: string
  @Column('text') name!: string
  @Column('integer') position!: number
}

@Entity('assignment')
export class AssignmentRecord {
  @PrimaryColumn('text') id!: string
  @Column('text', { name: 'course_id' }) courseId!: string
  @Column('text', { name: 'registration_id' }) registrationId!: string
  @Column('text') slug!: string
  @Column('text') title!: string
  /** Rich text, sanitised. */
  @Column('text') instructions!: string
  /** Exact decimal as text. */
  @Column('numeric') points!: string
  @Column('text', { name: 'category_id', nullable: true }) categoryId!: string | null
  /** Whether its points enter the total. */
  @Column('boolean') counted!: boolean
  @Column('timestamptz', { name: 'opens_at', nullable: true }) opensAt!: Date | null
  @Column('timestamptz', { name: 'due_at', nullable: true }) dueAt!: Date | null
  @Column('timestamptz', { name: 'closes_at', nullable: true }) closesAt!: Date | null
  @Column('integer', { nullable: true }) attempts!: number | null
  /** False: for the groups and people that are listed for it. */
  @Column('boolean', { name: 'for_everyone' }) forEveryone!: boolean
  /** What the tool's picker handed over. */
  @Column('jsonb', { nullable: true }) content!: ContentItem | null
  @Column('text', { name: 'content_tool_id', nullable: true }) contentToolId!: string | null
  /** Of the table row that it was made from: the same row again makes nothing new. */
  @Column('text', { name: 'row_key', nullable: true }) rowKey!: string | null
  @Column('text') state!: 'draft' | 'published' | 'deleted'
  @Column('text', { name: 'state_before', nullable: true }) stateBefore!: 'draft' | 'published' | null
  @Column('timestamptz', { name: 'deleted_at', nullable: true }) deletedAt!: Date | null
  @Column('text', { name: 'document_target' }) documentTarget!: DocumentTarget
  @Column('text', { name: 'launch_url', nullable: true }) launchUrl!: string | null
  @Column('jsonb', { name: 'custom_parameters' }) customParameters!: Record<string, string>
  @Column('text', { name: 'resource_link_id' }) resourceLinkId!: string
  @Column('integer') revision!: number
  @Column('integer') position!: number
  @Column('timestamptz', { name: 'published_at', nullable: true }) publishedAt!: Date | null
  @Column('timestamptz', { name: 'created_at' }) createdAt!: Date
  @Column('timestamptz', { name: 'updated_at' }) updatedAt!: Date
  /** When something changed that a launch depends on: address, tool, parameters, target. */
  @Column('timestamptz', { name: 'settings_changed_at' }) settingsChangedAt!: Date
}
