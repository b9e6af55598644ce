import type { CourseState } from '@bathyscribe/contract'
import type { DocumentTarget } from '@bathyscribe/core/lti1'
import type { ContentItem } from '@bathyscribe/core/content'
import type { Counting } from '@bathyscribe/core/scores'
import { Column, Entity, PrimaryColumn } from 'typeorm'

export type AssignmentState = 'draft' | 'published' | 'deleted' | 'column' | 'merged'

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
  @Column('text') state!: CourseState
  /** When it was closed or deleted; null for an open one. */
  @Column('timestamptz', { name: 'state_since', nullable: true }) stateSince!: Date | null
  @Column('timestamptz', { name: 'starts_at', nullable: true }) startsAt!: Date | null
  @Column('timestamptz', { name: 'ends_at', nullable: true }) endsAt!: Date | null
  /** Rich text, sanitised. */
  @Column('text') welcome!: string
  /** Of the welcome page. */
  @Column('integer') revision!: number
  /** How many decimals points are shown with; only ever of display. */
  @Column('integer', { name: 'shown_decimals' }) shownDecimals!: number
  /** Whether what has no score counts as nothing earned in totals. */
  @Column('boolean', { name: 'missing_counts' }) missingCounts!: boolean
  @Column('timestamptz', { name: 'created_at' }) createdAt!: Date
}

@Entity('category')
export class CategoryRecord {
  @PrimaryColumn('text') id!: string
  @Column('text', { name: 'course_id' }) courseId!: string
  @Column('text') name!: string
  @Column('integer') position!: number
  /** Percent of the total as decimal text; null as long as none was given. */
  @Column('numeric', { nullable: true }) weight!: string | null
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
  /** `column`: made by a tool, no assignment of ours. `merged`: such a column that another stands for. */
  @Column('text') state!: AssignmentState
  @Column('text', { name: 'state_before', nullable: true }) stateBefore!: AssignmentState | null
  /** Which of the scores received counts. */
  @Column('text') counting!: Counting
  @Column('text', { name: 'merged_into', nullable: true }) mergedInto!: string | null
  /** The link that a tool's own column belongs to. */
  @Column('text', { name: 'tied_to', nullable: true }) tiedTo!: string | null
  /** What the tool calls it (AGS 2.0 section 3.2). */
  @Column('text', { name: 'said_resource_id', nullable: true }) saidResourceId!: string | null
  @Column('text', { name: 'said_tag', nullable: true }) saidTag!: string | null
  /** Whether learners see their results in it. */
  @Column('boolean') released!: boolean
  /** Whether the tool shows single submissions of it, and where; without an address at its launch address (Submission Review 1.0). */
  @Column('boolean') reviewable!: boolean
  @Column('text', { name: 'review_url', nullable: true }) reviewUrl!: string | null
  @Column('jsonb', { name: 'review_custom' }) reviewCustom!: Record<string, string>
  @Column('text', { name: 'review_label', nullable: true }) reviewLabel!: string | null
  /** How far work is that it shows; null for any. */
  @Column('text', { name: 'review_statuses', array: true, nullable: true }) reviewStatuses!: string[] | null
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
