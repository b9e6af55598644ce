import { percentDecoded } from '../../text/index.js'
import { tokenParts, objectOf } from '../token/written.js'
import { unreadable, type Pasted } from './message.js'

/** What copying leaves on a token is no fault of it: line ends, and the escapes of the form that it was in. */
export function readToken(given: string, takenFor: string): Pasted {
  const token = percentDecoded(given)
  const parts = tokenParts(token)
  if (parts) return { kind: 'token', ...parts, token, takenFor }
  return unreadable(
    objectOf(token.split('.', 1)[0]!)
      ? 'The token’s claims cannot be read: it was cut off, or it was changed.'
      : 'The token’s header cannot be read: its start was cut off, or it was changed.',
  )
}

/** One, wherever it stands in a text: base64url begins so where JSON begins with a name. */
export const TOKEN = /(?<![\w-])eyJ[\w-]{8,}\.(?:eyJ[\w-]+|[\w-]{10,})(?:\.[\w-]*)?/g
