import type { Pool } from 'pg'
import type { MessageToWrite, MessageWritten } from './messages.js'

/** Of messages that name no registration we know: so many a minute are kept, over all processes. */
export const STRANGERS_A_MINUTE = 20
/** Characters of what such a message carries. */
const KEPT_CHARACTERS = 1000

/** Whether a message names nothing that we know: anybody on the internet can send such, as many as they like. */
export function isStranger(message: MessageToWrite): boolean {
  return (
    message.direction === 'received' &&
    message.outcome === 'refused' &&
    message.registrationId === null &&
    message.assignmentId === null &&
    message.personId === null &&
    (message.pickingId ?? null) === null
  )
}

/**
 * Lets the wire log grow by what strangers send only as far as a sample of it goes. What is not kept is counted, and said with the next that is.
 * @param write keeps a message
 */
export function withoutStrangers(
  pool: Pool,
  write: (message: MessageToWrite) => Promise<MessageWritten>,
): (message: MessageToWrite) => Promise<MessageWritten> {
  let minute = 0
  let tried = 0
  let passedOver = 0
  return async (message) => {
    if (!isStranger(message)) return write(message)
    const now = Math.floor(message.at.getTime() / 60_000)
    if (now !== minute) [minute, tried] = [now, 0]
    tried += 1
    if (tried > STRANGERS_A_MINUTE || !(await mayKeep(pool, new Date(minute * 60_000)))) {
      passedOver += 1
      return { written: false, why: 'not_kept' }
    }
    const others = passedOver
    passedOver = 0
    return write({
      ...message,
      request: cut(message.request),
      response: cut(message.response),
      ...(others > 0 && {
        statement: `${message.statement} ${others} more calls of strangers before it were refused and not kept.`,
      }),
    })
  }
}

/** Takes one of the places of a minute. */
async function mayKeep(pool: Pool, minute: Date): Promise<boolean> {
  const { rowCount } = await pool.query({
    name: 'keep-stranger',
    text: `insert into stranger_minute as m (minute, kept) values ($1, 1) on conflict (minute) do update set kept = m.kept + 1 where m.kept < $2 returning 1`,
    values: [minute, STRANGERS_A_MINUTE],
  })
  return rowCount === 1
}

/** What was sent or answered, its long parts cut. */
function cut(value: unknown): unknown {
  if (typeof value === 'string')
    return value.length > KEPT_CHARACTERS ? `${value.slice(0, KEPT_CHARACTERS)}… (${value.length} characters)` : value
  if (Array.isArray(value)) return value.slice(0, 50).map(cut)
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(
    Object.entries(value)
      .slice(0, 50)
      .map(([name, one]) => [name, cut(one)]),
  )
}
