import { stripHidden } from '../../text/index.js'
import { launchRefusal, type ToolAnswer } from '../launch-answer.js'
import { hindranceOf, isInTheWay, type Hindrance } from './hindrance.js'
import { likeness, SURE_OF_WORDS, type Likeness, type Sample } from './likeness.js'

/**
 * The same launch sent again, as it was or with one thing changed, to learn what the tool objects to. The two decoys are wrong on purpose;
 * the candidates are mistakes seen in practice, each of which would be shown by the tool taking it.
 */
export type ProbeName = 'again' | Candidate | 'decoy_secret' | 'decoy_key'
const CANDIDATES = ['trimmed_secret', 'other_secret', 'swapped'] as const
type Candidate = (typeof CANDIDATES)[number]

export interface ProbeCredentials {
  consumerKey: string
  sharedSecret: string
}

/** Another secret of the registration, and which it is. */
export interface OtherHeld {
  sharedSecret: string
  role: 'previous' | 'next'
}

/**
 * The credentials each probe signs with; a candidate that would repeat the launch as it was is left out.
 * @param decoy a value that is certainly nobody's key or secret
 * @param other another secret of the same registration: the one before a rotation, or the one that is to come
 */
export function probeCredentials(
  held: ProbeCredentials,
  decoy: string,
  other?: OtherHeld,
): Partial<Record<ProbeName, ProbeCredentials>> {
  const trimmed = stripHidden(held.sharedSecret)
  return {
    again: held,
    decoy_secret: { ...held, sharedSecret: decoy },
    decoy_key: { ...held, consumerKey: decoy },
    ...(trimmed !== held.sharedSecret && { trimmed_secret: { ...held, sharedSecret: trimmed } }),
    ...(other &&
      other.sharedSecret !== held.sharedSecret && { other_secret: { ...held, sharedSecret: other.sharedSecret } }),
    ...(held.consumerKey !== held.sharedSecret && {
      swapped: { consumerKey: held.sharedSecret, sharedSecret: held.consumerKey },
    }),
  }
}

/** What answered in the place of the tool: there is nothing to learn from it, and nothing more is sent. */
class Hindered extends Error {
  constructor(
    readonly what: Hindrance,
    readonly status: number,
  ) {
    super(what)
  }
}

/** Answers to one probe, and of each whether it took the launch: a page is read for that once. */
interface Answered {
  answers: ToolAnswer[]
  taken: boolean[]
}

/** How a tool answers: each probe is sent as often as it takes to tell what changes by itself, and no oftener. */
export class Probes {
  private readonly answered = new Map<ProbeName, Answered>()

  /**
   * @param first the tool's answer to the launch as it was
   * @param send launches once more, signed by these credentials
   */
  constructor(
    first: ToolAnswer,
    private readonly credentials: Partial<Record<ProbeName, ProbeCredentials>>,
    private readonly send: (probe: ProbeName, credentials: ProbeCredentials) => Promise<ToolAnswer>,
  ) {
    this.keep('again', first, hindranceOf(first))
  }

  has(probe: ProbeName): boolean {
    return this.credentials[probe] !== undefined
  }

  /** All answers to a probe, so many at least. @throws Hindered */
  async of(probe: ProbeName, times: number): Promise<Sample> {
    const credentials = this.credentials[probe]!
    while (this.so(probe).answers.length < times) {
      const answer = await this.send(probe, credentials)
      const what = hindranceOf(answer)
      if (what !== undefined && isInTheWay(what)) throw new Hindered(what, answer.status)
      this.keep(probe, answer, what)
    }
    return { answers: this.so(probe).answers, quotes: [credentials.consumerKey] }
  }

  async compare(one: ProbeName, other: ProbeName): Promise<Likeness> {
    let found: Likeness = 'unclear'
    for (let times = 1; times <= SURE_OF_WORDS && found === 'unclear'; times++)
      found = likeness(await this.of(one, times), await this.of(other, times))
    return found
  }

  /** Whether the tool has taken it, as often as it was sent. */
  isTaken(probe: ProbeName): 'always' | 'sometimes' | 'never' {
    const { taken } = this.so(probe)
    return !taken.includes(true) ? 'never' : taken.includes(false) ? 'sometimes' : 'always'
  }

  private keep(probe: ProbeName, answer: ToolAnswer, instead: Hindrance | undefined): void {
    const { answers, taken } = this.so(probe)
    const isTaken = instead === undefined && launchRefusal(answer) === undefined
    this.answered.set(probe, { answers: [...answers, answer], taken: [...taken, isTaken] })
  }

  private so(probe: ProbeName): Answered {
    return this.answered.get(probe) ?? { answers: [], taken: [] }
  }
}

/** Asks until something is found, or something else than the tool answers. */
export async function unlessHindered<T>(
  find: () => Promise<T>,
  hindered: (what: Hindrance, status: number) => T,
): Promise<T> {
  try {
    return await find()
  } catch (error) {
    if (error instanceof Hindered) return hindered(error.what, error.status)
    throw error
  }
}

/** What servers answer at an address that is none, or none that forms are posted to (RFC 9110 sections 15.5.5, 15.5.6 and 15.5.11). */
const NO_ADDRESS = [404, 405, 410]

/** What a refused launch comes down to, with what is known of it. */
export type LaunchCause =
  | { code: 'hindered'; what: Hindrance; status: number }
  | { code: 'address_wrong'; status: number; url: string }
  | { code: 'key_or_secret_wrong' | 'secret_wrong'; key: string }
  | {
      code:
        | 'next_secret_is_held'
        | 'previous_secret_is_held'
        | 'secret_has_hidden_characters'
        | 'key_and_secret_swapped'
        | 'not_verified'
        | 'unsteady'
        | 'not_told'
        | 'not_the_credentials'
    }

/**
 * Names the cause of a refused launch from how the tool answers it when it is sent again, and under other credentials. A candidate that is taken each time, while the launch as it
 * was and what is made up are refused each time, was seen to be it. Otherwise the refusal is compared with those of the decoys: the same words as for a made-up secret, but not as
 * for a made-up key, speak for the secret; words that differ from both, each time, speak against the credentials. The same words for all prove nothing, and are told as that.
 * @param other which secret `other_secret` is
 */
export async function causeOfRefusal(
  refused: ToolAnswer,
  probes: Probes,
  key: string,
  other?: Pick<OtherHeld, 'role'>,
): Promise<LaunchCause> {
  const what = hindranceOf(refused)
  if (what !== undefined && isInTheWay(what)) return { code: 'hindered', what, status: refused.status }
  return unlessHindered<LaunchCause>(
    async () => {
      const found = (await byTaking(probes, other)) ?? (await byWords(refused, probes, key))
      // The answers that were asked for on the way may show that no conclusion from them holds.
      return shaken(probes) ?? found
    },
    (instead, status) => ({ code: 'hindered', what: instead, status }),
  )
}

/** Who takes what is made up takes anything; and who takes at times what was refused before refuses for something else. */
function shaken(probes: Probes): LaunchCause | undefined {
  if (probes.isTaken('decoy_secret') !== 'never' || probes.isTaken('decoy_key') !== 'never')
    return { code: 'not_verified' }
  return probes.isTaken('again') === 'never' ? undefined : { code: 'unsteady' }
}

async function byTaking(probes: Probes, other?: Pick<OtherHeld, 'role'>): Promise<LaunchCause | undefined> {
  await probes.of('decoy_secret', 1)
  await probes.of('decoy_key', 1)
  if (shaken(probes)) return shaken(probes)
  for (const candidate of CANDIDATES) {
    if (!probes.has(candidate)) continue
    await probes.of(candidate, 1)
    if (probes.isTaken(candidate) !== 'always') continue
    // Once may be chance: all of it again.
    for (const probe of [candidate, 'again', 'decoy_secret'] as const) await probes.of(probe, 2)
    if (probes.isTaken(candidate) !== 'always') return { code: 'unsteady' }
    return { code: codeOf(candidate, other) }
  }
  return undefined
}

function codeOf(candidate: Candidate, other?: Pick<OtherHeld, 'role'>) {
  if (candidate === 'trimmed_secret') return 'secret_has_hidden_characters'
  if (candidate === 'swapped') return 'key_and_secret_swapped'
  return other?.role === 'next' ? 'next_secret_is_held' : 'previous_secret_is_held'
}

async function byWords(refused: ToolAnswer, probes: Probes, key: string): Promise<LaunchCause> {
  const secret = await probes.compare('again', 'decoy_secret')
  const byKey = await probes.compare('again', 'decoy_key')
  if (secret === 'alike' && byKey === 'alike') return forAll(refused, key)
  if (secret === 'alike' && byKey === 'different') return { code: 'secret_wrong', key }
  return { code: secret === 'different' && byKey === 'different' ? 'not_the_credentials' : 'not_told' }
}

/** The tool answers so whatever it is sent. */
function forAll(refused: ToolAnswer, key: string): LaunchCause {
  const { status, url } = refused
  const what = hindranceOf(refused)
  if (what !== undefined) return { code: 'hindered', what, status }
  return NO_ADDRESS.includes(status)
    ? { code: 'address_wrong', status, url: url.slice(0, 200) }
    : { code: 'key_or_secret_wrong', key }
}
