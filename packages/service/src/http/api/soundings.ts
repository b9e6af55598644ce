import { inWords, Refusal, type expectationOperations } from '@bathyscribe/contract'
import { compareFindings } from '@bathyscribe/core/checks'
import type { FastifyInstance } from 'fastify'
import { findingView, soundingView } from './views/soundings.js'
import { inText } from './views/moments.js'
import { isTaught, requireTeaching, type Seer } from '../../desk/identity/access.js'
import type { Context } from '../../desk/context.js'
import { clearTestLearner, showRehearsal } from '../../desk/rehearsal/rehearsal.js'
import { learnExpectation, removeExpectation, setExpectation } from '../../desk/soundings/expectations.js'
import { admit } from '../caller.js'
import type { Handlers } from './routes.js'

/** Calls about what soundings are held against, and about the test learner. */
export function expectationHandlers(context: Context): Pick<Handlers, keyof typeof expectationOperations> {
  const { records } = context
  return {
    showExpectation: async ({ caller }) => ({
      expectation: inText(await records.expectations.find(caller.assignment.id)),
    }),
    setExpectation: async ({ caller, body }) =>
      inText(await setExpectation(context, caller.actor, caller.assignment, body)),
    learnExpectation: async ({ caller }) => inText(await learnExpectation(context, caller.actor, caller.assignment)),
    removeExpectation: async ({ caller }) => {
      await removeExpectation(context, caller.actor, caller.assignment)
      return undefined
    },
    compareSoundings: async ({ caller, params, query }) => {
      const later = await visibleSounding(context, caller.actor, params.id)
      const other = query.with ?? (await records.soundings.passedBefore(later.assignment.id, later.id))
      if (other === undefined) throw new Refusal('sounding.none_passed')
      const earlier = await visibleSounding(context, caller.actor, other)
      if (earlier.assignment.id !== later.assignment.id) throw new Refusal('sounding.not_found', other)
      return {
        earlier: soundingView(earlier),
        later: soundingView(later),
        checks: compareFindings(
          await records.soundings.findings(earlier.id),
          await records.soundings.findings(later.id),
          (found) => inWords(found).statement,
        ).map((one) => ({
          ...one,
          earlier: one.earlier && findingView(one.earlier),
          later: one.later && findingView(one.later),
        })),
      }
    },
    showRehearsal: ({ caller }) => showRehearsal(context, caller.course.id),
    clearTestLearner: ({ caller }) => clearTestLearner(context, caller.actor, caller.course.id),
  }
}

/** Pictures travel as they are, not as JSON. */
export function registerPictures(app: FastifyInstance, context: Context): void {
  app.get<{ Params: { id: string; picture: string } }>(
    '/api/soundings/:id/pictures/:picture',
    {
      schema: {
        tags: ['soundings'],
        summary: 'What the browser showed of a launch, as a picture',
        operationId: 'showPicture',
      },
    },
    async (request, reply) => {
      const caller = await admit(app, context, { who: 'person', scope: 'read' }, request, reply)
      const { id, picture } = request.params
      await visibleSounding(context, caller.actor, id)
      const { mediaType, bytes } = await context.records.soundings.picture(id, picture)
      return reply.type(mediaType).header('cache-control', 'private, max-age=86400, immutable').send(bytes)
    },
  )
}

/** A sounding that somebody may see. @throws Refusal also for one that is not to be seen */
export async function visibleSounding({ records }: Context, actor: Seer, id: string) {
  const courses = await requireTeaching(records, actor)
  const sounding = await records.soundings.summary(id)
  if (!isTaught(courses, sounding.course.id)) throw new Refusal('sounding.not_found', id)
  return sounding
}
