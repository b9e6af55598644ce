import { ERRORS, type CourseFile, type ErrorCode, type Picking } from '@bathyscribe/contract'
import type { FileRow } from '../../../records/files.js'
import type { PickingRow } from '../../../records/pickings.js'

export function fileView(file: FileRow): CourseFile {
  const { id, name, mediaType, bytes, by, uses } = file
  return {
    id,
    name,
    mediaType,
    bytes,
    by,
    uses,
    createdAt: file.createdAt.toISOString(),
    href: `/api/courses/${file.courseId}/files/${id}/content`,
  }
}

export function pickingView(picking: PickingRow): Picking {
  const { id, tool, purpose, state, items, said, code, wireEntryId } = picking
  return {
    id,
    tool,
    purpose,
    state,
    items,
    problems: picking.problems.map((one) => ({
      place: one.place,
      title: one.title,
      code: one.code,
      sentence: `${ERRORS[one.code].sentence} (${one.detail})`,
    })),
    said,
    code,
    sentence: code === null ? null : ERRORS[code as ErrorCode].sentence,
    openAt: `/lti/picker/${id}`,
    windowAt: `/lti/picker/${id}/open?target=window`,
    wireEntryId,
    madeAt: picking.madeAt.toISOString(),
    expiresAt: picking.expiresAt.toISOString(),
    answeredAt: picking.answeredAt?.toISOString() ?? null,
  }
}
