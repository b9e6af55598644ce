import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { likenessesOf, scoresOf, type NamedLaunch } from '../src/identity/index.js'

let n = 0
const launch = (name: string, more: Partial<NamedLaunch> = {}): NamedLaunch => {
  n += 1
  return {
    wireEntryId: String(n),
    assignmentId: 'a',
    courseId: 'c',
    at: new Date(n * 1000),
    name,
    email: null,
    ...more,
  }
}
const names = (launches: readonly NamedLaunch[]) => likenessesOf(launches).map((one) => one.names)

describe('whose launches seem to be in one account', () => {
  it.each<[string, [string, string | null][], number]>([
    [
      'one name',
      [
        ['Niamh O’Drevnakh', null],
        ['Niamh O’Drevnakh', null],
      ],
      1,
    ],
    [
      'a name that was married',
      [
        ['Aino Adebrandt', null],
        ['Aino Bergasund', null],
      ],
      1,
    ],
    [
      'a middle name, an initial, other capitals',
      [
        ['Maren Achterboom', null],
        ['MAREN K. ACHTERBOOM', null],
      ],
      1,
    ],
    [
      'two names',
      [
        ['Anna Kowalandt', null],
        ['Ivan Petrovann', null],
      ],
      2,
    ],
    [
      'two that share an initial only',
      [
        ['K. Adebrandt', null],
        ['K. Petrovann', null],
      ],
      2,
    ],
    [
      'two names with one address',
      [
        ['Anna Kowalandt', 'a@x.example'],
        ['Ania Rautavesi', ' A@X.example'],
      ],
      1,
    ],
    [
      'names of one script beside another, which look like two',
      [
        ['თამარ ზღვისპირელი', null],
        ['Tamar Zghvispireli', null],
      ],
      2,
    ],
    [
      'the same letters, composed otherwise',
      [
        ['Jo\u0301n Vørland', null],
        ['J\u00f3n Strandovic', null],
      ],
      1,
    ],
    [
      'what is no name at all',
      [
        ['', null],
        ['—', null],
      ],
      0,
    ],
    [
      'five people of three rosters',
      [
        ['თამარ', null],
        ['李明', null],
        ['王芳', null],
        ['Анна', null],
        ['Иван', null],
      ],
      5,
    ],
  ])('%s', (_, given, people) => {
    expect(likenessesOf(given.map(([name, email]) => launch(name, { email })))).toHaveLength(people)
  })

  it('one that has something in common with two makes them one, whichever comes first', () => {
    const three = ['Aino Adebrandt', 'Bo Castelhoff', 'Aino Castelhoff'].map((name) => launch(name))
    expect(names(three)).toEqual([['Aino Adebrandt', 'Bo Castelhoff', 'Aino Castelhoff']])
    expect(names([three[2]!, three[0]!, three[1]!])).toHaveLength(1)
  })

  it('is told by who came last, with first and last time', () => {
    const all = [launch('Anna Kowalandt'), launch('Ivan Petrovann'), launch('Anna M. Kowalandt')]
    expect(likenessesOf(all)).toMatchObject([
      { name: 'Anna M. Kowalandt', firstAt: all[0]!.at, lastAt: all[2]!.at, launches: [all[0], all[2]] },
      { name: 'Ivan Petrovann', firstAt: all[1]!.at, lastAt: all[1]!.at },
    ])
  })

  it('does not hang on the order in which launches are read, and loses none', () => {
    const word = fc.constantFrom('aino', 'bo', 'cyd', 'dagny', 'eilidh', 'farrukh', 'x')
    const some = fc.array(fc.tuple(fc.array(word, { minLength: 1, maxLength: 2 }), fc.option(fc.constantFrom('a@x', 'b@x'))), { maxLength: 12 }) // oxfmt-ignore
    fc.assert(
      fc.property(some, fc.nat(), (given, turn) => {
        const all = given.map(([words, email]) => launch(words.join(' '), { email }))
        const turned = [...all.slice(turn % (all.length + 1)), ...all.slice(0, turn % (all.length + 1))]
        const sorted = (found: ReturnType<typeof likenessesOf>) =>
          found.map((one) => one.launches.map((each) => each.wireEntryId).join())
        expect(sorted(likenessesOf(turned))).toEqual(sorted(likenessesOf(all)))
        const named = all.filter(({ name, email }) => email !== null || (name !== 'x' && name !== 'x x'))
        expect(likenessesOf(all).flatMap((one) => one.launches)).toHaveLength(named.length)
      }),
    )
  })
})

describe('whose a score seems to be', () => {
  it('is told by who opened its link last before it came', () => {
    const [anna, ivan, elsewhere, again] = [launch('Anna'), launch('Ivan'), launch('Anna', { assignmentId: 'b' }), launch('Anna')] // oxfmt-ignore
    const all = likenessesOf([anna, ivan, elsewhere, again])
    const of = (name: string) => all.find((one) => one.name === name)!
    const score = (id: string, after: NamedLaunch | null, assignmentId = 'a') => ({
      id,
      assignmentId,
      wireEntryId: after && `${Number(after.wireEntryId) + 0}5`,
    })
    // Entries between two launches: identifiers of launches are made ten times as large.
    for (const one of [anna, ivan, elsewhere, again]) one.wireEntryId += '0'
    const scores = [score('1', null), score('2', anna), score('3', ivan), score('4', elsewhere), score('5', elsewhere, 'b'), score('6', again)] // oxfmt-ignore
    for (const one of scores) if (one.wireEntryId) one.wireEntryId = one.wireEntryId.replace('05', '5')
    const early = { id: '7', assignmentId: 'a', wireEntryId: '1' }
    const strange = { id: '8', assignmentId: 'z', wireEntryId: '99999' }
    const found = scoresOf(of('Ivan'), all, [...scores, early, strange])
    expect(found.theirs.map((one) => one.id)).toEqual(['3', '4'])
    expect(found.undecided.map((one) => one.id)).toEqual(['1', '7', '8'])
    expect(scoresOf(of('Anna'), all, scores).theirs.map((one) => one.id)).toEqual(['2', '5', '6'])
  })
})
