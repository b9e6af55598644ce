import type { AssignmentRecord } from '../../records/entities/courses.js'

type AssignmentRefRow = Pick<AssignmentRecord, 'id' | 'slug' | 'title'>

/** How an assignment is named in answers. */
export const assignmentRef = ({ id, slug, title }: AssignmentRefRow): AssignmentRefRow => ({ id, slug, title })
