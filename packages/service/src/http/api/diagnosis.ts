import type { diagnosisOperations } from '@bathyscribe/contract'
import { CAUSE_CODES } from '@bathyscribe/core/diagnosis'
import { inText } from './views/moments.js'
import { wireDifferenceView, wireStoryView } from './views/wire.js'
import type { Context } from '../../desk/context.js'
import { explainMessage } from '../../desk/diagnosis/explain-message.js'
import { causeRecords, judgeDiagnosis, lookAtCause, takeVerdictBack } from '../../desk/diagnosis/judge.js'
import { wireDifference } from '../../desk/diagnosis/wire-difference.js'
import { readWireStory } from '../../desk/diagnosis/wire-story.js'
import { requireTeaching } from '../../desk/identity/access.js'
import type { Handlers } from './routes.js'

/** Calls that say why a message was refused, and whether that was right. */
export function diagnosisHandlers(context: Context): Pick<Handlers, keyof typeof diagnosisOperations> {
  return {
    explainMessage: ({ caller, body }) => explainMessage(context, caller.actor, body),
    showWireDifference: async ({ caller, params }) =>
      wireDifferenceView(await wireDifference(context, caller.actor, params.entry)),
    showWireStory: async ({ caller, params }) =>
      wireStoryView(await readWireStory(context, caller.actor, params.entry)),
    judgeDiagnosis: async ({ caller, params, body }) =>
      inText(await judgeDiagnosis(context, caller.actor, params.entry, body)),
    takeVerdictBack: async ({ caller, params }) => {
      await takeVerdictBack(context, caller.actor, params.entry)
      return undefined
    },
    listCauseCodes: async ({ caller }) => {
      await requireTeaching(context.records, caller.actor)
      return { items: [...CAUSE_CODES] }
    },
    listCauses: async () => inText(await causeRecords(context)),
    lookAtCause: async ({ caller, params }) => {
      await lookAtCause(context, caller.actor, params.code)
      return undefined
    },
  }
}
