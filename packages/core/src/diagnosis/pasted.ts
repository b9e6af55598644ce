import { cutEnd, percentDecoded, readHtml } from '../text/index.js'
import { decodeForm, parseAuthorizationHeader, type Parameter } from '../oauth1/index.js'
import type { Claims } from '../lti13/index.js'
import { objectOf } from './token/written.js'

/** Pasted text is read up to so many characters: several times what any message may have. */
export const MOST_PASTED = 200_000

/** What somebody pasted, as far as it could be recognised. */
export type Pasted =
  | { kind: 'token'; header: Claims; claims: Claims; token: string; signed: boolean }
  | { kind: 'base_string'; method: string; address: string; parameters: Parameter[]; text: string }
  | { kind: 'form'; parameters: Parameter[]; address: string | null }
  | { kind: 'unreadable'; why: string }

/** Recognises a token, a signature base string, a form post (encoded, as lines, as HTML fields) or an `Authorization` header. Nothing is verified. */
export function readPasted(given: string): Pasted {
  if (given.length > MOST_PASTED)
    return { kind: 'unreadable', why: `It has ${given.length} characters; ${MOST_PASTED} are read at most.` }
  const text = given.trim()
  if (text === '') return { kind: 'unreadable', why: 'Nothing was pasted.' }
  const bare = text
    .replace(/^(id_token|JWT|client_assertion|authorization:\s*bearer)[=:\s]+/i, '')
    .replace(/^bearer\s+/i, '')
  const lines = bare.split('\n').map((line) => line.trim())
  if (bare.startsWith('eyJ') && lines.every((line) => /^[\w.+/=%…-]+$/.test(line))) return readToken(lines.join(''))
  if (/^(GET|POST|PUT|DELETE|PATCH)&/i.test(text)) return readBaseString(text)
  const header = /^(?:authorization:\s*)?(OAuth\s.+)$/is.exec(text)
  if (header) {
    const parameters = parseAuthorizationHeader(onOneLine(header[1]!))
    return parameters
      ? { kind: 'form', parameters, address: null }
      : { kind: 'unreadable', why: 'It begins as an Authorization header of OAuth, but is not of its form.' }
  }
  const parameters = readFields(text)
  const token = parameters.find(([name]) => ['id_token', 'JWT', 'client_assertion'].includes(name))
  if (token) return readToken(token[1])
  if (parameters.some(([name]) => name.startsWith('oauth_') || name.startsWith('lti_')))
    return { kind: 'form', parameters, address: /action="(https?:[^"]+)"/i.exec(text)?.[1] ?? null }
  return {
    kind: 'unreadable',
    why: 'It is neither a token, nor a signature base string, nor a form post with parameters of a launch.',
  }
}

/** What copying leaves on a token is no fault of it: line ends, and the escapes of the form that it was in. */
function readToken(given: string): Pasted {
  const token = percentDecoded(given)
  const [head = '', body = '', signature = ''] = token.split('.')
  const header = objectOf(head)
  if (!header)
    return { kind: 'unreadable', why: 'The token’s header cannot be read: its start was cut off, or it was changed.' }
  const claims = objectOf(body)
  if (!claims)
    return { kind: 'unreadable', why: 'The token’s claims cannot be read: it was cut off, or it was changed.' }
  return { kind: 'token', header, claims, token, signed: /^[\w+/=-]{20,}$/.test(signature) }
}

function readBaseString(text: string): Pasted {
  const [method, address, parameters, ...rest] = text.split('&')
  if (rest.length > 0 || address === undefined || parameters === undefined)
    return {
      kind: 'unreadable',
      why: `A base string has three parts joined by “&”; this has ${text.split('&').length}. It was cut off, or its parts were not encoded as a whole.`,
    }
  try {
    return {
      kind: 'base_string',
      method: method!.toUpperCase(),
      address: decodeURIComponent(address),
      parameters: decodeForm(decodeURIComponent(parameters.replace(/%[0-9A-Fa-f]?$/, ''))),
      text,
    }
  } catch {
    return { kind: 'unreadable', why: 'The base string holds an escape that is cut off or broken.' }
  }
}

/** A header that was folded over several lines, as it was sent. */
function onOneLine(text: string): string {
  return text
    .split('\n')
    .map((line) => line.trim())
    .join(' ')
}

function readFields(text: string): Parameter[] {
  if (/<input\b/i.test(text))
    return readHtml(text).flatMap((token): Parameter[] => {
      const name = token.kind === 'open' && token.name === 'input' ? token.attributes['name'] : undefined
      return token.kind === 'open' && name ? [[name, token.attributes['value'] ?? '']] : []
    })
  const lines = text.split(/\r?\n/).filter((line) => line.trim() !== '')
  if (lines.length > 1)
    return lines.flatMap((line): Parameter[] => {
      const found = /^"?([\w.-]+)"?\s*[=:]/.exec(line.trim())
      if (!found) return []
      const value = cutEnd(line.trim().slice(found[0].length).trim(), ',').trimEnd()
      return [[found[1]!, /^".*"$/.test(value) ? value.slice(1, -1) : value]]
    })
  return decodeForm(text.replace(/^https?:[^?]*\?/, ''))
}
