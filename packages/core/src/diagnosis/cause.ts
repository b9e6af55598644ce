import type { Reproduction } from './letter/commands.js'
import type { Proof, Proven } from './proof.js'

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
  /** Commands by which the other end can see it. */
  reproduce?: Reproduction[]
}

/** A cause with what proves it. Without proof it is likely, and no more. */
export type Found = Cause & { proof?: Proof | undefined }

/**
 * What was found. `proven`: one cause explains it, and recomputing shows that. `likely`: what speaks for a cause is in its evidence, and nothing proves it. `several`: more
 * than one explains it, and which it is cannot be told from the message. `none`: of all causes known none does; nothing is guessed.
 */
export interface Diagnosis {
  certainty: Proven | 'likely' | 'several' | 'none'
  sentence: string
  causes: Cause[]
  /** The causes that were tried and ruled out, in words. */
  ruledOut: string[]
}

/**
 * Puts what was found into one answer. What is proven goes before what is likely.
 * @param nothing what is said when no cause fits
 * @param toTell what another message would have to hold to tell several apart
 */
export function concluded(
  found: readonly Found[],
  ruledOut: string[],
  nothing: string,
  toTell: readonly string[] = [],
): Diagnosis {
  const proven = found.filter(({ proof }) => proof !== undefined)
  const causes = (proven.length > 0 ? proven : found).map(withoutProof)
  const [first, ...more] = causes
  if (!first) return { certainty: 'none', sentence: nothing, causes, ruledOut }
  if (more.length === 0)
    return { certainty: proven[0]?.proof?.certainty ?? 'likely', sentence: first.sentence, causes, ruledOut }
  const apart = toTell.length > 0 ? ` Another message tells: one with ${[...new Set(toTell)].join(', or ')}.` : ''
  return {
    certainty: 'several',
    sentence: `${causes.length} causes explain it alike, and the message does not tell which it is.${apart}`,
    causes,
    ruledOut,
  }
}

/**
 * Puts faults into one answer that stand beside each other, each a fault whatever the others are. It is proven when all are.
 * @param nothing what is said when there is none
 */
export function faultsIn(found: readonly Found[], ruledOut: string[], nothing: string): Diagnosis {
  const causes = found.map(withoutProof)
  const [first, ...more] = causes
  if (!first) return { certainty: 'none', sentence: nothing, causes, ruledOut }
  return {
    certainty: (found.every(({ proof }) => proof !== undefined) && found[0]!.proof?.certainty) || 'likely',
    sentence: more.length === 0 ? first.sentence : `${causes.length} things are wrong. First: ${first.sentence}`,
    causes,
    ruledOut,
  }
}

const withoutProof = ({ proof: _, ...cause }: Found): Cause => cause

const HOW_MANY = ['No', 'One', 'Two', 'Three', 'Four', 'Five']

/** Mistakes that explain it together only, as one cause with a remedy for each. */
export function together(causes: readonly Cause[]): Cause {
  const [first, ...more] = causes
  if (!first) throw new RangeError('There is nothing to put together.')
  if (more.length === 0) return first
  const all = (text: (cause: Cause) => string | null) =>
    causes.map(text).filter((one) => one !== null).join(' ') || null // oxfmt-ignore
  const reproduce = causes.flatMap((one) => one.reproduce ?? [])
  return {
    code: causes.map(({ code }) => code).join('+'),
    sentence: `${HOW_MANY[causes.length] ?? causes.length} mistakes at once. ${causes.map(({ sentence }) => sentence).join(' ')}`,
    evidence: causes.flatMap(({ evidence }) => evidence),
    ours: all(({ ours }) => ours),
    theirs: all(({ theirs }) => theirs),
    ...(reproduce.length > 0 && { reproduce }),
  }
}

/** The causes that were put together under one code. */
export const partsOfCode = (code: string): string[] => code.split('+')

/** A secret as it may be shown: its length. */
export function hinted(secret: string): string {
  return `${secret.length} characters`
}
