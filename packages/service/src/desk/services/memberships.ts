import { Refusal } from '@bathyscribe/contract'
import { COURSE_ROLES, disclose, lti13Roles } from '@bathyscribe/core/identity'
import { resolveVariables } from '@bathyscribe/core/links'
import { memberMessage, MEMBERSHIPS_MEDIA_TYPE, memberView, rolesAsked } from '@bathyscribe/core/lti13'
import type { RosterLink, RosterRow } from '../../records/rosters.js'
import type { Context } from '../context.js'
import { linkFacts, variablesOf } from '../launches/launch-facts.js'
import { courseServices } from './claims.js'
import type { ServiceAnswer } from './answer.js'
import type { CallerRow } from '../../records/statements/service-callers.js'

const MOST = 1000

export interface MembershipsQuery {
  role?: string | undefined
  limit?: number | undefined
  /** A resource link: only members whom it is for, with what its launch would say of each. */
  rlid?: string | undefined
  /** Of the page before. */
  after?: string | undefined
  /** Of an earlier reading: only what changed since, those who left included. */
  since?: string | undefined
}

/**
 * The roster of a course (NRPS 2.0 section 2.4), by person in pages, no more of anybody than the registration allows; the test learner only where the registration asks for it.
 * One query a page, one more where a link is named.
 * @throws Refusal `roster.*`
 */
export async function memberships(
  context: Context,
  caller: CallerRow,
  query: MembershipsQuery,
): Promise<ServiceAnswer> {
  const { tool, course } = caller
  const limit = Math.min(MOST, Math.max(1, query.limit ?? MOST))
  if (query.since !== undefined && !/^\d{1,19}$/.test(query.since))
    throw new Refusal('roster.mark', query.since.slice(0, 40))
  const link = query.rlid === undefined ? undefined : await context.records.rosters.link(course.id, tool.id, query.rlid)
  if (query.rlid !== undefined && !link) throw new Refusal('roster.foreign_link', `“${query.rlid.slice(0, 60)}”`)
  const asked = query.role === undefined ? COURSE_ROLES : rolesAsked(query.role)
  const { rows, mark } = await context.records.rosters.page({
    courseId: course.id,
    registrationId: tool.id,
    roles: asked.filter((role) => role !== 'test_learner' || tool.rosterTestLearner),
    since: query.since ?? null,
    after: query.after ?? null,
    limit: limit + 1,
    forAssignment: link?.assignmentId ?? null,
    at: context.clock.now(),
    notes: query.role === undefined && query.rlid === undefined && query.after === undefined,
  })
  const shown = rows.slice(0, limit)
  const message = link && messageOf(context, caller, link)
  const url = `${courseServices(context.settings, course.id)}/memberships`
  return {
    mediaType: MEMBERSHIPS_MEDIA_TYPE,
    body: {
      id: url,
      context: { id: course.id, label: course.code, title: course.title },
      members: shown.map((row) =>
        memberView(
          { ...row, courseRole: row.role, status: row.state === 'active' ? 'Active' : 'Deleted' },
          tool.disclosure,
          message?.(row),
        ),
      ),
    },
    ...(rows.length > limit
      ? { next: { after: shown.at(-1)!.id } }
      : { differences: { since: mark ?? (await context.records.rosters.mark()) } }),
  }
}

function messageOf(context: Context, { tool, course }: CallerRow, link: RosterLink) {
  const custom = { ...tool.customParameters, ...link.customParameters }
  const facts = linkFacts(context, course, link)
  return (row: RosterRow) =>
    memberMessage(
      resolveVariables(custom, {
        ...facts,
        person: variablesOf(disclose(row, tool.disclosure), row),
        roles: lti13Roles(row.role, row.siteRole).join(','),
      }),
    )
}
