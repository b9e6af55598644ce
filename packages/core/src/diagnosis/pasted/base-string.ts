import { decodeForm } from '../../oauth1/index.js'
import { unreadable, type Pasted } from './message.js'

/** What a base string begins with (RFC 5849 section 3.4.1.1). */
export const BEGINS = /^(GET|POST|PUT|DELETE|PATCH)&/i

export function readBaseString(text: string, takenFor: string): Pasted {
  const [method, address, parameters, ...rest] = text.split('&')
  if (rest.length > 0 || address === undefined || parameters === undefined)
    return unreadable(
      `A base string has three parts joined by “&”; this has ${text.split('&').length}. It was cut off, or its parts were not encoded as a whole.`,
    )
  try {
    return {
      kind: 'base_string',
      takenFor,
      method: method!.toUpperCase(),
      address: decodeURIComponent(address),
      parameters: decodeForm(decodeURIComponent(parameters.replace(/%[0-9A-Fa-f]?$/, ''))),
      text,
    }
  } catch {
    return unreadable('The base string holds an escape that is cut off or broken.')
  }
}

/** One, wherever it stands in a text. */
export const BASE_STRING = /(?<!\w)(?:GET|POST|PUT|DELETE|PATCH)&https?(?:%3A|:)[^\s"'<>]+/gi
