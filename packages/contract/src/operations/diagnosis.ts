import * as diagnosis from '../resources/diagnosis.js'
import { person } from './access.js'
import { define } from './define.js'

/** Calls that say why a message was refused. */
export const diagnosisOperations = {
  explainMessage: define(
    'wire',
    'POST /api/wire/explain',
    'Says what a pasted base string, form post or token is, and what is wrong with it',
    { access: person, body: diagnosis.PastedMessage, answer: diagnosis.ExplainedMessage },
  ),
} as const
