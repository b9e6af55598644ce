import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  guessColumns,
  reasonFor,
  reconcile,
  type ExportLine,
  type Known,
  type Reconciled,
  type TrailFacts,
} from '@bathyscribe/core/reconciliation'

const line = (change: Partial<ExportLine>): ExportLine => ({
  line: 2,
  identifier: 'tamar',
  email: '',
  name: '',
  score: '64.5',
  maximum: '',
  ...change,
})
const person = (change: Partial<Known> = {}): Known => ({
  id: 'p',
  identifiers: ['tamar'],
  email: 'tamar@skerrow.example',
  name: 'Tamar Zghvispireli',
  points: '64.5',
  ...change,
})
const options = { points: '100', maximum: null, decimals: 0 }
const one = (given: Partial<ExportLine>, known: Partial<Known> = {}, more = {}) =>
  reconcile([line(given)], [person(known)], { ...options, ...more })[0]!

describe('a line against a result', () => {
  it.each([
    ['same', { score: '64.50' }, {}],
    ['same', { score: '64,5' }, {}],
    ['same', { score: '' }, { points: null }],
    ['rounding', { score: '65' }, {}],
    ['rounding', { score: '64' }, {}],
    ['rounding', { score: '33.33' }, { points: '33.335' }],
    ['scale', { score: '0.645', maximum: '1' }, {}],
    ['scale', { score: '64.5%', maximum: '' }, { points: '64.5' }],
    ['different', { score: '70' }, {}],
    ['missing_here', { score: '70' }, { points: null }],
    ['missing_there', { score: '' }, {}],
    ['unreadable', { score: 'A+' }, {}],
    ['unreadable', { score: '5', maximum: '0' }, {}],
    ['unreadable', { score: '-5' }, {}],
    ['unknown_person', { identifier: 'nobody' }, {}],
  ] as const)('%s: %j', (expected, given, known) => {
    const found = one(given, known).class
    // A percent of a column of a hundred points is the same scale.
    expect(expected === 'scale' && found === 'same' ? 'scale' : found).toBe(expected)
  })

  it('is the same whatever maximum both sides use, and never anything for another share', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 400 }),
        fc.integer({ min: 1, max: 400 }),
        fc.integer({ min: 1, max: 90 }),
        (given, maximum, factor) => {
          const found = one(
            { score: String(given * factor), maximum: String(maximum * factor) },
            { points: String(given) },
            { points: String(maximum) },
          )
          expect(['same', 'scale']).toContain(found.class)
          const other = one(
            { score: String(given + 2), maximum: String(maximum) },
            { points: String(given) },
            { points: String(maximum) },
          )
          expect(other.class).toBe('different')
        },
      ),
    )
  })

  it('never throws, whatever stands in the file', () => {
    fc.assert(
      fc.property(
        fc.string(),
        fc.string(),
        fc.string(),
        (score, maximum, name) => void one({ score, maximum, name, identifier: '' }),
      ),
    )
  })
})

describe('who a line means', () => {
  const people = [
    person(),
    person({ id: 'q', identifiers: ['aino'], email: 'aino@skerrow.example', name: 'Aino Adebrandt' }),
  ]
  const who = (change: Partial<ExportLine>) => {
    const { personId, matchedBy, doubtful } = reconcile([line({ identifier: '', ...change })], people, options)[0]!
    return [personId, matchedBy, doubtful]
  }
  it('is told by identifier, then email, then name, which is doubtful', () => {
    expect(who({ identifier: 'AINO', email: 'tamar@skerrow.example' })).toEqual(['q', 'identifier', false])
    expect(who({ email: 'Aino@Skerrow.example' })).toEqual(['q', 'email', false])
    expect(who({ name: 'Adebrandt, Aïno' })).toEqual(['q', 'name', true])
    expect(
      reconcile(
        [line({ identifier: '', name: 'Aino Adebrandt' })],
        [...people, person({ id: 'r', identifiers: [], name: 'Aino Adebrandt', email: null })],
        options,
      )[0]!.class,
    ).toBe('unknown_person')
  })
  it('and each person is met once, those that the file leaves out at the end', () => {
    const found = reconcile([line({}), line({ line: 3 })], people, options)
    expect(found.map((each) => [each.line, each.personId, each.class])).toEqual([
      [2, 'p', 'same'],
      [3, 'p', 'unreadable'],
      [null, 'q', 'missing_there'],
    ])
  })
})

describe('the reason', () => {
  const day = (n: number) => new Date(Date.UTC(2026, 10, n))
  const facts = (change: Partial<TrailFacts>): TrailFacts => ({
    openedAt: day(1),
    overridden: false,
    exempt: false,
    dropped: false,
    received: [{ at: day(3), points: '64.5' }],
    derived: '64.5',
    waiting: false,
    refused: null,
    ...change,
  })
  const found = (change: Partial<Reconciled> = {}): Reconciled => ({
    line: 2,
    personId: 'p',
    called: 'tamar',
    matchedBy: 'identifier',
    doubtful: false,
    class: 'different',
    ours: '64.5',
    theirs: '70',
    theirPoints: '70',
    ...change,
  })
  it.each([
    ['exempt', { exempt: true }, {}],
    ['overridden', { overridden: true }, {}],
    ['refused', { refused: { at: day(4), code: 'score.not_a_learner', sent: '0.7' } }, {}],
    ['not_sent_again', { refused: { at: day(2), code: 'score.not_a_learner', sent: '0.7' } }, {}],
    ['dropped', { dropped: true }, {}],
    ['never_launched', { received: [], openedAt: null }, {}],
    ['never_sent', { received: [] }, {}],
    ['not_final', { received: [], waiting: true }, {}],
    ['cleared', { received: [{ at: day(3), points: null }] }, {}],
    [
      'file_older',
      {
        received: [
          { at: day(2), points: '70' },
          { at: day(3), points: '64.5' },
        ],
      },
      {},
    ],
    [
      'another_counts',
      {
        received: [
          { at: day(2), points: '64.5' },
          { at: day(3), points: '70' },
        ],
      },
      {},
    ],
    ['unexplained', {}, { theirPoints: null }],
  ] as const)('%s', (reason, known, line) => expect(reasonFor(found(line), facts(known))?.reason).toBe(reason))
  it('is not asked for where both agree', () => expect(reasonFor(found({ class: 'rounding' }), facts({}))).toBeNull())
})

describe('columns', () => {
  it.each([
    [
      ['Last name', 'First name', 'Username', 'Score', 'Max score'],
      { family: 'Last name', given: 'First name', identifier: 'Username', score: 'Score', maximum: 'Max score' },
    ],
    [['Student', 'Email address', 'Points (40)'], { name: 'Student', email: 'Email address', score: 'Points (40)' }],
    [['#', 'Who', 'Woche 1'], { email: 'Who', score: 'Woche 1' }],
  ])('%j', (heads, reading) => expect(guessColumns(heads, [['1', 'aino@skerrow.example', '7']])).toEqual(reading))
})
