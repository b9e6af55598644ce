import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { asDoubted, CAUSE_CODES, partsOfCode, trackRecord, type Diagnosis } from '@bathyscribe/core/diagnosis'

const cause = (code: string) => ({ code, sentence: `It is ${code}.`, evidence: [], ours: null, theirs: null })
const diagnosis = (certainty: Diagnosis['certainty'], ...codes: string[]): Diagnosis => ({
  certainty,
  sentence: 'So it is.',
  causes: codes.map(cause),
  ruledOut: [],
})

describe('a cause in doubt', () => {
  const proven = { ...diagnosis('likely', 'other_scheme'), certainty: 'proven' } as Diagnosis
  it.each([
    ['proven', proven, ['other_scheme'], 'likely', ['other_scheme']],
    [
      'proven by two mistakes together',
      { ...proven, causes: [cause('other_scheme+trailing_slash')] },
      ['trailing_slash'],
      'likely',
      ['trailing_slash'],
    ],
    ['proven, and in no doubt', proven, ['trailing_slash'], 'proven', []],
    ['several', diagnosis('several', 'a', 'b'), ['b'], 'several', ['b']],
    ['likely', diagnosis('likely', 'a'), ['a'], 'likely', ['a']],
    ['none', diagnosis('none'), ['a'], 'none', []],
  ] as const)('that was %s is told as far as it may be', (_, given, doubted, certainty, doubts) => {
    const before = structuredClone(given)
    const told = asDoubted(given as Diagnosis, new Set<string>(doubted))
    expect(told.found).toEqual({ ...before, certainty })
    expect(told.doubts).toEqual(doubts)
    expect(given).toEqual(before)
  })
  it('is named once, however many causes have it', () => {
    expect(asDoubted(diagnosis('several', 'a+b', 'a+c'), new Set(['a'])).doubts).toEqual(['a'])
    expect(partsOfCode('a+b')).toEqual(['a', 'b'])
  })
})

describe('a track record', () => {
  const counts = fc.record({ right: fc.nat(50), rightByItself: fc.nat(50), wrong: fc.nat(50), missed: fc.nat(50) })
  it('says of nothing that nothing is known', () => {
    expect(trackRecord([])).toEqual({ right: 0, rightByItself: 0, wrong: 0, missed: 0, precision: null, recall: null })
    expect(trackRecord([{ right: 0, rightByItself: 0, wrong: 0, missed: 2 }])).toMatchObject({
      precision: null,
      recall: 0,
    })
    expect(trackRecord([{ right: 0, rightByItself: 0, wrong: 2, missed: 0 }])).toMatchObject({
      precision: 0,
      recall: null,
    })
  })
  it('takes both kinds of right for right', () => {
    const record = trackRecord([{ right: 2, rightByItself: 4, wrong: 2, missed: 0 }, { right: 0, rightByItself: 0, wrong: 0, missed: 6 }]) // oxfmt-ignore
    expect(record).toEqual({ right: 2, rightByItself: 4, wrong: 2, missed: 6, precision: 0.75, recall: 0.5 })
  })
  it('is whole only where nothing was wrong, or missed', () => {
    fc.assert(
      fc.property(fc.array(counts, { maxLength: 6 }), (counted) => {
        const { precision, recall, right, rightByItself, wrong, missed } = trackRecord(counted)
        const good = right + rightByItself
        if (good > 0) {
          expect(precision === 1).toBe(wrong === 0)
          expect(recall === 1).toBe(missed === 0)
        }
        for (const part of [precision, recall]) if (part !== null) expect(part >= 0 && part <= 1).toBe(true)
      }),
    )
  })
  it('knows every code once', () => {
    expect(new Set(CAUSE_CODES).size).toBe(CAUSE_CODES.length)
    expect(CAUSE_CODES).toContain('other_scheme')
  })
})
