/** Wrong passwords of the last hour, and when the last and the first of them were. */
export interface Misses {
  count: number
  firstAt: Date | null
  lastAt: Date | null
}

/** What is known before a password is checked. */
export interface GuessFacts {
  /** This account from this address. */
  here: Misses
  /** This account from all addresses together that it has never signed in from. */
  elsewhere: Misses
  /** All accounts that never signed in from this address, from it. */
  spread: Misses
  /** Whether this account has signed in from this address before. */
  isKnownHere: boolean
}

/** `free` tries cost no wait, each one after them twice as long as the one before, and after `most` the window has to pass. */
interface Ration {
  free: number
  most: number
  firstWaitMs: number
}

export const GUESS_WINDOW_MS = 3_600_000
/** Together 30 checks of one account an hour at most: what strangers use up leaves the person's own address alone. */
export const GUESS_RATIONS = {
  here: { free: 4, most: 10, firstWaitMs: 10_000 },
  elsewhere: { free: 8, most: 20, firstWaitMs: 1_000 },
  // Behind one address may be a whole campus, whose people have mostly signed in from there before.
  spread: { free: 40, most: 120, firstWaitMs: 50 },
} as const satisfies Record<string, Ration>

/**
 * How long a password is not looked at yet; 0 when it may be now. Delays grow instead of a lock, so that nobody can be shut out by others for good,
 * and an address that the account has signed in from waits for its own misses only.
 * @returns milliseconds
 */
export function guessWaitMs(facts: GuessFacts, now: Date): number {
  const { here, elsewhere, spread } = GUESS_RATIONS
  const waits = [waitMs(facts.here, here, now)]
  if (!facts.isKnownHere) waits.push(waitMs(facts.elsewhere, elsewhere, now), waitMs(facts.spread, spread, now))
  return Math.max(...waits)
}

function waitMs({ count, firstAt, lastAt }: Misses, { free, most, firstWaitMs }: Ration, now: Date): number {
  if (count < free || firstAt === null || lastAt === null) return 0
  const until =
    count >= most
      ? firstAt.getTime() + GUESS_WINDOW_MS
      : lastAt.getTime() + Math.min(firstWaitMs * 2 ** (count - free), GUESS_WINDOW_MS)
  return Math.max(0, until - now.getTime())
}

/** An address as it is counted: of IPv6 the first 64 bits, which one subscriber has for himself (RFC 6177). */
export function countedAddress(address: string): string {
  const mapped = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)
  if (mapped) return mapped[1]!
  if (!address.includes(':')) return address
  const [head = '', tail] = address.toLowerCase().split('%')[0]!.split('::')
  const left = head === '' ? [] : head.split(':')
  const right = tail === undefined || tail === '' ? [] : tail.split(':')
  const zeros = tail === undefined ? [] : Array<string>(Math.max(0, 8 - left.length - right.length)).fill('0')
  return `${[...left, ...zeros, ...right]
    .slice(0, 4)
    .map((part) => part.replace(/^0+(?=.)/, ''))
    .join(':')}::/64`
}
