import type { UnitItemRecord } from '../../records/entities/content.js'
import type { Context } from '../context.js'

/** An item of nothing but defaults, with what is given. Where it stands among others is said when it is stored. */
export function unitItem<Given extends Pick<UnitItemRecord, 'courseId' | 'kind'> & Partial<UnitItemRecord>>(
  { ids, clock }: Pick<Context, 'ids' | 'clock'>,
  given: Given,
): Omit<UnitItemRecord, 'position'> & Given {
  const now = clock.now()
  return {
    id: ids.next(),
    unitId: null,
    title: '',
    published: false,
    pinned: false,
    assignmentId: null,
    fileId: null,
    body: '',
    address: null,
    registrationId: null,
    launchUrl: null,
    customParameters: {},
    documentTarget: 'frame',
    resourceLinkId: given.kind === 'tool_link' ? ids.secret().slice(0, 24) : null,
    content: null,
    revision: 1,
    createdAt: now,
    updatedAt: now,
    ...given,
  }
}
