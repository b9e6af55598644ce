import type { diagnosisOperations } from '@bathyscribe/contract'
import type { Context } from '../../desk/context.js'
import { explainMessage } from '../../desk/diagnosis/explain-message.js'
import { wireDifference } from '../../desk/wire-difference.js'
import { readWireStory } from '../../desk/wire-story.js'
import type { Handlers } from './routes.js'

/** Calls that say why a message was refused. */
export function diagnosisHandlers(context: Context): Pick<Handlers, keyof typeof diagnosisOperations> {
  return {
    explainMessage: ({ caller, body }) => explainMessage(context, caller.actor, body),
    showWireDifference: ({ caller, params }) => wireDifference(context, caller.actor, params.entry),
    showWireStory: ({ caller, params }) => readWireStory(context, caller.actor, params.entry),
  }
}
