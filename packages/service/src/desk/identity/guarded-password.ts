import { hash, verify } from '@node-rs/argon2'
import { Refusal } from '@bathyscribe/contract'
import { countedAddress, GUESS_WINDOW_MS, guessWaitMs } from '@bathyscribe/core/identity'
import { NoTurn, Turns } from '../../workers/turns.js'
import type { Context } from '../context.js'

/** Hashes at once: each takes 19 MiB and a thread that files and names are read by, too. */
const AT_ONCE = 2
const MOST_WAITING = 40
const turns = new Turns(AT_ONCE, MOST_WAITING)

/** @throws Refusal when so many wait already that it would take seconds */
function inTurn<T>(work: () => Promise<T>): Promise<T> {
  return turns.take(work).catch((error: unknown) => {
    throw error instanceof NoTurn ? new Refusal('service.busy', undefined, undefined, { retryAfterSeconds: 2 }) : error
  })
}

export function hashPassword(password: string): Promise<string> {
  return inTurn(() => hash(password))
}

// Checked instead of nothing for unknown names, so that an answer takes as long whether the name exists or not.
let nobodysHash: string | undefined

/**
 * Checks a password within the limits that all processes share; what is refused for too many tries is not checked at all.
 * @param username in the one spelling that accounts have: each other spelling would be counted by itself
 * @param passwordHash null for an account that is not there or has none: the same is done and found wrong
 * @returns whether it is right
 * @throws Refusal `session.too_many_tries` with the time to wait
 */
export async function checkPassword(
  context: Context,
  given: { username: string; password: string; passwordHash: string | null; address: string },
): Promise<boolean> {
  const { clock, ids, records } = context
  const now = clock.now()
  const account = given.username.slice(0, 100)
  const address = countedAddress(given.address)
  const miss = await records.transaction(async ({ passwordMisses }) => {
    await passwordMisses.lock(account, address)
    const facts = await passwordMisses.facts(account, address, new Date(now.getTime() - GUESS_WINDOW_MS))
    const waitMs = guessWaitMs(facts, now)
    if (waitMs > 0) {
      const retryAfterSeconds = Math.ceil(waitMs / 1000)
      throw new Refusal('session.too_many_tries', inWords(retryAfterSeconds), undefined, { retryAfterSeconds })
    }
    return passwordMisses.add({ account, address, known: facts.isKnownHere, at: now })
  })
  nobodysHash ??= await hashPassword(ids.secret())
  const right = await inTurn(() => verify(given.passwordHash ?? nobodysHash!, given.password))
  if (!right || given.passwordHash === null) return false
  await records.passwordMisses.takeBack(miss, now)
  return true
}

function inWords(seconds: number): string {
  return seconds < 90 ? `${seconds} seconds` : `${Math.ceil(seconds / 60)} minutes`
}
