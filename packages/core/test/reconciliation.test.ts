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
    ['unreadable', { score: '1'.repeat(41) }, {}],
    ['different', { score: '1'.repeat(40) }, {}],
    ['same', { score: ' 64.5 ' }, {}],
    ['same', { score: '.5' }, { points: '0.5' }],
    ['unreadable', { score: '1.234,5' }, {}],
    ['unreadable', { score: '5', maximum: 'five' }, {}],
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
  it.each<[Partial<ExportLine>, string | null]>([
    [{ identifier: '  Aino ' }, 'q'],
    [{ identifier: 'ain' }, null],
    [{ email: ' AINO@skerrow.EXAMPLE ' }, 'q'],
    [{ email: 'aino@skerrow' }, null],
    [{ name: '  adebrandt   aino ' }, 'q'],
    [{ name: 'Aino Adebrandtsen' }, null],
    [{ identifier: 'nobody', email: 'aino@skerrow.example' }, 'q'],
  ])('%j', (given, id) => expect(who(given)[0]).toBe(id))
  it('is told by nothing that two people have', () => {
    const two = (change: Partial<Known>, given: Partial<ExportLine>) =>
      reconcile(
        [line({ identifier: '', ...given })],
        [...people, person({ id: 'r', identifiers: ['r'], email: null, name: 'R', ...change })],
        options,
      )[0]!.personId
    // One's user name is another one's number in the records: neither may get the other's score.
    expect(two({ identifiers: ['Aino'] }, { identifier: 'aino' })).toBeNull()
    expect(two({ email: 'AINO@skerrow.example' }, { email: 'aino@skerrow.example' })).toBeNull()
    // What is left over may still tell: the email is her own.
    expect(two({ identifiers: ['Aino'] }, { identifier: 'aino', email: 'aino@skerrow.example' })).toBe('q')
    // The same person may be called the same twice.
    expect(reconcile([line({})], [person({ identifiers: ['tamar', 'TAMAR'] })], options)[0]!.personId).toBe('p')
  })
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
    // Who has no points here is missed by nobody.
    expect(reconcile([], [person({ points: null })], options)).toEqual([])
  })
  it('has a percent of the column, where the file says no maximum', () => {
    const found = (score: string, more = {}) => one({ score }, { points: '32' }, { points: '50', ...more })
    expect(found('64%')).toMatchObject({ class: 'scale', theirPoints: '32' })
    expect(found('64 %', { maximum: '200' })).toMatchObject({ class: 'scale', theirPoints: '32' })
    expect(found('64')).toMatchObject({ class: 'different', theirPoints: '64' })
    expect(found('128', { maximum: '200' })).toMatchObject({ class: 'scale', theirPoints: '32' })
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
    // In the very moment of the last score the refusal kept nothing away.
    ['not_sent_again', { refused: { at: day(3), code: 'score.not_a_learner', sent: '0.7' } }, {}],
    // Decimals that an export does not keep are no other score; more than that is.
    ['file_older', {}, { theirPoints: '64.505' }],
    ['not_sent_again', {}, { theirPoints: '64.506' }],
    ['not_final', { waiting: true }, {}],
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
    [['Nr', 'E-mail', 'user_name'], { identifier: 'user_name', email: 'E-mail', score: 'Nr' }],
    [['Score', 'Who', 'Points'], { score: 'Score', email: 'Who' }],
    [['SIS ID', 'x', 'Out of'], { identifier: 'SIS ID', email: 'x', maximum: 'Out of' }],
  ])('%j', (heads, reading) => expect(guessColumns(heads, [['1', 'aino@skerrow.example', '7']])).toEqual(reading))
})
