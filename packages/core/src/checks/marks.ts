/** The six marks of an assignment's proof, in the order of its way. */
export const MARKS = ['registered', 'linked', 'published', 'launched', 'scored', 'recorded'] as const
export type MarkName = (typeof MARKS)[number]

/** `changed`: proven once, under other settings than today's. */
export const MARK_STATES = ['proven', 'changed', 'not_yet', 'look', 'broken'] as const
export type MarkState = (typeof MARK_STATES)[number]

/** One character a state, the same wherever a proof line is written as text. */
export const MARK_SIGNS: Record<MarkState, string> = {
  proven: '●',
  changed: '◐',
  not_yet: '○',
  look: '▲',
  broken: '✕',
}

/** What proves or breaks a mark: one thing that can be opened. */
export interface Evidence {
  kind: 'registration' | 'assignment' | 'wire' | 'sounding'
  id: string
  at: Date
  /** Whom it was done by or for, by name; null where no person is part of it. */
  person: string | null
}

/** What of a link or its tool can be changed so that what was seen before says nothing of what is now. */
export const PROVEN_UNDER = {
  tool: 'the tool',
  tool_address: 'the tool’s addresses',
  tool_launch_address: 'the tool’s launch address',
  tool_credentials: 'the tool’s key or secret',
  tool_version: 'the tool’s LTI version',
  tool_parameters: 'the tool’s custom parameters',
  address: 'the launch address',
  parameters: 'the custom parameters',
  content: 'the content',
  points: 'the points',
  settings: 'the settings',
} as const
export type ProvenUnder = keyof typeof PROVEN_UNDER

/** A change since which nothing was proven yet. */
export interface Change {
  what: ProvenUnder
  at: Date
  /** Who made it, by name; null where that is not known. */
  by: string | null
}

export interface Mark {
  name: MarkName
  state: MarkState
  statement: string
  evidence: Evidence | null
  /** What was changed after the evidence; null unless the state is `changed`. */
  change: Change | null
}

/** Everything that is known of one assignment's way, as read from the records. */
export interface ProofFacts {
  /** When the facts were read. */
  now: Date
  registration: {
    state: 'draft' | 'waiting' | 'enabled' | 'suspended' | 'retired' | 'deleted'
    hasSecret: boolean
    evidence: Evidence
  }
  /** `chosen` is false as long as the tool still asks an instructor at the first launch what the link leads to. */
  link: {
    launchUrl: string | null
    chosen: boolean
    evidence: Evidence
    /** The last change of what a launch depends on; null where there was none since it was made. */
    change: Change | null
    /** The last change of the points. */
    pointsChange: Change | null
  }
  /** `hidden`: its unit is not published. Opens and closes as learners are let in; null for no limit. */
  published: (Evidence & { hidden: boolean; opensAt: Date | null; closesAt: Date | null }) | null
  /** The last launch that was sent to the tool for a person, in a browser. */
  visit: Evidence | null
  /** The last time the tool plainly took a launch: a sounding saw it answer, or it returned a score for one who entered. */
  launchProof: Evidence | null
  /** The last time a launch plainly failed (a sounding saw it refused). */
  launchFailure: (Evidence & { statement: string }) | null
  /** The last time the tool sent a person back with an error message. */
  launchComplaint: (Evidence & { statement: string }) | null
  score: (Evidence & { statement: string }) | null
  scoreRefusal: (Evidence & { statement: string }) | null
  /** The result as it stands beside the last accepted score, or null when there is none. */
  recorded: (Evidence & { agrees: boolean; statement: string }) | null
}

type Judged = Omit<Mark, 'name' | 'change'> & { change?: Change | null }
type Judge = (facts: ProofFacts) => Judged

const JUDGES: Record<MarkName, Judge> = {
  registered: ({ registration: { state, hasSecret, evidence } }) => {
    if (state === 'suspended' || state === 'retired' || state === 'deleted')
      return { state: 'broken', statement: `The registration is ${state}.`, evidence }
    if (state === 'draft') return { state: 'look', statement: 'The registration is still a draft.', evidence }
    if (state === 'waiting') return { state: 'look', statement: 'The registration waits for approval.', evidence }
    if (!hasSecret) return { state: 'broken', statement: 'The registration holds no shared secret.', evidence }
    return { state: 'proven', statement: 'The registration is enabled and holds what it needs.', evidence }
  },
  linked: ({ link }) =>
    link.launchUrl === null || !link.chosen
      ? {
          state: 'not_yet',
          statement:
            link.launchUrl === null
              ? 'There is no launch address yet.'
              : 'The tool asks an instructor at the first launch what it leads to; nobody has opened it yet.',
          evidence: null,
        }
      : { state: 'proven', statement: `Leads to ${link.launchUrl}`, evidence: link.evidence },
  published: ({ published, now }) => {
    if (!published) return { state: 'not_yet', statement: 'A draft: learners cannot see it yet.', evidence: null }
    const { hidden, opensAt, closesAt } = published
    if (hidden) return { state: 'look', statement: 'Its unit is hidden: learners cannot see it.', evidence: published }
    if (opensAt && opensAt > now)
      return {
        state: 'not_yet',
        statement: `Published; learners can open it from ${inWords(opensAt)}.`,
        evidence: null,
      }
    if (closesAt && closesAt <= now)
      return { state: 'look', statement: `Closed to learners since ${inWords(closesAt)}.`, evidence: published }
    return { state: 'proven', statement: 'Learners can open it.', evidence: published }
  },
  launched: (facts) => {
    const { launchFailure, launchComplaint, launchProof, visit, link } = facts
    if (launchFailure && !isAfter(launchProof, launchFailure)) {
      return link.change && link.change.at > launchFailure.at
        ? {
            state: 'changed',
            statement: `Its last launch failed; ${PROVEN_UNDER[link.change.what]} changed since, and it was not tried again.`,
            evidence: launchFailure,
            change: link.change,
          }
        : { state: 'broken', statement: launchFailure.statement, evidence: launchFailure }
    }
    if (launchComplaint && !isAfter(launchProof, launchComplaint) && !isAfter(visit, launchComplaint))
      return { state: 'look', statement: `The tool said: ${launchComplaint.statement}`, evidence: launchComplaint }
    if (launchProof && !isAfter(visit, launchProof))
      return stillProven(link.change, 'The tool took the launch and answered.', launchProof)
    if (visit) return stillProven(link.change, 'Opened; the tool returned no error.', visit)
    return { state: 'not_yet', statement: 'Nobody has opened it yet.', evidence: null }
  },
  scored: ({ score, scoreRefusal, link }) => {
    if (scoreRefusal && !isAfter(score, scoreRefusal))
      return { state: 'look', statement: `A score was refused: ${scoreRefusal.statement}`, evidence: scoreRefusal }
    if (score) return stillProven(link.change, score.statement, score)
    return { state: 'not_yet', statement: 'The tool has sent no score yet.', evidence: null }
  },
  recorded: ({ recorded, link }) => {
    if (!recorded) return { state: 'not_yet', statement: 'Nothing is in the gradebook yet.', evidence: null }
    if (!recorded.agrees) return { state: 'broken', statement: recorded.statement, evidence: recorded }
    const { change, pointsChange } = link
    const last =
      change && pointsChange ? (change.at > pointsChange.at ? change : pointsChange) : (change ?? pointsChange)
    return stillProven(last, recorded.statement, recorded)
  },
}

/** What was seen is proof as long as nothing it depends on was changed after it. */
function stillProven(change: Change | null, statement: string, evidence: Evidence): Judged {
  return change && change.at >= evidence.at
    ? {
        state: 'changed',
        statement: `${statement} Since then ${PROVEN_UNDER[change.what]} changed.`.trim(),
        evidence,
        change,
      }
    : { state: 'proven', statement, evidence }
}

/** A change as a sentence, with who made it where that is known. */
export function changeInWords({ what, by }: Pick<Change, 'what' | 'by'>, since = 'it was proven'): string {
  const subject = PROVEN_UNDER[what]
  const isPlural = subject.endsWith('s')
  return `${subject.charAt(0).toUpperCase()}${subject.slice(1)} ${isPlural ? 'were' : 'was'} changed${by === null ? '' : ` by ${by}`} since ${since}.`
}

function inWords(at: Date): string {
  return `${at.toISOString().slice(0, 16).replace('T', ' ')} UTC`
}

/** Judges the six marks. Every proven or broken mark carries the evidence for it. */
export function proofOf(facts: ProofFacts): Mark[] {
  return MARKS.map((name) => {
    const { state, statement, evidence, change = null } = JUDGES[name](facts)
    const slim = evidence && { kind: evidence.kind, id: evidence.id, at: evidence.at, person: evidence.person }
    return { name, state, statement, evidence: slim, change }
  })
}

/** The proof line as text: `●●●●▲○`. */
export function proofLine(marks: readonly Pick<Mark, 'state'>[]): string {
  return marks.map((mark) => MARK_SIGNS[mark.state]).join('')
}

function isAfter(a: { at: Date } | null, b: { at: Date }): boolean {
  return a !== null && a.at > b.at
}
