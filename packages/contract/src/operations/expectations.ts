import { z } from 'zod'
import { Id, Moment } from '../resources/common.js'
import { Expectation, NewExpectation } from '../resources/expectations.js'
import { Sounding, SoundingComparison } from '../resources/soundings.js'
import { person, teacher, teaching } from './access.js'
import { define } from './define.js'

const assignment = z.object({ assignment: z.string().max(200).describe('identifier, or COURSE/short-name') })

/** Calls about what a link is expected to do, what differs between soundings, and the test learner's own traces. */
export const expectationOperations = {
  showExpectation: define('soundings', 'GET /api/assignments/:assignment/expectation', 'Shows what is expected of it', {
    touchedBy: ['sounding'],
    access: teacher,
    params: assignment,
    answer: z.object({ expectation: Expectation.nullable() }),
  }),
  setExpectation: define(
    'soundings',
    'PUT /api/assignments/:assignment/expectation',
    'Sets what every sounding expects of it',
    { access: teaching, params: assignment, body: NewExpectation, answer: Expectation },
  ),
  learnExpectation: define(
    'soundings',
    'POST /api/assignments/:assignment/expectation/learn',
    'Expects from now on what the last passed sounding found',
    { access: teaching, params: assignment, answer: Expectation },
  ),
  removeExpectation: define('soundings', 'DELETE /api/assignments/:assignment/expectation', 'Removes its expectation', {
    access: teaching,
    params: assignment,
  }),
  compareSoundings: define(
    'soundings',
    'GET /api/soundings/:id/comparison',
    'Holds a sounding against an earlier one of the same assignment: the last that passed, unless named',
    {
      access: person,
      params: z.object({ id: Id }),
      query: z.strictObject({ with: Id.optional() }),
      answer: SoundingComparison,
    },
  ),
  showRehearsal: define(
    'rehearsal',
    'GET /api/courses/:course/rehearsal',
    'Shows what the test learner of a course has opened and what came of it',
    {
      touchedBy: ['score', 'launch', 'sounding'],
      access: teacher,
      params: z.object({ course: z.string().max(60) }),
      answer: z.object({
        testLearner: z.object({ id: Id, fullName: z.string() }),
        traces: z.int().describe('visits and scores that a reset takes away'),
        items: z.array(
          z.object({
            assignment: Sounding.shape.assignment,
            tool: Sounding.shape.tool,
            state: z.enum(['draft', 'published']),
            launches: z.int(),
            lastAt: Moment.nullable(),
            points: z.string().nullable(),
            outOf: z.string(),
            refusesTestLearners: z.boolean().describe('the last sounding found that the tool takes no test learners'),
          }),
        ),
      }),
    },
  ),
  clearTestLearner: define(
    'rehearsal',
    'POST /api/courses/:course/rehearsal/clear',
    'Takes away everything that the test learner left in a course; the trail keeps it, counting for nothing',
    {
      access: teaching,
      params: z.object({ course: z.string().max(60) }),
      answer: z.object({ visits: z.int(), scores: z.int() }),
    },
  ),
}
