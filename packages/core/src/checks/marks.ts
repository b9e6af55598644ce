/** The six marks of an assignment's proof, in the order of its way. */
export const MARKS = ['registered', 'linked', 'published', 'launched', 'scored', 'recorded'] as const
export type MarkName = (typeof MARKS)[number]

export const MARK_STATES = ['proven', 'not_yet', 'look', 'broken'] as const
export type MarkState = (typeof MARK_STATES)[number]

/** One character a state, the same wherever a proof line is written as text. */
export const MARK_SIGNS: Record<MarkState, string> = { proven: '●', not_yet: '○', look: '▲', broken: '✕' }

/** What proves or breaks a mark: one thing that can be opened. */
export interface Evidence {
  kind: 'registration' | 'assignment' | 'wire' | 'sounding'
  id: string
  at: Date
  /** Whom it was done by or for, by name; null where no person is part of it. */
  person: string | null
}

export interface Mark {
  name: MarkName
  state: MarkState
  statement: string
  evidence: Evidence | null
}

/** Everything that is known of one assignment's way, as read from the records. */
export interface ProofFacts {
  registration: {
    state: 'draft' | 'waiting' | 'enabled' | 'suspended' | 'retired' | 'deleted'
    hasSecret: boolean
    evidence: Evidence
  }
  /** `chosen` is false as long as the tool still asks an instructor at the first launch what the link leads to. */
  link: { launchUrl: string | null; chosen: boolean; evidence: Evidence; settingsChangedAt: Date }
  published: Evidence | null
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

type Judge = (facts: ProofFacts) => Omit<Mark, 'name'>

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
  published: ({ published }) =>
    published
      ? { state: 'proven', statement: 'Learners can see it.', evidence: published }
      : { state: 'not_yet', statement: 'A draft: learners cannot see it yet.', evidence: null },
  launched: (facts) => {
    const { launchFailure, launchComplaint, launchProof, visit, link } = facts
    if (launchFailure && !isAfter(launchProof, launchFailure)) {
      return link.settingsChangedAt > launchFailure.at
        ? { state: 'not_yet', statement: 'Changed since its last launch failed; not tried since.', evidence: null }
        : { state: 'broken', statement: launchFailure.statement, evidence: launchFailure }
    }
    if (launchComplaint && !isAfter(launchProof, launchComplaint) && !isAfter(visit, launchComplaint))
      return { state: 'look', statement: `The tool said: ${launchComplaint.statement}`, evidence: launchComplaint }
    if (launchProof && !isAfter(visit, launchProof))
      return { state: 'proven', statement: 'The tool took the launch and answered.', evidence: launchProof }
    if (visit) return { state: 'proven', statement: 'Opened; the tool returned no error.', evidence: visit }
    return { state: 'not_yet', statement: 'Nobody has opened it yet.', evidence: null }
  },
  scored: ({ score, scoreRefusal }) => {
    if (scoreRefusal && !isAfter(score, scoreRefusal))
      return { state: 'look', statement: `A score was refused: ${scoreRefusal.statement}`, evidence: scoreRefusal }
    if (score) return { state: 'proven', statement: score.statement, evidence: score }
    return { state: 'not_yet', statement: 'The tool has sent no score yet.', evidence: null }
  },
  recorded: ({ recorded }) =>
    recorded
      ? { state: recorded.agrees ? 'proven' : 'broken', statement: recorded.statement, evidence: recorded }
      : { state: 'not_yet', statement: 'Nothing stands in the gradebook yet.', evidence: null },
}

/** Judges the six marks. Every proven or broken mark carries the evidence for it. */
export function proofOf(facts: ProofFacts): Mark[] {
  return MARKS.map((name) => {
    const { state, statement, evidence } = JUDGES[name](facts)
    const slim = evidence && { kind: evidence.kind, id: evidence.id, at: evidence.at, person: evidence.person }
    return { name, state, statement, evidence: slim }
  })
}

/** The proof line as text: `●●●●▲○`. */
export function proofLine(marks: readonly Pick<Mark, 'state'>[]): string {
  return marks.map((mark) => MARK_SIGNS[mark.state]).join('')
}

function isAfter(a: { at: Date } | null, b: { at: Date }): boolean {
  return a !== null && a.at > b.at
}
