/** Where addresses are moved: what begins with `from` begins with `to` afterwards. */
export interface AddressMove {
  from: string
  to: string
}

interface Beginning {
  origin: string
  /** Without a slash at the end; empty for all of an origin. */
  path: string
}

/**
 * The address that another one becomes by a move: its beginning is exchanged, at a boundary of the path; all that follows stays letter by letter, because it may be signed.
 * @returns undefined when it does not lie below `from`
 */
export function movedAddress(address: string, { from, to }: AddressMove): string | undefined {
  const [below, start] = [beginningOf(address), beginningOf(from)]
  if (!below || !start || below.origin !== start.origin) return undefined
  const rest = tailOf(address)
  if (!rest.startsWith(start.path) || !/^[/?#]?$/.test(rest.charAt(start.path.length))) return undefined
  return withoutSlash(to) + rest.slice(start.path.length)
}

function beginningOf(address: string): Beginning | undefined {
  if (!URL.canParse(address)) return undefined
  return { origin: new URL(address).origin, path: withoutSlash(tailOf(address)) }
}

/** What follows scheme and host, as it is written. */
function tailOf(address: string): string {
  return address.slice(/^[a-z]+:\/\/[^/?#]*/i.exec(address)?.[0].length ?? 0)
}

function withoutSlash(text: string): string {
  return text.endsWith('/') ? text.slice(0, -1) : text
}
