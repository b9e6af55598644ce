import type { Claims } from '../../lti13/index.js'
import type { Parameter } from '../../oauth1/index.js'

/** A message that was found in a text, and what that text was taken for. */
type Read = { takenFor: string } & (
  | {
      kind: 'token'
      header: Claims
      claims: Claims
      /** Empty for one whose claims were pasted decoded. */
      token: string
    }
  | { kind: 'base_string'; method: string; address: string; parameters: Parameter[]; text: string }
  | { kind: 'form'; method: string; parameters: Parameter[]; address: string | null }
)

export interface Unreadable {
  kind: 'unreadable'
  why: string
}
export type Pasted = Read | Unreadable

export const unreadable = (why: string): Unreadable => ({ kind: 'unreadable', why })

/** Names of a form post that carry a token. */
export const TOKEN_NAMES = ['id_token', 'JWT', 'client_assertion']
const OF_LTI = /^(oauth_|lti_)/

/** Whether parameters are those of a message of LTI 1.1 or 1.3. */
export function isMessage(parameters: readonly Parameter[]): boolean {
  return parameters.some(([name]) => OF_LTI.test(name) || TOKEN_NAMES.includes(name))
}
