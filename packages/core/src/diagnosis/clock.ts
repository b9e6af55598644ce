import { concluded, type Diagnosis } from './cause.js'

const HOUR = 3600

/** Why a timestamp is outside of the window: another unit, a time zone taken for UTC, or a clock that is off. @param sent in seconds since 1970 */
export function diagnoseClock(facts: { sent: number; nowSeconds: number; windowSeconds: number }): Diagnosis {
  const { sent, nowSeconds, windowSeconds } = facts
  const off = sent - nowSeconds
  const evidence: [string, string][] = [
    ['sent', `${sent}${sent < 1e11 ? ` (${new Date(sent * 1000).toISOString()})` : ''}`],
    ['our clock', `${nowSeconds} (${new Date(nowSeconds * 1000).toISOString()})`],
    ['allowed', `${windowSeconds} seconds either way`],
  ]
  const near = (value: number) => Math.abs(value) <= windowSeconds
  if (near(sent / 1000 - nowSeconds))
    return concluded(
      [
        {
          code: 'milliseconds',
          sentence: 'The timestamp is in milliseconds; it must be in seconds since 1970.',
          evidence,
          ours: null,
          theirs: 'Divide the timestamp by 1000.',
        },
      ],
      [],
      '',
    )
  const hours = Math.round(off / (HOUR / 2)) / 2
  if (hours !== 0 && Math.abs(hours) <= 14 && near(off - hours * HOUR))
    return concluded(
      [
        {
          code: 'time_zone',
          sentence: `The timestamp is off by ${Math.abs(hours)} ${Math.abs(hours) === 1 ? 'hour' : 'hours'} on the dot: local time was taken for UTC.`,
          evidence,
          ours: null,
          theirs: 'Count the seconds since 1970 in UTC.',
        },
      ],
      [],
      '',
    )
  return concluded(
    [
      {
        code: 'clock_off',
        sentence: `The clock that made it is ${Math.abs(off)} seconds ${off < 0 ? 'behind' : 'ahead of'} ours, or the message was held back that long.`,
        evidence,
        ours: 'Look whether this machine’s clock is kept by a time server.',
        theirs: 'Have the clock kept by a time server; send messages when they are made.',
      },
    ],
    [],
    '',
  )
}
