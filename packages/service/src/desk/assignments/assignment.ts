import { Refusal } from '@bathyscribe/contract'
import { violatedKey } from '../../records/database.js'
import type { AssignmentRecord } from '../../records/entities/courses.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { Records } from '../../records/index.js'
import type { Context } from '../context.js'
import { unitItem } from '../outline/unit-item.js'
import { reviewFields } from './review-fields.js'

/** An assignment of nothing but defaults, on a tool. */
export function newAssignment(
  context: Pick<Context, 'ids'>,
  courseId: string,
  tool: Pick<RegistrationRecord, 'id' | 'documentTarget'>,
  now: Date,
): AssignmentRecord {
  return {
    id: context.ids.next(),
    courseId,
    registrationId: tool.id,
    slug: '',
    title: '',
    instructions: '',
    points: '0',
    counted: true,
    categoryId: null,
    opensAt: null,
    dueAt: null,
    closesAt: null,
    attempts: null,
    counting: 'latest',
    mergedInto: null,
    tiedTo: null,
    saidResourceId: null,
    saidTag: null,
    released: true,
    ...reviewFields(null),
    forEveryone: true,
    state: 'draft',
    stateBefore: null,
    deletedAt: null,
    documentTarget: tool.documentTarget,
    launchUrl: null,
    customParameters: {},
    content: null,
    contentToolId: null,
    rowKey: null,
    resourceLinkId: context.ids.secret().slice(0, 24),
    revision: 1,
    position: 0,
    publishedAt: null,
    createdAt: now,
    updatedAt: now,
    settingsChangedAt: now,
  }
}

/** Two people at once may take the same short name; the second one is told. */
export function slugTaken(slug: string): (error: unknown) => never {
  return (error) => {
    const key = violatedKey(error)
    if (key === undefined) throw error
    throw key === 'assignment_by_row_key'
      ? new Refusal('assignment.row_taken', slug)
      : new Refusal('assignment.slug_taken', slug)
  }
}

/** Puts new assignments at the end of a unit. */
export async function placeNew(
  inside: Records,
  context: Context,
  assignments: readonly AssignmentRecord[],
  unitId: string | null,
): Promise<void> {
  if (unitId === null) return
  await inside.outline.addItems(
    assignments[0]!.courseId,
    assignments.map((one) =>
      unitItem(context, { courseId: one.courseId, unitId, kind: 'assignment', assignmentId: one.id }),
    ),
  )
}

/** What a launch depends on. */
const LAUNCH_SETTINGS = ['registrationId', 'launchUrl', 'customParameters', 'documentTarget'] as const

/** Whether it is launched otherwise than before: then an old failure says nothing any more. */
export function launchesOtherwise(before: AssignmentRecord, next: AssignmentRecord): boolean {
  return LAUNCH_SETTINGS.some((name) => JSON.stringify(next[name]) !== JSON.stringify(before[name]))
}
