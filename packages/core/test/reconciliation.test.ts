import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  EXPORT_FIELDS,
  guessColumns,
  LIKELY_REASONS,
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
    // Alike as it is shown, although neither is a cut of the other.
    ['rounding', { score: '64.501' }, { points: '64.5' }],
    ['different', { score: '64.4' }, { points: '64.5' }],
    ['same', { score: '.25' }, { points: '0.25' }],
    ['same', { score: '100,25' }, { points: '100.25' }],
    ['unreadable', { score: '1,5,5' }, {}],
    ['unreadable', { score: 'x1,5' }, {}],
    ['unreadable', { score: '1,5x' }, {}],
    ['unreadable', { score: '1..5' }, {}],
    ['unreadable', { score: 'x.5' }, {}],
    ['unreadable', { score: '.5x' }, {}],
    ['unreadable', { score: '5.' }, {}],
    ['unreadable', { score: '   ' }, {}],
    ['same', { score: '64.5', maximum: '  ' }, {}],
    ['scale', { score: '.645', maximum: ' 1 ' }, {}],
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

  it('is a matter of decimals where the file kept fewer than are shown here', () => {
    const shown = { decimals: 3 }
    expect(one({ score: '33.33' }, { points: '33.3349' }, shown).class).toBe('rounding')
    expect(one({ score: '33.34' }, { points: '33.3349' }, shown).class).toBe('different')
    expect(one({ score: '33' }, { points: '33.3349' }, shown).class).toBe('rounding')
    expect(one({ score: '0.3333', maximum: '1' }, { points: '33.3349' }, shown).class).toBe('rounding')
  })

  it('in a column that is worth nothing is the same, or another', () => {
    const worthless = { points: '0', maximum: '10' }
    expect(one({ score: '5' }, { points: '0' }, worthless)).toMatchObject({ class: 'scale', theirPoints: '0' })
    expect(one({ score: '5' }, { points: '2' }, worthless)).toMatchObject({ class: 'different', theirPoints: '0' })
  })

  it('is told as it stands in the file, and who it is by the first word that says so', () => {
    const called = (given: Partial<ExportLine>) => one({ identifier: '', ...given }).called
    expect(called({ identifier: 'nobody', email: 'a@b.example', name: 'A B' })).toBe('nobody')
    expect(called({ email: 'a@b.example', name: 'A B' })).toBe('a@b.example')
    expect(called({ name: 'A B' })).toBe('A B')
    expect(one({ score: '64,50' })).toMatchObject({ theirs: '64,50', theirPoints: '64.5', doubtful: false })
    expect(one({ score: '' })).toMatchObject({ theirs: null, theirPoints: null })
    expect(one({ identifier: 'nobody', score: '7' })).toEqual({
      line: 2,
      personId: null,
      called: 'nobody',
      matchedBy: null,
      doubtful: false,
      class: 'unknown_person',
      ours: null,
      theirs: '7',
      theirPoints: null,
    })
    expect(reconcile([], [person()], options)).toEqual([
      {
        line: null,
        personId: 'p',
        called: 'Tamar Zghvispireli',
        matchedBy: null,
        doubtful: false,
        class: 'missing_there',
        ours: '64.5',
        theirs: null,
        theirPoints: null,
      },
    ])
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
    [{ name: 'AINO ADEBRANDT' }, 'q'],
    [{ name: 'A\u0308\u0301ino, Adebrandt' }, 'q'],
    [{ name: '— Adebrandt, Aino (3)' }, null],
    [{ name: '“Adebrandt”, Aino' }, 'q'],
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
  it.each(['same', 'rounding', 'scale'] as const)('is not asked for where both agree: %s', (agreeing) => {
    expect(reasonFor(found({ class: agreeing }), facts({ exempt: true }))).toBeNull()
  })
  it('is not known of somebody whom nothing is known of', () => {
    expect(reasonFor(found(), undefined)).toBeNull()
    expect(reasonFor(found({ class: 'same' }), undefined)).toBeNull()
  })
  it('why the file leaves somebody out, the trail cannot tell, but the instructor’s word can', () => {
    const left = found({ class: 'missing_there', theirs: null, theirPoints: null })
    expect(reasonFor(left, facts({}))).toBeNull()
    expect(reasonFor(left, facts({ dropped: true, received: [] }))).toBeNull()
    expect(reasonFor(left, facts({ exempt: true }))?.reason).toBe('exempt')
    expect(reasonFor(left, facts({ overridden: true }))?.reason).toBe('overridden')
  })
  it('dates from the message that it rests on', () => {
    const told = (change: Partial<TrailFacts>, line: Partial<Reconciled> = {}) => reasonFor(found(line), facts(change))
    const received = [
      { at: day(2), points: null },
      { at: day(3), points: '70' },
      { at: day(4), points: '70.005' },
      { at: day(5), points: '64.5' },
    ]
    expect(told({ received })).toEqual({ reason: 'file_older', at: day(5), code: null })
    expect(told({ received, derived: '70' })).toEqual({ reason: 'another_counts', at: day(4), code: null })
    expect(told({ received, derived: null })).toMatchObject({ reason: 'file_older' })
    expect(told({ waiting: true })).toEqual({ reason: 'not_final', at: day(3), code: null })
    expect(told({})).toEqual({ reason: 'not_sent_again', at: day(3), code: null })
    expect(told({ received: [{ at: day(3), points: null }] })).toMatchObject({ at: day(3) })
    const refused = { at: day(4), code: 'score.not_a_learner', sent: '0.7' }
    expect(told({ refused })).toEqual({ reason: 'refused', at: day(4), code: 'score.not_a_learner' })
    expect(told({ received: [], refused })).toMatchObject({ reason: 'refused' })
  })
  it('is only likely where it is what is left', () => {
    expect([...LIKELY_REASONS].sort()).toEqual(['file_older', 'never_sent', 'not_final', 'not_sent_again'])
  })
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

  const SPELLINGS: Record<(typeof EXPORT_FIELDS)[number], readonly string[]> = {
    identifier: ['user id', 'UserID', 'username', 'User_Name', 'login', 'Identifier', 'ID', 'SIS.ID', 'sisid', 'sourced id', 'SourcedId', 'student id', 'StudentID', 'student no', 'Student Number', 'matriculation', 'Kennung', 'identifiant'],
    email: ['email', 'E-mail', 'e-mail address', 'email address', 'mail', 'Courriel'],
    name: ['name', 'Full name', 'fullname', 'student', 'Learner', 'participant', 'Navn', 'Nom'],
    given: ['first', 'First name', 'firstname', 'given name', 'GivenName', 'forename', 'fornavn', 'Vorname', 'prénom'],
    family: ['last', 'last name', 'LastName', 'family name', 'familyname', 'surname', 'etternavn', 'Nachname'],
    score: ['score', 'Points', 'result', 'grade', 'mark', 'earned', 'points earned', 'final_score', 'percent', 'percentage', 'poeng', 'Punkte', 'Score (40)', 'Score [best]', '  score  ', 'final__score'],
    maximum: ['max', 'maximum', 'max score', 'MaxScore', 'max points', 'maxpoints', 'out of', 'outof', 'possible', 'points possible', 'total possible', 'of'],
  } // oxfmt-ignore
  const spelled = EXPORT_FIELDS.flatMap((field) => SPELLINGS[field].map((head) => [field, head] as const))
  it.each(spelled)('%s is what “%s” says, and nothing longer does', (field, head) => {
    expect(guessColumns([head], [])).toEqual({ [field]: head })
    expect(guessColumns([`my ${head}`, `x${head.trim()}`], [])).toEqual({})
    expect(guessColumns([`${head.replace(/[([].*/, '').trim()}x`], [])).toEqual({})
  })

  it('are guessed by what stands in them where their heads say nothing', () => {
    const of = (...cells: string[]) =>
      guessColumns(
        ['x'],
        cells.map((cell) => [cell]),
      )
    expect(of('a@b.example', '', 'c@d.example')).toEqual({ email: 'x' })
    for (const cells of [['a@b', 'none'], ['none', 'a@b'], ['a b@c'], ['a@b c'], ['a@b@c'], ['a@'], ['@b'], [], ['']])
      expect(of(...cells), cells.join()).toEqual({})
    for (const cells of [['7', '', '12'], ['-3'], ['64.50'], ['64,5'], ['64%'], ['64.25 %'.replace(' ', '')]])
      expect(of(...cells), cells.join()).toEqual({ score: 'x' })
    for (const cells of [['7', 'A+'], ['A+', '7'], ['x7'], ['7x'], ['7.'], ['7.x'], ['7;5'], ['7%%'], ['--7']])
      expect(of(...cells), cells.join()).toEqual({})
    // Rows that are too short say nothing; the first fifty are looked at.
    expect(guessColumns(['x', 'y'], [['a'], ['b', '7']])).toEqual({ score: 'y' })
    expect(of(...Array.from({ length: 50 }, () => '7'), 'A+')).toEqual({ score: 'x' })
    expect(of(...Array.from({ length: 49 }, () => '7'), 'A+')).toEqual({})
  })

  it('are each used once, and of two that say the same the first', () => {
    expect(guessColumns(['Name', 'Student', 'Score', 'Grade'], [['a', 'b', '1', '2']])).toEqual({ name: 'Name', score: 'Score' }) // oxfmt-ignore
    expect(guessColumns(['Email', 'x'], [['a@b.example', 'c@d.example']])).toEqual({ email: 'Email' })
    expect(guessColumns(['ID', 'Max', 'x', 'y'], [['1', '2', '3', '4']])).toEqual({ identifier: 'ID', maximum: 'Max', score: 'y' }) // oxfmt-ignore
  })
})
