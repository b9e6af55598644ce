import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { countedAddress, GUESS_RATIONS, GUESS_WINDOW_MS, guessWaitMs, type Misses } from '../src/identity/index.js'

const NOW = new Date('2026-11-02T10:00:00Z')
const none: Misses = { count: 0, firstAt: null, lastAt: null }
const misses = (count: number, lastAgoMs = 0, firstAgoMs = lastAgoMs): Misses => ({
  count,
  firstAt: new Date(NOW.getTime() - firstAgoMs),
  lastAt: new Date(NOW.getTime() - lastAgoMs),
})
const facts = (change: object) => ({ here: none, elsewhere: none, spread: none, isKnownHere: false, ...change })

describe('how long a password is not looked at', () => {
  it.each([
    ['nothing was wrong', {}, 0],
    ['the last free try', { here: misses(3) }, 0],
    ['one more', { here: misses(4) }, 10_000],
    ['the next', { here: misses(5) }, 20_000],
    ['part of the wait is over', { here: misses(5, 15_000) }, 5_000],
    ['all of it is', { here: misses(5, 20_000) }, 0],
    ['all tries of the hour are used up', { here: misses(10, 3_000_000, 3_500_000) }, 100_000],
    ['others guess from everywhere', { elsewhere: misses(9) }, 2_000],
    ['they have used up theirs', { elsewhere: misses(20, 0, 600_000) }, GUESS_WINDOW_MS - 600_000],
    ['they have, but the account is known here', { elsewhere: misses(20), spread: misses(500), isKnownHere: true }, 0],
    ['known here, and wrong here', { here: misses(4), isKnownHere: true }, 10_000],
    ['one address tries many accounts', { spread: misses(120, 0, 0) }, GUESS_WINDOW_MS],
  ])('when %s', (_, change, waits) => expect(guessWaitMs(facts(change), NOW)).toBe(waits))

  it('lets through thirty an hour at most, from anywhere and one known place together', () => {
    expect(GUESS_RATIONS.here.most + GUESS_RATIONS.elsewhere.most).toBeLessThanOrEqual(30)
  })

  it('never shortens with one miss more', () => {
    fc.assert(
      fc.property(
        fc.nat(200),
        fc.nat(4_000_000),
        fc.constantFrom('here', 'elsewhere', 'spread'),
        (count, ago, kind) => {
          const wait = (n: number) => guessWaitMs(facts({ [kind]: n === 0 ? none : misses(n, ago) }), NOW)
          expect(wait(count + 1)).toBeGreaterThanOrEqual(wait(count))
          expect(wait(count)).toBeGreaterThanOrEqual(0)
        },
      ),
    )
  })
})

describe('the address that is counted', () => {
  it.each([
    ['192.0.2.7', '192.0.2.7'],
    ['::ffff:192.0.2.7', '192.0.2.7'],
    ['2001:db8:1:2:3:4:5:6', '2001:db8:1:2::/64'],
    ['2001:DB8:0001:0002::9', '2001:db8:1:2::/64'],
    ['2001:db8::1', '2001:db8:0:0::/64'],
    ['::1', '0:0:0:0::/64'],
    ['fe80::1%eth0', 'fe80:0:0:0::/64'],
  ])('%s is %s', (address, counted) => expect(countedAddress(address)).toBe(counted))
})
