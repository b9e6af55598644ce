import type { diagnosisOperations } from '@bathyscribe/contract'
import { wireDifferenceView, wireStoryView } from './views/wire.js'
import type { Context } from '../../desk/context.js'
import { explainMessage } from '../../desk/diagnosis/explain-message.js'
import { wireDifference } from '../../desk/diagnosis/wire-difference.js'
import { readWireStory } from '../../desk/diagnosis/wire-story.js'
import type { Handlers } from './routes.js'

/** Calls that say why a message was refused. */
export function diagnosisHandlers(context: Context): Pick<Handlers, keyof typeof diagnosisOperations> {
  return {
    explainMessage: ({ caller, body }) => explainMessage(context, caller.actor, body),
    showWireDifference: async ({ caller, params }) =>
      wireDifferenceView(await wireDifference(context, caller.actor, params.entry)),
    showWireStory: async ({ caller, params }) =>
      wireStoryView(await readWireStory(context, caller.actor, params.entry)),
  }
}
