import type { Way } from '../mistake.js'
import type { Signing } from '../signing.js'

type Part = 'scheme' | 'host' | 'path' | 'behindPath'

/** Ways to sign another address than the one that was called, each by what it makes of one part of it; those that leave it as it is are none. */
export function addressed(
  right: Signing,
  part: Part,
  changes: readonly ((before: string, signing: Signing) => string)[],
): Way[] {
  const seen = new Set([right[part]])
  return changes.flatMap((change) => {
    const after = change(right[part], right)
    if (seen.has(after)) return []
    seen.add(after)
    return [
      {
        change: (signing: Signing) => ({ [part]: change(signing[part], signing) }),
        evidence: [
          ['received at', shown(right)],
          ['signed for', shown({ ...right, [part]: after })],
        ],
      },
    ]
  })
}

export function shown({ scheme, host, path, behindPath }: Pick<Signing, Part>): string {
  return `${host === '' ? '' : `${scheme}://${host}`}${path}${behindPath}`.slice(0, 300)
}
