import * as diagnosis from '../resources/diagnosis.js'
import { z } from 'zod'
import { ProofChange } from '../resources/assignments.js'
import { SerialId } from '../resources/common.js'
import { WireEntry } from '../resources/wire.js'
import { WireStory } from '../resources/wire-story.js'
import { administrator, person, teachingSomewhere } from './access.js'
import { define } from './define.js'

/** Calls that say why a message was refused. */
export const diagnosisOperations = {
  explainMessage: define(
    'wire',
    'POST /api/wire/explain',
    'Says what a pasted base string, form post or token is, and what is wrong with it',
    // It says whether a secret fits a signature, so nobody shall try many.
    { access: person, perMinute: 60, body: diagnosis.PastedMessage, answer: diagnosis.ExplainedMessage },
  ),
  showWireDifference: define(
    'wire',
    'GET /api/wire/:entry/difference',
    'How a message differs from the last good one of the same kind and link',
    {
      access: person,
      params: z.object({ entry: SerialId }),
      answer: z.object({
        good: WireEntry.nullable().describe('null: none before was good'),
        differences: z.array(z.object({ part: z.string(), then: z.string(), now: z.string() })),
        changes: z
          .array(ProofChange)
          .describe('what was changed here between the two, of the link or its tool; a signature shows no secret'),
      }),
    },
  ),
  showWireStory: define(
    'wire',
    'GET /api/wire/:entry/story',
    'The messages of the launch that an entry belongs to, in their order; also as a file',
    {
      touchedBy: ['score', 'refusal', 'launch'],
      access: person,
      params: z.object({ entry: SerialId }),
      answer: WireStory,
    },
  ),
  judgeDiagnosis: define('wire', 'PUT /api/wire/:entry/verdict', 'Says whether what explains an entry was right', {
    access: teachingSomewhere,
    params: z.object({ entry: SerialId }),
    body: diagnosis.NewVerdict,
    answer: diagnosis.Verdicts,
  }),
  takeVerdictBack: define('wire', 'DELETE /api/wire/:entry/verdict', 'Takes back what was said of an entry', {
    access: teachingSomewhere,
    params: z.object({ entry: SerialId }),
  }),
  listCauseCodes: define('wire', 'GET /api/wire/cause-codes', 'The codes of all causes that are known', {
    access: person,
    answer: z.object({ items: z.array(z.string()) }),
  }),
  listCauses: define('wire', 'GET /api/wire/causes', 'How often each cause was right, by month', {
    touchedBy: ['refusal'],
    access: administrator,
    answer: diagnosis.CauseRecords,
  }),
  lookAtCause: define(
    'wire',
    'POST /api/wire/causes/:code/look',
    'Says that somebody has looked at a cause: it is told as proven again, until it is wrong twice more',
    { access: administrator, params: z.object({ code: z.string().max(200) }) },
  ),
} as const
