import type { Mail } from '../../wire/mailer.js'
import type { Context } from '../context.js'

const MOST_AT_ONCE = 20
/** Longer than a slow server takes for as many as are taken at once: nobody else mails them meanwhile. */
const HELD_MS = 10 * 60_000
const RETRY_MS = 5 * 60_000
const MOST_TRIES = 6
/** The next look comes a minute later. */
const LOOK_MS = 45_000

/** What became of a mail; `tryAt` null: it is out, or given up. */
export interface Mailed {
  sentAt: Date | null
  failure: string | null
  tryAt: Date | null
}

/** Mail of one kind that waits in the records. */
export interface WaitingMail<Letter> {
  /** As the log calls one, and by what it is found. */
  what: string
  about: (letter: Letter) => object
  /** Takes some of what is due, until `until`, so that nobody else mails it meanwhile. */
  take: (now: Date, until: Date, most: number) => Promise<Letter[]>
  /** Null where there is no address. */
  write: (letter: Letter) => Mail | null
  note: (letter: Letter, became: Mailed) => Promise<void>
}

/** Mails what waits. Any number of processes may do so side by side; what the server does not take is tried again for half an hour. */
export async function mailWaiting<Letter extends { tries: number }>(
  { mailer, clock, log }: Context,
  { what, about, take, write, note }: WaitingMail<Letter>,
): Promise<void> {
  if (!mailer) return
  const until = performance.now() + LOOK_MS
  let letters: Letter[]
  do {
    const now = clock.now()
    letters = await take(now, new Date(now.getTime() + HELD_MS), MOST_AT_ONCE)
    for (const letter of letters)
      try {
        const mail = write(letter)
        if (mail) await mailer.send(mail)
        await note(letter, { sentAt: mail && clock.now(), failure: mail ? null : 'no address', tryAt: null })
      } catch (error) {
        const failure = (error as Error).message.slice(0, 500)
        log.warn({ reason: failure, ...about(letter) }, `${what} could not be mailed`)
        const retryAt = new Date(clock.now().getTime() + RETRY_MS)
        await note(letter, { sentAt: null, failure, tryAt: letter.tries >= MOST_TRIES ? null : retryAt })
      }
  } while (letters.length === MOST_AT_ONCE && performance.now() < until)
}
