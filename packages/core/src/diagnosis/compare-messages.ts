import type { Parameter } from '../oauth1/index.js'

/** One place where two forms of the same message differ. */
export interface Difference {
  part: string
  theirs: string
  ours: string
}

const MASKED = 'oauth_signature'

/** How a message as the other end saw it differs from what was sent: address, then parameters by name. */
export function compareMessages(
  theirs: { address: string | null; parameters: readonly Parameter[] },
  ours: { address: string; parameters: readonly Parameter[] },
): Difference[] {
  const found: Difference[] = []
  const [address] = ours.address.split(/[?#]/, 1) as [string]
  if (theirs.address !== null) {
    const [seen] = theirs.address.split(/[?#]/, 1) as [string]
    if (seen !== address) found.push({ part: 'address', theirs: theirs.address, ours: address })
  }
  const names = [...new Set([...theirs.parameters, ...ours.parameters].map(([name]) => name))].filter(
    (name) => name !== MASKED,
  )
  const [byThem, byUs] = [valuesByName(theirs.parameters), valuesByName(ours.parameters)]
  for (const name of names) {
    const [a, b] = [byThem.get(name)?.sort().join(' | '), byUs.get(name)?.sort().join(' | ')]
    if (a !== b) found.push({ part: name, theirs: a ?? '(left out)', ours: b ?? '(not sent)' })
  }
  return found
}

function valuesByName(parameters: readonly Parameter[]): Map<string, string[]> {
  const values = new Map<string, string[]>()
  for (const [name, value] of parameters) {
    const known = values.get(name)
    if (known) known.push(value)
    else values.set(name, [value])
  }
  return values
}
