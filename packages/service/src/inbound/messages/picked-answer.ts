import { plainLine, type ItemsRead } from '@bathyscribe/core/content'
import type { Parameter } from '@bathyscribe/core/oauth1'
import type { PickingRecord } from '../../records/entities/content.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { Nonce } from '../message.js'

/** What the browser posts from the page of a tool’s picker. */
export interface PickedCall {
  id: string
  fields: readonly Parameter[]
}

/** What an answer says, whichever version carried it. */
export interface Answer extends ItemsRead {
  data: string
  said: string | null
  failed: boolean
  nonce: Nonce
}

export type OfPicking = PickedCall & { picking: PickingRecord; tool: RegistrationRecord }
/** What a tool says to people along with its answer. */
export function saidIn(error: string | null, errorLog: string | null, message: string | null) {
  return { said: plainLine(error || message || '', 500) || null, failed: Boolean(error) || Boolean(errorLog) }
}
