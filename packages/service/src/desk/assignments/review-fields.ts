import type { SubmissionReview } from '@bathyscribe/core/content'
import type { AssignmentRecord } from '../../records/entities/courses.js'

/** What a record keeps of how the tool shows single submissions; of items that were kept by earlier versions some of it is not known. */
export function reviewFields(
  review: Partial<SubmissionReview> | null | undefined,
): Pick<AssignmentRecord, 'reviewable' | 'reviewUrl' | 'reviewCustom' | 'reviewLabel' | 'reviewStatuses'> {
  return {
    reviewable: review != null,
    reviewUrl: review?.url ?? null,
    reviewCustom: review?.custom ?? {},
    reviewLabel: review?.label ?? null,
    reviewStatuses: review?.statuses ?? null,
  }
}
