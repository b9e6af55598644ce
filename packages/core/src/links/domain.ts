/** How surely an address belongs to a tool: on its very origin, on its host, or elsewhere under its domain. */
export type Belonging = 'origin' | 'host' | 'domain'

/** Whether an address is the tool's, judged by the addresses that the tool is known by. Undefined when it is not. */
export function belongsTo(address: string, known: readonly string[]): Belonging | undefined {
  const url = parse(address)
  const places = known.map(parse).filter((one) => one !== undefined)
  if (!url) return undefined
  if (places.some((one) => one.origin === url.origin)) return 'origin'
  if (places.some((one) => isName(one.hostname) && one.hostname === url.hostname)) return 'host'
  return places.some((one) => isName(one.hostname) && isName(url.hostname) && isUnder(url.hostname, one.hostname))
    ? 'domain'
    : undefined
}

/** Which of several tools an address belongs to: the surest ones only. Several of one sureness are all named. */
export function toolsOf<T extends { addresses: readonly string[] }>(address: string, tools: readonly T[]): T[] {
  for (const wanted of ['origin', 'host', 'domain'] as const) {
    const found = tools.filter((tool) => belongsTo(address, tool.addresses) === wanted)
    if (found.length > 0) return found
  }
  return []
}

/** One is below the other, or both are below the same name of at least two parts that is not a whole registry's. */
function isUnder(a: string, b: string): boolean {
  if (a.endsWith(`.${b}`) || b.endsWith(`.${a}`)) return true
  const [first, second] = [parentOf(a), parentOf(b)]
  return first !== undefined && first === second
}

function parentOf(host: string): string | undefined {
  const parts = host.split('.')
  const parent = parts.slice(1)
  // Of two short parts (co.uk, com.au) the name is a registry's, under which strangers live side by side.
  const isRegistry = parent.length < 2 || (parent.length === 2 && parent.every((one) => one.length <= 3))
  return isRegistry ? undefined : parent.join('.')
}

/** On one machine only the port tells tools apart; numbers have no domain. */
function isName(host: string): boolean {
  return /[a-z]/i.test(host) && !host.startsWith('[') && host !== 'localhost'
}

function parse(text: string): URL | undefined {
  return URL.canParse(text) ? new URL(text) : undefined
}
