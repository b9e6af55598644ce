/** A launch with what the tool was told of the person. */
export interface NamedLaunch {
  /** Decimal; later ones are larger. */
  wireEntryId: string
  assignmentId: string | null
  courseId: string | null
  at: Date
  name: string
  email: string | null
}

/** One of the people who seem to share an account. */
export interface Likeness {
  /** As it was told last. */
  name: string
  names: string[]
  emails: string[]
  firstAt: Date
  lastAt: Date
  launches: NamedLaunch[]
}

/** Where a score seems to belong: to whoever opened the link last before it came. */
export interface ScoreAt {
  id: string
  assignmentId: string
  /** Of the message that it came by; null for an instructor's own word. */
  wireEntryId: string | null
}

/**
 * Sorts an account's launches by whose they seem to be. Names that have a word in common are one person's (somebody who married, a middle name), and so are those
 * that had one address. A name that was written in another script looks like another person: what comes of this is *likely*, and for a person to decide.
 * @returns one for an account of one person; the one who came last is first
 */
export function likenessesOf(launches: readonly NamedLaunch[]): Likeness[] {
  const groups: Likeness[] = []
  const byMark = new Map<string, Likeness>()
  const moved = new Map<Likeness, Likeness>()
  const standing = (group: Likeness): Likeness => {
    let at = group
    while (moved.has(at)) at = moved.get(at)!
    return at
  }
  for (const launch of [...launches].sort(earlier)) {
    const marks = marksOf(launch)
    if (marks.length === 0) continue
    const found = [...new Set(marks.flatMap((mark) => byMark.get(mark) ?? []).map(standing))]
    const [
      group = { name: '', names: [], emails: [], firstAt: launch.at, lastAt: launch.at, launches: [] },
      ...others
    ] = found
    if (found.length === 0) groups.push(group)
    for (const other of others) {
      for (const one of other.launches) group.launches.push(one)
      moved.set(other, group)
    }
    group.launches.push(launch)
    for (const mark of marks) byMark.set(mark, group)
  }
  return groups
    .filter((group) => !moved.has(group))
    .map((group) => summed(group.launches.sort(earlier)))
    .sort((a, b) => b.lastAt.getTime() - a.lastAt.getTime())
}

function summed(launches: NamedLaunch[]): Likeness {
  const distinct = (values: readonly string[]) => [...new Set(values)].filter((one) => one !== '')
  return {
    name: launches.at(-1)!.name,
    names: distinct(launches.map((one) => one.name)),
    emails: distinct(launches.map((one) => one.email ?? '')),
    firstAt: launches[0]!.at,
    lastAt: launches.at(-1)!.at,
    launches,
  }
}

const earlier = (a: Pick<NamedLaunch, 'wireEntryId'>, b: Pick<NamedLaunch, 'wireEntryId'>) =>
  BigInt(a.wireEntryId) < BigInt(b.wireEntryId) ? -1 : 1

/** What a person is recognised by: the words of the name, but single letters of Latin script, and the address. */
function marksOf({ name, email }: NamedLaunch): string[] {
  const words = name
    .normalize('NFKC')
    .toLowerCase()
    .split(/[^\p{L}\p{M}\p{N}]+/u)
  const address = email?.trim().toLowerCase() ?? ''
  return [
    ...words.filter((word) => word !== '' && !/^[a-z]$/.test(word)).map((word) => `name ${word}`),
    ...(address === '' ? [] : [`address ${address}`]),
  ]
}

/**
 * Sorts scores by who opened their link last before they came.
 * @param of the one whose scores are looked for, among all that share the account
 * @returns those of that one, and those of which it is not known: before which nobody is known to have opened the link, and an instructor's own words
 */
export function scoresOf(
  of: Likeness,
  all: readonly Likeness[],
  scores: readonly ScoreAt[],
): { theirs: ScoreAt[]; undecided: ScoreAt[] } {
  const opened = new Map<string, { at: bigint; by: Likeness }[]>()
  for (const by of all)
    for (const launch of by.launches) {
      if (launch.assignmentId === null) continue
      const known = opened.get(launch.assignmentId)
      const one = { at: BigInt(launch.wireEntryId), by }
      if (known) known.push(one)
      else opened.set(launch.assignmentId, [one])
    }
  for (const launches of opened.values()) launches.sort((a, b) => (a.at < b.at ? -1 : 1))
  const theirs: ScoreAt[] = []
  const undecided: ScoreAt[] = []
  for (const score of scores) {
    const launches = opened.get(score.assignmentId) ?? []
    const last = score.wireEntryId === null ? undefined : lastBefore(launches, BigInt(score.wireEntryId))
    if (last === of) theirs.push(score)
    else if (last === undefined) undecided.push(score)
  }
  return { theirs, undecided }
}

function lastBefore(launches: readonly { at: bigint; by: Likeness }[], at: bigint): Likeness | undefined {
  let [low, high] = [0, launches.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if (launches[middle]!.at < at) low = middle + 1
    else high = middle
  }
  return launches[low - 1]?.by
}
