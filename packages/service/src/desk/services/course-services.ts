import { COURSE_FILES_MEDIA_TYPE, GROUPS_MEDIA_TYPE } from '@bathyscribe/core/lti13'
import { fileLink } from '../files/file-links.js'
import type { Context } from '../context.js'
import type { CallerRow } from '../../records/statements/service-callers.js'
import type { ServiceAnswer } from './answer.js'

const MOST_GROUPS = 500

/** Course Groups 1.0: the groups of a course in pages, all or those of one person by the subject of its launches. */
export async function contextGroups(
  { records }: Context,
  { course }: CallerRow,
  query: { userId?: string | undefined; limit?: number | undefined; after?: string | undefined },
): Promise<ServiceAnswer> {
  const all = await records.groups.list(course.id)
  const mine = query.userId === undefined ? undefined : await records.groups.idsOfSubject(course.id, query.userId)
  const asked = all
    .filter((one) => (mine === undefined || mine.includes(one.id)) && one.id > (query.after ?? ''))
    .sort((a, b) => (a.id < b.id ? -1 : 1))
  const groups = asked
    .slice(0, Math.min(MOST_GROUPS, Math.max(1, query.limit ?? MOST_GROUPS)))
    .map((one) => ({ id: one.id, name: one.name, set_id: one.setId }))
  return {
    mediaType: GROUPS_MEDIA_TYPE,
    body: { id: course.id, groups },
    ...(groups.length < asked.length && { next: { after: groups.at(-1)!.id } }),
  }
}

/** Course Groups 1.0: the sets that groups belong to. */
export async function contextGroupSets({ records }: Context, { course }: CallerRow): Promise<ServiceAnswer> {
  const sets = await records.groups.sets(course.id)
  return { mediaType: GROUPS_MEDIA_TYPE, body: { id: course.id, sets: sets.map(({ id, name }) => ({ id, name })) } }
}

/** Course files, an extension of ours (docs/course-files.md): what there is, and an address for each by which it can be fetched for some minutes. */
export async function courseFiles(context: Context, { course }: CallerRow): Promise<ServiceAnswer> {
  const files = await context.records.files.list(course.id)
  return {
    mediaType: COURSE_FILES_MEDIA_TYPE,
    body: {
      id: course.id,
      files: files.map((file) => {
        const { href, expiresAt } = fileLink(context, file.id)
        return {
          id: file.id,
          name: file.name,
          media_type: file.mediaType,
          bytes: file.bytes,
          sha256: file.contentKey,
          href,
          expires_at: expiresAt.toISOString(),
        }
      }),
    },
  }
}
