import { concluded, type Diagnosis } from './cause.js'
import { Proof } from './proof.js'

/** Why a timestamp is outside of the window: another unit, or a clock that is off, whose offset may be that of a time zone. @param sent in seconds since 1970 */
export function diagnoseClock(facts: { sent: number; nowSeconds: number; windowSeconds: number }): Diagnosis {
  const { sent, nowSeconds, windowSeconds } = facts
  const off = sent - nowSeconds
  const evidence: [string, string][] = [
    ['sent', `${sent}${sent < 1e11 ? ` (${new Date(sent * 1000).toISOString()})` : ''}`],
    ['our clock', `${nowSeconds} (${new Date(nowSeconds * 1000).toISOString()})`],
    ['allowed', `${windowSeconds} seconds either way`],
  ]
  const proof = Proof.byOffset(sent, nowSeconds, windowSeconds, 'outside')
  const inMilliseconds = Proof.byOffset(sent / 1000, nowSeconds, windowSeconds, 'within')
  if (inMilliseconds)
    return concluded(
      [
        {
          code: 'milliseconds',
          sentence: 'The timestamp is in milliseconds; it must be in seconds since 1970.',
          evidence,
          ours: null,
          theirs: 'Divide the timestamp by 1000.',
          proof: inMilliseconds,
        },
      ],
      [],
      '',
    )
  const zone = zoneOf(off)
  return concluded(
    [
      {
        code: 'clock_off',
        sentence: `The timestamp is ${Math.abs(off)} seconds ${off < 0 ? 'behind' : 'ahead of'} our clock: the clock that made it is off${off < 0 ? ', or the message was held back that long' : ''}.`,
        evidence: [
          ...evidence,
          ...(zone === undefined ? [] : [['may be', `${zone}, if local time was taken for UTC`] as [string, string]]),
        ],
        ours: 'Look whether this machine’s clock is kept by a time server.',
        theirs:
          'Have the clock kept by a time server, count seconds since 1970 in UTC, and send messages when they are made.',
        proof,
      },
    ],
    [],
    '',
  )
}

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
