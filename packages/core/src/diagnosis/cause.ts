/** One cause that explains a refused message, with what shows it and what mends it. Never holds a secret. */
export interface Cause {
  code: string
  sentence: string
  /** What shows it, in the order in which one would look: a name and a value. */
  evidence: [name: string, value: string][]
  /** What to change in this product; null when nothing is to be changed here. */
  ours: string | null
  /** What to change at the tool’s end; null when nothing is to be changed there. */
  theirs: string | null
}

/**
 * What was found. `proven`: one cause explains it, and recomputing shows that. `several`: more than one does, and which it is cannot be told from
 * the message. `none`: of all causes known none does; nothing is guessed.
 */
export interface Diagnosis {
  certainty: 'proven' | 'several' | 'none'
  sentence: string
  causes: Cause[]
  /** The causes that were tried and ruled out, in words. */
  ruledOut: string[]
}

/** Puts what was found into one answer. @param nothing what is said when no cause fits */
export function concluded(causes: Cause[], ruledOut: string[], nothing: string): Diagnosis {
  const [first, ...more] = causes
  if (!first) return { certainty: 'none', sentence: nothing, causes, ruledOut }
  if (more.length === 0) return { certainty: 'proven', sentence: first.sentence, causes, ruledOut }
  return {
    certainty: 'several',
    sentence: `${causes.length} causes explain it alike, and the message does not tell which it is.`,
    causes,
    ruledOut,
  }
}

/** A secret as it may be shown: its length. */
export function hinted(secret: string): string {
  return `${secret.length} characters`
}
