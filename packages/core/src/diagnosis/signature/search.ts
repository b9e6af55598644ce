import { macBase64, type HashName } from '../../oauth1/digest.js'
import { Proof } from '../proof.js'
import type { SignedFacts } from './facts.js'
import type { Family, Mistake, Way } from './mistake.js'
import { headOf, macKey, parametersOf, rightSigning, type Signing } from './signing.js'
import { writtenForms, type Written } from './written-forms.js'

/** A mistake, and the way in which it was made. */
export interface Made {
  mistake: Mistake
  way: Way
}

/** Mistakes that together come to what was received. */
export interface Match<Hit> {
  made: readonly Made[]
  hit: Hit
  /** The base string that they come to. */
  base: string
  /** Whether they make another key of the HMAC. */
  isKeyOther: boolean
}

/** What is looked for: what was received, to be held against what a way of signing comes to. */
export interface Target<Hit extends { proof: Proof }> {
  /** Whether anything could come to it at all. */
  isPossible: boolean
  /** The sides that it depends on. */
  sides: readonly Side[]
  /** What one try costs, in bytes hashed. */
  costOf: (base: string) => number
  hits: (key: string, base: string) => Hit | undefined
}

export interface Searched<Hit> {
  /** Each explains it by itself. */
  matches: Match<Hit>[]
  /** Mistakes that were tried alone, each in all its ways. */
  tried: Mistake[]
  /** Ways to sign that were computed. */
  ways: number
  /** The base string as it must be. */
  base: string
}

/** What is looked for is computed for no more bytes than this: a few hundredths of a second, whatever was sent. */
const MOST_BYTES = 10_000_000
/** What a hash costs beside its bytes, and what parameters cost that are put together anew, in bytes hashed. */
const MAC_BYTES = 5000
const BUILDING = 10
const MOST_IN_THREES = 8

/** A base string has two sides that do not touch each other, and a key beside it. */
export type Side = 'key' | 'head' | 'parameters'
const SIDE_OF: Readonly<Record<Family, readonly Side[]>> = {
  secret: ['key'],
  key: ['key'],
  method: ['head'],
  scheme: ['head'],
  host: ['head'],
  path: ['head'],
  whole: ['head'],
  query: ['parameters'],
  fields: ['parameters'],
  text: ['parameters'],
  encoding: ['parameters', 'head'],
  order: ['parameters'],
}

/** A side as it would be by one mistake or two. */
interface Variant {
  text: string
  made: readonly Made[]
}
type Sides = Readonly<Record<Side, string>>

/** A signature. The hash, and the form in which it is written, need no trying: its length and its letters say them. */
export interface OfSignature {
  hash: HashName
  written: Written
  proof: Proof
}
export function signatureTarget(signature: string): Target<OfSignature> {
  const expected = new Map<HashName, Map<string, Written>>()
  for (const written of writtenForms(signature)) {
    const { hash } = written
    if (hash) expected.set(hash, (expected.get(hash) ?? new Map<string, Written>()).set(written.digest, written))
  }
  return {
    isPossible: expected.size > 0,
    sides: SIDES,
    costOf: (base) => expected.size * (base.length + MAC_BYTES),
    hits: (key, base) => {
      for (const [hash, digests] of expected) {
        const written = digests.get(macBase64(hash, key, base))
        const proof = written && Proof.byMac(hash, key, base, written.digest)
        if (proof) return { hash, written, proof }
      }
      return undefined
    },
  }
}

/** A base string, as the other end shows it. */
export function baseStringTarget(theirs: string): Target<{ proof: Proof }> {
  return {
    isPossible: true,
    sides: ['head', 'parameters'],
    costOf: (base) => base.length,
    hits: (_, base) => {
      const proof = base.length === theirs.length ? Proof.byComparing(theirs, base) : undefined
      return proof && { proof }
    },
  }
}

/**
 * Looks for what comes to what was received: each mistake alone in all its ways, then two of different families, then three of the likeliest, as far as the work goes that one
 * message is worth.
 * @throws RangeError when the address is not an absolute http(s) one
 */
export function search<Hit extends { proof: Proof }>(
  facts: SignedFacts,
  mistakes: readonly Mistake[],
  target: Target<Hit>,
): Searched<Hit> {
  return new Search(facts, mistakes, target).run()
}

class Search<Hit extends { proof: Proof }> {
  private readonly right: Signing
  private readonly sides: Sides
  private readonly matches: Match<Hit>[] = []
  private readonly tried: Mistake[] = []
  private readonly singles: Record<Side, Variant[]> = { key: [], head: [], parameters: [] }
  /** What matched: whatever else explains it comes to the very same, which needs no hash to see. */
  private found: Sides | undefined
  private spent = 0
  private ways = 0

  constructor(
    private readonly facts: SignedFacts,
    private readonly mistakes: readonly Mistake[],
    private readonly target: Target<Hit>,
  ) {
    this.right = rightSigning(facts)
    this.sides = sidesOf(this.right)
  }

  run(): Searched<Hit> {
    if (!this.target.isPossible) return { matches: [], tried: [], ways: 0, base: '' }
    this.matchesOf(this.sides, [])
    if (this.matches.length === 0) this.alone()
    if (this.matches.length === 0) this.together()
    const base = this.sides.head + this.sides.parameters
    return { matches: this.matches, tried: this.tried, ways: this.ways, base }
  }

  private alone(): void {
    const before = new Set<string>()
    for (const mistake of this.mistakes) {
      // What matched differs on its own sides only, and so does all that comes to the same.
      const sought = this.found ? this.differing(this.found) : this.target.sides
      if (!SIDE_OF[mistake.family].some((side) => sought.includes(side))) continue
      const seen = new Set<string>()
      let isFound = false
      for (const way of mistake.ways(this.facts, this.right)) {
        if (this.spent > MOST_BYTES) return
        const made = [{ mistake, way }]
        const sides = this.changed(made)
        const changed = this.differing(sides)
        const text = changed.map((side) => `${side} ${sides[side]}`).join('\n')
        if (changed.length === 0 || seen.has(text)) continue
        seen.add(text)
        if (mistake.givesWay && before.has(text)) continue
        before.add(text)
        // One way is enough to tell it by; the others of the same mistake tell nothing more.
        isFound ||= this.matchesOf(sides, made)
        if (changed.length === 1) this.singles[changed[0]!].push({ text: sides[changed[0]!], made })
      }
      if (!isFound) this.tried.push(mistake)
    }
  }

  /** Two of different families, and three of the likeliest: the first that match. */
  private together(): void {
    const none = (side: Side): Variant[] => [{ text: this.sides[side], made: [] }]
    const likely = (side: Side, most = Infinity) => likeliest(this.singles[side], most)
    // What is likely of all kinds goes before what is hardly seen of one.
    const plans: (() => readonly [Variant[], Variant[], Variant[]])[] = [
      () => [likely('key', 12), likely('head', 12), none('parameters')],
      () => [none('key'), likely('head', 12), likely('parameters', 24)],
      () => [likely('key', 12), none('head'), likely('parameters', 24)],
      () => [this.twoOfSide('key', 6), none('head'), none('parameters')],
      () => [none('key'), none('head'), this.twoOfSide('parameters', 4)],
      () => [none('key'), this.twoOfSide('head', 4), none('parameters')],
      () => [likely('key', MOST_IN_THREES), likely('head', MOST_IN_THREES), likely('parameters', MOST_IN_THREES)],
      () => [likely('key', 40), likely('head', 25), none('parameters')],
      () => [none('key'), likely('head', 25), likely('parameters', 40)],
      () => [likely('key', 40), none('head'), likely('parameters', 40)],
      () => [none('key'), none('head'), this.twoOfSide('parameters', 6)],
      () => [likely('key'), likely('head'), none('parameters')],
      () => [none('key'), likely('head'), likely('parameters')],
      () => [likely('key'), none('head'), likely('parameters')],
    ]
    for (const plan of plans) {
      const [keys, heads, rests] = plan()
      for (const one of keys)
        for (const two of heads)
          for (const three of rests) {
            if (this.spent > MOST_BYTES) return
            const made = [...one.made, ...two.made, ...three.made]
            const sides = { key: one.text, head: two.text, parameters: three.text }
            // Nothing else comes to the same: other sides are another signature.
            if (made.length > 1 && this.matchesOf(sides, made)) return
          }
    }
  }

  /** Two mistakes on one side. */
  private twoOfSide(side: Side, mostOfFamily: number): Variant[] {
    const of = this.singles[side]
    const likely = ofEachFamily(of, mostOfFamily)
    const found: Variant[] = []
    const seen = new Set<string>([this.sides[side], ...of.map(({ text }) => text)])
    for (const [i, one] of likely.entries())
      for (const other of likely.slice(i + 1)) {
        if (one.made[0]!.mistake.family === other.made[0]!.mistake.family) continue
        if (this.spent > MOST_BYTES) return found
        const made = [one.made[0]!, other.made[0]!]
        const text = this.changed(made)[side]
        if (!seen.has(text)) found.push({ text, made })
        seen.add(text)
      }
    return found
  }

  private differing(sides: Sides): Side[] {
    return SIDES.filter((side) => sides[side] !== this.sides[side])
  }

  private changed(made: readonly Made[]): Sides {
    const touched = new Set(made.flatMap(({ mistake }) => SIDE_OF[mistake.family]))
    const signing = made.reduce<Signing>((before, { way }) => ({ ...before, ...way.change(before) }), this.right)
    if (touched.has('parameters')) this.spent += this.sides.parameters.length * BUILDING
    return {
      key: touched.has('key') ? macKey(signing) : this.sides.key,
      head: touched.has('head') ? headOf(signing) : this.sides.head,
      parameters: touched.has('parameters') ? parametersOf(signing) : this.sides.parameters,
    }
  }

  private matchesOf({ key, head, parameters }: Sides, made: readonly Made[]): boolean {
    const { found } = this
    if (found) {
      const isSame = found.key === key && found.head === head && found.parameters === parameters
      if (isSame) this.matches.push({ ...this.matches[0]!, made })
      return isSame
    }
    const base = head + parameters
    this.ways++
    this.spent += this.target.costOf(base)
    const hit = this.target.hits(key, base)
    if (!hit) return false
    this.matches.push({ made, hit, base, isKeyOther: key !== this.sides.key })
    this.found = { key, head, parameters }
    return true
  }
}

const SIDES = ['key', 'head', 'parameters'] as const

function sidesOf(signing: Signing): Sides {
  return { key: macKey(signing), head: headOf(signing), parameters: parametersOf(signing) }
}

/** The first ways of each mistake, in turns: what is likely of one stands before what is hardly seen of another. */
function likeliest(all: readonly Variant[], most: number): Variant[] {
  return inTurns(all, ({ made }) => made[0]!.mistake).slice(0, most)
}

/** So many of each family, the likeliest of each. */
function ofEachFamily(all: readonly Variant[], most: number): Variant[] {
  return inTurns(likeliest(all, Infinity), ({ made }) => made[0]!.mistake.family, most)
}

/** The first of each group, then the second of each, and so on. */
function inTurns(all: readonly Variant[], groupOf: (one: Variant) => unknown, mostOfGroup = Infinity): Variant[] {
  const byGroup = new Map<unknown, Variant[]>()
  for (const one of all) {
    const group = byGroup.get(groupOf(one))
    if (group) group.push(one)
    else byGroup.set(groupOf(one), [one])
  }
  const groups = [...byGroup.values()]
  const turns = Math.min(mostOfGroup, Math.max(0, ...groups.map((group) => group.length)))
  return Array.from({ length: turns }, (_, turn) => groups.flatMap((group) => group.slice(turn, turn + 1))).flat()
}
