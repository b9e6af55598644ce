/** How an address differs from the one that was expected, in words; undefined when it is the same, or another altogether. */
export function addressDifference(given: string, expected: string): string | undefined {
  if (given === expected) return undefined
  const a = parts(given)
  const b = parts(expected)
  if (!a || !b) return undefined
  const differences: string[] = []
  if (a.scheme !== b.scheme) differences.push(`${a.scheme} in place of ${b.scheme}`)
  if (a.host.toLowerCase() !== b.host.toLowerCase()) differences.push(`host “${a.host}” in place of “${b.host}”`)
  else if (a.host !== b.host) differences.push('capital letters in the host')
  if (a.port !== b.port)
    differences.push(
      a.port
        ? b.port
          ? `port ${a.port} in place of ${b.port}`
          : `port ${a.port} that was not registered`
        : `port ${b.port} left out`,
    )
  if (a.path !== b.path)
    differences.push(
      a.path === `${b.path}/`
        ? 'a slash at the end that was not registered'
        : `${a.path}/` === b.path
          ? 'the slash at the end left out'
          : a.path.toLowerCase() === b.path.toLowerCase()
            ? 'capital letters in the path'
            : `path “${a.path}” in place of “${b.path}”`,
    )
  if (a.query !== b.query)
    differences.push(
      b.query === '' ? 'a query that was not registered' : a.query === '' ? 'the query left out' : 'another query',
    )
  if (differences.length > 0) return differences.join('; ')
  if (a.rest !== b.rest) return a.rest === '' ? 'the part behind “#” left out' : 'a part behind “#”'
  return given.trim() === expected.trim() ? 'spaces around it' : 'letters of another kind in the scheme'
}

/** The one of several addresses that comes nearest, with how it differs. */
export function nearestAddress(
  given: string,
  expected: readonly string[],
): { address: string; difference: string } | undefined {
  return expected
    .flatMap((address) => {
      const difference = addressDifference(given, address)
      return difference === undefined ? [] : [{ address, difference }]
    })
    .sort((x, y) => x.difference.split('; ').length - y.difference.split('; ').length)[0]
}

function parts(given: string) {
  const [address = '', ...behind] = given.trim().split('#')
  const found = /^(https?):\/\/([^/?#:]+)(?::(\d+))?([^?#]*)(?:\?([^#]*))?/i.exec(address)
  return (
    found && {
      scheme: found[1]!.toLowerCase(),
      host: found[2]!,
      port: found[3] ?? '',
      path: found[4]!,
      query: found[5] ?? '',
      rest: behind.join('#'),
    }
  )
}
