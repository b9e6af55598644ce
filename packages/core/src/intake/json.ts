import { Problem } from '../result/index.js'
/** Why a text is not accepted as JSON; `detail` says where. */
export type JsonProblem = Problem<'json.malformed' | 'json.duplicate_name' | 'json.too_deep'>

const MAX_DEPTH = 32

/** Members of an object that somebody sent, none of them believed yet. */
export type Fields = Readonly<Record<string, unknown>>

/** A value as an object with members; undefined for lists, null and everything else. */
export function asObject(value: unknown): Fields | undefined {
  return typeof value === 'object' && value !== null && !Array.isArray(value) ? (value as Fields) : undefined
}

/**
 * Reads JSON strictly. An object with the same name twice is refused: readers differ in which of the two they take (RFC 8259 section 4).
 * The caller bounds the size of `text`.
 */
export function readJson(text: string): { value: unknown } | JsonProblem {
  const plain = text.replace(/^\ufeff/, '')
  let value: unknown
  try {
    value = JSON.parse(plain)
  } catch (error) {
    return new Problem('json.malformed', (error as Error).message.slice(0, 160))
  }
  return findDuplicate(plain) ?? { value }
}

/** Walks over the tokens of text that is known to be JSON. */
function findDuplicate(text: string): JsonProblem | undefined {
  const open: (Set<string> | null)[] = []
  const token = /"(?:[^"\\]|\\.)*"|[{}[\]:,]|[^\s"{}[\]:,]+/g
  let last: string | undefined
  for (let match = token.exec(text); match; match = token.exec(text)) {
    const [one] = match
    if (one === '{' || one === '[') {
      open.push(one === '{' ? new Set() : null)
      if (open.length > MAX_DEPTH) return new Problem('json.too_deep', `more than ${MAX_DEPTH} levels`)
    } else if (one === '}' || one === ']') open.pop()
    else if (one === ':') {
      const name = last!.includes('\\') ? (JSON.parse(last!) as string) : last!.slice(1, -1)
      const names = open.at(-1)!
      if (names.has(name))
        return new Problem('json.duplicate_name', `“${name.slice(0, 80)}” at character ${match.index}`)
      names.add(name)
    }
    last = one
  }
  return undefined
}
