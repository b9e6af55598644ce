import Big from 'big.js'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { addPoints, fractionOf, isWithin, pointsOf, readFraction, sameNumber, shown } from '@bathyscribe/core/scores'

describe('a score as sent', () => {
  it.each([
    ['0.645', '0.645'],
    ['1', '1'],
    ['0', '0'],
    ['1.0', '1'],
    ['.5', '0.5'],
    ['1.', '1'],
    ['+0.25', '0.25'],
    ['  0.5\n', '0.5'],
    ['.25', '0.25'],
    ['00.5', '0.5'],
    [`0.${'1'.repeat(62)}`, `0.${'1'.repeat(62)}`],
    ['0.3333333333333333333333333333333333333333', '0.3333333333333333333333333333333333333333'],
  ])('%j is %s', (sent, value) => {
    expect(readFraction(sent)).toMatchObject({ value })
  })

  it.each([
    ['', 'score.empty'],
    ['   ', 'score.empty'],
    ['1.2', 'score.above_one'],
    ['1.0000000000000000000000000000001', 'score.above_one'],
    ['-0', 'score.negative'],
    ['-0.5', 'score.negative'],
    ['0,5', 'score.decimal_comma'],
    ['1,0', 'score.decimal_comma'],
    [',5', 'score.decimal_comma'],
    ['12,25', 'score.decimal_comma'],
    ['+0,5', 'score.decimal_comma'],
    ['-0,5', 'score.decimal_comma'],
    ['x0,5', 'score.not_a_number'],
    ['0,5x', 'score.not_a_number'],
    ['x,5', 'score.not_a_number'],
    ['12', 'score.above_one'],
    ['12.25', 'score.above_one'],
    ['0+5', 'score.not_a_number'],
    ['.', 'score.not_a_number'],
    ['NaN', 'score.not_a_number'],
    ['Infinity', 'score.not_a_number'],
    ['1e400', 'score.not_a_number'],
    ['5E-1', 'score.not_a_number'],
    ['0x1', 'score.not_a_number'],
    ['٠.٥', 'score.not_a_number'],
    ['0.5 1', 'score.not_a_number'],
    [`0.${'1'.repeat(70)}`, 'score.too_long'],
  ])('%j is refused by %s', (sent, code) => {
    expect(readFraction(sent)).toMatchObject({ code })
  })

  it('is cut to 40 characters where it is told back, and counted where it is too long', () => {
    expect(readFraction(`x${'y'.repeat(50)}`)).toEqual({ code: 'score.not_a_number', detail: `x${'y'.repeat(39)}` })
    expect(readFraction('9'.repeat(65))).toEqual({ code: 'score.too_long', detail: '65 characters' })
    expect(readFraction('9'.repeat(64))).toMatchObject({ code: 'score.above_one' })
  })

  it('is a value or a problem for any text, never an exception', () => {
    fc.assert(fc.property(fc.string(), (text) => void readFraction(text)))
  })
})

describe('points', () => {
  const plain = fc
    .tuple(fc.bigInt({ min: 0n, max: 10n ** 14n }), fc.integer({ min: 0, max: 12 }))
    .map(([digits, decimals]) => {
      const text = digits.toString().padStart(decimals + 1, '0')
      return decimals === 0 ? text : `${text.slice(0, -decimals)}.${text.slice(-decimals)}`
    })

  it('are what a general library makes of them, to the last digit', () => {
    const exactly = Big()
    exactly.DP = 30
    exactly.NE = -1000
    exactly.PE = 1000
    fc.assert(
      fc.property(plain, plain, (one, other) => {
        if (Number(other) > 0) expect(fractionOf(one, other)).toBe(exactly(one).div(other).toFixed())
        expect(pointsOf(one, other)).toBe(exactly(one).times(other).toFixed())
        // A quotient that does not end is given back as what it came from.
        if (Number(other) > 0 && Number(one) <= Number(other) * 1000) {
          const back = exactly(pointsOf(fractionOf(one, other), other))
          expect(Number(back.minus(one).abs())).toBeLessThan(1e-14)
        }
      }),
      { numRuns: 2000 },
    )
  })

  const decimal = (max: number) =>
    fc.tuple(fc.nat(max), fc.nat(9999)).map(([whole, part]) => `${whole}.${String(part).padStart(4, '0')}`)

  it('lose nothing: the fraction of the points is the fraction again', () => {
    fc.assert(
      fc.property(fc.nat(10_000), decimal(1000), (tenThousandths, points) => {
        if (Number(points) === 0) return
        const fraction = String(tenThousandths / 10_000)
        const earned = pointsOf(fraction, points)
        expect(BigInt(Math.round(Number(fraction) * 10_000)) * BigInt(points.replace('.', ''))).toBe(scaled(earned))
        expect(sameNumber(fractionOf(earned, points), fraction)).toBe(true)
      }),
    )
  })
  const scaled = (text: string) => {
    const [whole, part = ''] = text.split('.') as [string, string?]
    return BigInt(whole + part.padEnd(8, '0'))
  }

  it('are 64.5 for 0.645 of 100, shown as 65: half up', () => {
    expect(pointsOf('0.645', '100')).toBe('64.5')
    expect(shown('64.5')).toBe('65')
    expect(shown('64.49999999999999999999')).toBe('64')
    expect(shown('2.675', 2)).toBe('2.68')
  })

  it('of a quotient that does not end are what it came from', () => {
    const third = fractionOf('20', '30')
    expect(third).toBe(`0.${'6'.repeat(29)}7`)
    expect(pointsOf(third, '30')).toBe('20')
    // From 25 decimals on it is taken for one; with 24 it says what it says.
    expect(pointsOf(`0.${'6'.repeat(25)}`, '30')).toBe('20')
    expect(pointsOf(`0.${'6'.repeat(24)}`, '30')).toBe(`19.${'9'.repeat(22)}8`)
    expect(pointsOf(`0.${'5'.repeat(25)}`, '0.0000000001')).toBe('0.000000000055556')
    expect(pointsOf(`0.${'0'.repeat(24)}1`, '10')).toBe('0')
    // More decimals than a quotient keeps, on either side.
    expect(fractionOf(`0.${'0'.repeat(34)}5`, '1')).toBe('0')
    expect(fractionOf(`0.${'0'.repeat(29)}5`, '1')).toBe(`0.${'0'.repeat(29)}5`)
    expect(fractionOf(`0.${'0'.repeat(39)}5`, `0.${'0'.repeat(39)}5`)).toBe('1')
    expect(fractionOf('1'.repeat(60), '1'.repeat(60))).toBe('1')
  })

  it.each([
    ['.5', '10', '5'],
    ['5.', '10', '50'],
    ['+0.5', '010', '5'],
    ['0', '10', '0'],
    ['1', '0', '0'],
    ['0.25', '0.10', '0.025'],
  ])('of %s of %s are %s, however the numbers are written', (fraction, points, expected) =>
    expect(pointsOf(fraction, points)).toBe(expected),
  )

  it.each(['', '.', '-1', '1e3', '1,5', 'x1', '1x', '1.5.', '1.x', ' 1'])('are refused for %j', (text) => {
    expect(() => pointsOf(text, '1')).toThrow(RangeError)
    expect(() => pointsOf('1', text)).toThrow(/no decimal from 0 upwards/)
    expect(() => fractionOf(text, '1')).toThrow(RangeError)
    expect(() => pointsOf(`${'x'.repeat(50)}`, '1')).toThrow(`“${'x'.repeat(40)}” is`)
  })

  it('are no part of nothing', () => expect(() => fractionOf('1', '0.0')).toThrow(RangeError))

  it.each([
    ['5', true],
    ['4.999', false],
    ['5.001', true],
    ['7', true],
    ['7.0001', false],
    ['10', false],
  ])('%s is within 5 and 7: %s', (value, is) => expect(isWithin(value, '5.0', '7')).toBe(is))

  it('add up exactly', () => {
    expect(addPoints(['0.1', '0.2', '1e-7'])).toBe('0.3000001')
    expect(addPoints([])).toBe('0')
  })
})
