import { concluded, type Diagnosis, type Found } from './cause.js'
import { Proof } from './proof.js'

/** A timestamp that was refused, and what the same sender's others of that time say. */
export interface ClockFacts {
  /** In seconds since 1970. */
  sent: number
  nowSeconds: number
  windowSeconds: number
  /** By how many seconds its other messages of that hour were ahead of our clock when they came. */
  others?: readonly number[]
}

/** Later than any moment in seconds, and earlier than any of this century in milliseconds. */
export const MOST_SECONDS = 1e11
export const isInMilliseconds = (moment: number) => moment > MOST_SECONDS

/** So many other messages have to agree before they speak for anything. */
const WITNESSES = 3
const MOST_OF_THEM = 0.8

/**
 * Why a timestamp is outside of the window: another unit, a clock that is off, or a message that waited. Which of the last two is told by the sender's other messages; a time
 * zone is named only where they are off by as much.
 */
export function diagnoseClock(facts: ClockFacts): Diagnosis {
  const { sent, nowSeconds, windowSeconds, others = [] } = facts
  const off = sent - nowSeconds
  const evidence: [string, string][] = [
    ['sent', `${sent}${isInMilliseconds(sent) ? '' : ` (${new Date(sent * 1000).toISOString()})`}`],
    ['our clock', `${nowSeconds} (${new Date(nowSeconds * 1000).toISOString()})`],
    ['allowed', `${windowSeconds} seconds either way`],
  ]
  const inMilliseconds = Proof.byOffset(sent / 1000, nowSeconds, windowSeconds, 'within')
  if (inMilliseconds)
    return told({
      code: 'milliseconds',
      sentence: 'The timestamp is in milliseconds; it must be in seconds since 1970.',
      evidence,
      ours: null,
      theirs: 'Divide the timestamp by 1000.',
      proof: inMilliseconds,
    })
  const how = `${Math.abs(off)} seconds ${off < 0 ? 'behind' : 'ahead of'} our clock`
  const alike = others.filter((one) => Math.abs(one - off) <= NEAR_SECONDS).length
  const right = others.filter((one) => Math.abs(one) <= windowSeconds).length
  const agree = (count: number) => count >= WITNESSES && count >= others.length * MOST_OF_THEM
  if (agree(right))
    return told({
      code: off < 0 ? 'held_back' : 'clock_of_one_off',
      sentence:
        off < 0
          ? `The timestamp is ${how}, and those of the tool’s other messages are right: most likely this one waited before it was sent, or the clock of one of its servers is off.`
          : `The timestamp is ${how}, and those of the tool’s other messages are right: most likely the clock of one of its servers is off.`,
      evidence: [...evidence, ['other messages of that hour', `${right} of ${others.length} within what is allowed`]],
      ours: null,
      theirs:
        off < 0
          ? 'Sign a message when it is sent, and again when it is sent again later.'
          : 'Look which of the servers sent it, and have its clock kept by a time server.',
    })
  const isSeen = agree(alike)
  const zone = isSeen ? zoneOf(off) : undefined
  return told({
    code: 'clock_off',
    sentence: `The timestamp is ${how}: the clock that made it is off${off < 0 && !isSeen ? ', or the message was held back that long' : ''}.`,
    evidence: [
      ...evidence,
      ...row(isSeen, 'other messages of that hour', `${alike} of ${others.length} are off by as much`),
      ...row(zone !== undefined, 'may be', `${zone}, if local time was taken for UTC`),
    ],
    ours: 'Look whether this machine’s clock is kept by a time server.',
    theirs:
      'Have the clock kept by a time server, count seconds since 1970 in UTC, and send messages when they are made.',
    proof: Proof.byOffset(sent, nowSeconds, windowSeconds, 'outside'),
  })
}

const row = (isThere: boolean, name: string, value: string): [string, string][] => (isThere ? [[name, value]] : [])
const told = (found: Found) => concluded([found], [], '')

const QUARTER = 900
const MOST_HOURS = 14
/** By how much a message may be off the quarter of an hour and still look like another zone's. */
const NEAR_SECONDS = 60

/** The time zone that a timestamp would be off by, as it is said; undefined for what is none's. A delay may be as long by chance: it is a hint and no more. */
function zoneOf(off: number): string | undefined {
  const quarters = Math.round(off / QUARTER)
  if (Math.abs(quarters) < 4 || Math.abs(quarters) > MOST_HOURS * 4) return undefined
  if (Math.abs(off - quarters * QUARTER) > NEAR_SECONDS) return undefined
  const hours = quarters / 4
  return `${Math.abs(hours)} ${Math.abs(hours) === 1 ? 'hour' : 'hours'} ${off < 0 ? 'behind' : 'ahead'}`
}
