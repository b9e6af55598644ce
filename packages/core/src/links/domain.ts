import { getDomain } from 'tldts'

/** The list of public suffixes (publicsuffix.org) has those of hosting houses, too. */
const PRIVATE_TOO = { allowPrivateDomains: true }

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

/** Both are under one name that somebody registered: what stands under a registry, or at a hosting house that hands out names of its own, is a stranger's. */
function isUnder(a: string, b: string): boolean {
  const registered = getDomain(a, PRIVATE_TOO)
  return registered !== null && registered === getDomain(b, PRIVATE_TOO)
}

/** On one machine only the port tells tools apart; numbers have no domain. */
function isName(host: string): boolean {
  return /[a-z]/i.test(host) && !host.startsWith('[') && host !== 'localhost'
}

function parse(text: string): URL | undefined {
  return URL.canParse(text) ? new URL(text) : undefined
}
