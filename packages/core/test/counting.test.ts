import fc from 'fast-check'
import Big from 'big.js'
import { describe, expect, it } from 'vitest'
import {
  COUNTING,
  derive,
  fractionOf,
  pointsOf,
  sameNumber,
  stateOf,
  totalOf,
  twinReasons,
  type TrailStep,
  type TwinFacts,
  type WorkFacts,
} from '@bathyscribe/core/scores'

let id = 0
const scored = (fraction: string): TrailStep => ({
  id: String(++id),
  operation: 'replace',
  fraction,
  sent: fraction,
  sentOutOf: '1',
})
const cleared = (): TrailStep => ({
  id: String(++id),
  operation: 'delete',
  fraction: null,
  sent: null,
  sentOutOf: null,
})
const progress = (): TrailStep => ({
  id: String(++id),
  operation: 'progress',
  fraction: null,
  sent: null,
  sentOutOf: null,
})

describe('which score counts', () => {
  const trail = [scored('0.4'), scored('0.9'), progress(), scored('0.5')]
  it.each([
    ['latest', '0.5', trail[3]!.id],
    ['best', '0.9', trail[1]!.id],
    ['first', '0.4', trail[0]!.id],
    ['mean', '0.6', trail[3]!.id],
  ] as const)('%s', (counting, fraction, scoreId) => {
    expect(derive(trail, counting)).toMatchObject({ fraction, scoreId, attempts: 3, counted: 3 })
  })

  it('starts anew after a score was taken back, but remembers how many came', () => {
    for (const counting of COUNTING) {
      expect(derive([scored('0.9'), cleared()], counting)).toMatchObject({ fraction: null, counted: 0, attempts: 1 })
      expect(derive([scored('0.9'), cleared(), scored('0.2')], counting)).toMatchObject({
        fraction: '0.2',
        attempts: 2,
      })
    }
  })

  it('of equal best scores the earlier one stands', () => {
    const [a, b] = [scored('0.5'), scored('0.50')]
    expect(derive([a, b], 'best').scoreId).toBe(a.id)
  })

  it('passes over a score that says no number', () => {
    const none: TrailStep = { ...scored('0.9'), fraction: null }
    for (const counting of COUNTING)
      expect(derive([scored('0.5'), none], counting)).toMatchObject({ fraction: '0.5', attempts: 1, sum: '0.5' })
  })

  it('is nothing of what was taken back, even where that says a number', () => {
    const [first, back]: TrailStep[] = [scored('0.5'), { ...cleared(), fraction: '0.7', sent: '0.7' }]
    expect(derive([first!, back!], 'latest')).toEqual({ fraction: null, sent: null, sentOutOf: null, scoreId: back!.id, attempts: 1, counted: 0, sum: '0' }) // oxfmt-ignore
    expect(derive([first!, { ...progress(), fraction: '0.7' }], 'latest')).toMatchObject({ fraction: '0.5', attempts: 1 }) // oxfmt-ignore
  })

  it('always lies between the lowest and the highest, and words on progress never move it', () => {
    const steps = fc.array(
      fc.integer({ min: 0, max: 1000 }).map((n) => (n / 1000).toFixed(3)),
      { minLength: 1, maxLength: 12 },
    )
    fc.assert(
      fc.property(steps, fc.constantFrom(...COUNTING), (fractions, counting) => {
        const plain = fractions.map(scored)
        const noisy = plain.flatMap((one) => [progress(), one, progress()])
        const result = Number(derive(plain, counting).fraction)
        expect(result).toBeGreaterThanOrEqual(Math.min(...fractions.map(Number)))
        expect(result).toBeLessThanOrEqual(Math.max(...fractions.map(Number)))
        expect(derive(noisy, counting).fraction).toBe(derive(plain, counting).fraction)
      }),
    )
  })
})

describe('points', () => {
  it('of a maximum that does not divide come back whole', () => {
    expect(pointsOf(fractionOf('20', '30'), '30')).toBe('20')
    expect(pointsOf(fractionOf('1', '3'), '12')).toBe('4')
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 4000 }), fc.integer({ min: 1, max: 997 }), (given, maximum) => {
        expect(pointsOf(fractionOf(String(given), String(maximum)), String(maximum))).toBe(String(given))
      }),
    )
  })

  it('of a plain fraction stay exact to the last decimal', () => {
    expect(pointsOf('0.1234567890123456789', '100')).toBe('12.34567890123456789')
    expect(pointsOf('0.645', '100')).toBe('64.5')
  })
})

describe('totals', () => {
  const columns = [
    { id: 'a', points: '10', counted: true, category: 'drills' },
    { id: 'b', points: '30', counted: true, category: 'drills' },
    { id: 'c', points: '50', counted: true, category: 'reports' },
    { id: 'd', points: '99', counted: false, category: 'drills' },
  ]
  const of = (points: Record<string, string>, weights: [string, string][] = [], missingCounts = false) =>
    totalOf(columns, (column) => (points[column] === 'exempt' ? undefined : (points[column] ?? null)), {
      weights: new Map(weights),
      missingCounts,
    })

  it('leave out what has no score, unless missing counts', () => {
    expect(of({ a: '5' })).toEqual({ earned: '5', outOf: '10' })
    expect(of({ a: '5' }, [], true)).toEqual({ earned: '5', outOf: '90' })
    expect(of({})).toMatchObject({ earned: null })
    expect(of({ a: '5', d: '99' })).toEqual({ earned: '5', outOf: '10' })
    expect(of({ a: '5', b: '0.5', c: '1.25' })).toEqual({ earned: '6.75', outOf: '90' })
    // Some work counts as soon as one column has a score, wherever it stands.
    expect(of({ a: '5' }, [], true).earned).toBe('5')
    expect(of({ c: '5' }, [], true).earned).toBe('5')
    expect(of({}, [], true)).toEqual({ earned: null, outOf: '90' })
    expect(of({}, [['drills', '50'], ['reports', '50']], true)).toEqual({ earned: null, outOf: '90' }) // oxfmt-ignore
    expect(of({})).toEqual({ earned: null, outOf: '0' })
  })
  it('never hold it against anybody to be exempt', () => {
    expect(of({ a: '5', b: 'exempt' }, [], true)).toEqual({ earned: '5', outOf: '60' })
  })
  it('weigh categories, and scale up as long as one has nothing to count', () => {
    const weights: [string, string][] = [
      ['drills', '40'],
      ['reports', '60'],
    ]
    expect(of({ a: '10', b: '30', c: '25' }, weights)).toEqual({ earned: '70', outOf: '100' })
    expect(of({ a: '5' }, weights)).toEqual({ earned: '50', outOf: '100' })
    expect(of({ a: '5' }, weights, true).earned).toBe('5')
  })
  it('leave out a counted column whose category weighs nothing, or that has none', () => {
    expect(of({ a: '5', c: '50' }, [['drills', '100']])).toEqual({ earned: '50', outOf: '100' })
    const loose = [...columns, { id: 'e', points: '10', counted: true, category: null }]
    const total = totalOf(loose, (column) => (column === 'e' ? '10' : column === 'a' ? '5' : null), {
      weights: new Map([['drills', '100']]),
      missingCounts: false,
    })
    expect(total).toEqual({ earned: '50', outOf: '100' })
  })
  it('pass over a category that is worth no points, and say nothing where nothing weighs', () => {
    const bonus = { id: 'z', points: '0', counted: true, category: 'bonus' }
    const weights = new Map([
      ['drills', '50'],
      ['bonus', '50'],
    ])
    const points = (column: string) => ({ a: '5', z: '3' })[column] ?? null
    expect(totalOf([columns[0]!, bonus], points, { weights, missingCounts: false })).toEqual({
      earned: '50',
      outOf: '100',
    })
    expect(totalOf([bonus], points, { weights, missingCounts: false })).toEqual({ earned: null, outOf: '100' })
    expect(of({ a: '5', c: '9' }, [['drills', '0'], ['reports', '0']])).toEqual({ earned: null, outOf: '100' }) // oxfmt-ignore
  })
  it('are never more than everything, as long as nothing is above its points', () => {
    const points = fc.record({
      a: fc.integer({ min: 0, max: 10 }),
      b: fc.integer({ min: 0, max: 30 }),
      c: fc.integer({ min: 0, max: 50 }),
    })
    fc.assert(
      fc.property(points, fc.boolean(), fc.boolean(), ({ a, b, c }, weighed, missing) => {
        const total = of(
          { a: String(a), b: String(b), c: String(c) },
          weighed
            ? [
                ['drills', '25'],
                ['reports', '75'],
              ]
            : [],
          missing,
        )
        expect(new Big(total.earned!).lte(total.outOf)).toBe(true)
      }),
    )
  })
})

describe('the state of work', () => {
  const at = (minute: number) => new Date(Date.UTC(2026, 10, 2, 10, minute))
  const facts = (change: Partial<WorkFacts>): WorkFacts => ({
    openedAt: null, hasResult: false, points: null, overridden: false, exempt: false, activity: null, grading: null, heardAt: null, resultAt: null,
    comment: null, refusedAt: null, ...change,
  }) // oxfmt-ignore
  const graded = {
    hasResult: true,
    points: '5',
    resultAt: at(5),
    heardAt: at(5),
    activity: 'Completed',
    grading: 'FullyGraded',
  }
  it.each([
    ['never_opened', {}],
    ['opened', { openedAt: at(1) }],
    ['started', { openedAt: at(1), activity: 'InProgress', grading: 'NotReady', heardAt: at(2) }],
    ['submitted', { activity: 'Submitted', grading: 'NotReady', heardAt: at(2) }],
    ['waiting', { activity: 'Submitted', grading: 'PendingManual', heardAt: at(2) }],
    ['failed', { activity: 'Submitted', grading: 'Failed', heardAt: at(2) }],
    ['graded', graded],
    ['commented', { ...graded, comment: 'Well seen' }],
    ['waiting', { ...graded, activity: 'Submitted', grading: 'PendingManual', heardAt: at(6) }],
    ['graded', { ...graded, activity: 'Started', grading: 'NotReady', heardAt: at(6) }],
    ['cleared', { ...graded, points: null }],
    ['refused', { ...graded, refusedAt: at(9) }],
    ['graded', { ...graded, refusedAt: at(1) }],
    ['graded', { ...graded, overridden: true, refusedAt: at(9) }],
    ['exempt', { ...graded, exempt: true }],
    // The tool said that somebody began, which is not yet work.
    ['opened', { activity: 'Initialized', grading: 'NotReady', heardAt: at(2) }],
    // An instructor's points need no score of a tool.
    ['graded', { overridden: true, points: '7', resultAt: at(3) }],
    ['commented', { overridden: true, points: '7', comment: 'By hand', resultAt: at(3) }],
    ['graded', { overridden: true, points: null, resultAt: at(3) }],
    ['graded', { ...graded, overridden: true, grading: 'PendingManual', heardAt: at(9) }],
    // A refusal counts against whichever came last, the tool's words or the result.
    ['graded', { ...graded, heardAt: at(2), resultAt: at(5), refusedAt: at(3) }],
    ['waiting', { ...graded, grading: 'PendingManual', heardAt: at(8), resultAt: at(5), refusedAt: at(6) }],
    ['refused', { ...graded, heardAt: at(2), resultAt: at(5), refusedAt: at(6) }],
    ['graded', { ...graded, refusedAt: at(5) }],
    ['refused', { refusedAt: at(1) }],
    // Of a tool's words and a result the later one is what a refusal is held against.
    ['graded', { hasResult: true, points: '5', resultAt: at(5), refusedAt: at(3) }],
    ['started', { activity: 'InProgress', heardAt: at(5), refusedAt: at(3) }],
    ['refused', { activity: 'InProgress', heardAt: at(5), refusedAt: at(6) }],
    ['submitted', { activity: 'Completed', grading: 'NotReady', heardAt: at(2) }],
    ['opened', { openedAt: at(1), activity: null, heardAt: at(2) }],
    ['never_opened', { activity: null, heardAt: at(2) }],
    ['submitted', { ...graded, activity: 'Submitted', grading: 'NotReady', heardAt: at(6) }],
    ['opened', { hasResult: true, points: '5', activity: 'Initialized', resultAt: at(5), heardAt: at(6) }],
  ] as const)('%s', (state, change) => expect(stateOf(facts(change)).state).toBe(state))
  it('dates from what it rests on', () => {
    expect(stateOf(facts({ ...graded, refusedAt: at(9) })).at).toEqual(at(9))
    expect(stateOf(facts({ ...graded, grading: 'PendingManual', heardAt: at(6) })).at).toEqual(at(6))
    expect(stateOf(facts({ ...graded, exempt: true, resultAt: null })).at).toEqual(at(5))
    expect(stateOf(facts({ openedAt: at(1) })).at).toEqual(at(1))
    expect(stateOf(facts({})).at).toBeNull()
    expect(stateOf(facts({ ...graded, exempt: true, resultAt: at(7) })).at).toEqual(at(7))
    expect(stateOf(facts({ ...graded, points: null, resultAt: at(7) })).at).toEqual(at(7))
    expect(stateOf(facts({ overridden: true, points: '7', resultAt: at(3) })).at).toEqual(at(3))
  })
})

describe('columns for the same work', () => {
  const made: TwinFacts = {
    id: 'm',
    title: 'Fog  log!',
    points: '20.0',
    registrationId: 'r',
    resourceId: null,
    linkId: null,
    scored: ['1', '2', '3', '4'],
  }
  const ours: TwinFacts = {
    ...made,
    id: 'o',
    title: 'fog log',
    points: '20',
    linkId: 'l',
    scored: ['1', '2', '3', '9'],
  }
  it.each([
    ['title and points', {}, ['same_title_and_points']],
    ['the link', { title: 'Other', linkId: 'l' }, ['same_link']],
    ['the people besides', { scored: ['1', '2', '3'] }, ['same_title_and_points', 'same_people']],
    ['nothing but the people', { title: 'Other', scored: ours.scored }, []],
    ['another tool', { registrationId: 'x' }, []],
    ['other points', { points: '19' }, []],
    ['other resources', { title: 'Other', resourceId: 'q' }, []],
    ['a title of other letters', { title: 'Fog lot' }, []],
    ['a title that is wider written', { title: 'ＦＯＧ—log' }, ['same_title_and_points']],
  ] as const)('%s', (_, change, reasons) => expect(twinReasons({ ...made, ...change }, ours)).toEqual(reasons))
  it('are the same resource only when both are named so', () => {
    expect(twinReasons({ ...made, title: 'x', resourceId: 'q' }, { ...ours, resourceId: 'q' })).toEqual([
      'same_resource',
    ])
  })
  it('are not the same link or resource because neither has any', () => {
    expect(twinReasons({ ...made, title: 'x' }, { ...ours, linkId: null })).toEqual([])
    expect(twinReasons({ ...made, title: 'x', linkId: 'l' }, { ...ours, linkId: null })).toEqual([])
  })
  it('have the same people from three of them and four in five on', () => {
    const people = (n: number) => Array.from({ length: n }, (_, i) => String(i))
    const reasons = (a: string[], b: string[]) => twinReasons({ ...made, scored: a }, { ...ours, scored: b }).length
    expect(reasons(people(2), people(2))).toBe(1)
    expect(reasons(people(3), people(9))).toBe(2)
    expect(reasons([...people(4), 'x'], people(9))).toBe(2)
    expect(reasons([...people(3), 'x', 'y'], people(9))).toBe(1)
    expect(reasons(people(9), [...people(4), 'x'])).toBe(2)
    expect(reasons(people(9), [...people(3), 'x', 'y'])).toBe(1)
    // Of the smaller column, whichever that is.
    expect(reasons(people(5), people(20))).toBe(2)
    expect(reasons(people(20), people(5))).toBe(2)
  })
})

it('numbers are the same however they are written', () => expect(sameNumber('1.50', '1.5')).toBe(true))
