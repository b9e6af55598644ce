import { isFormula, readAssignmentTable, readTable, TABLE_MAX_ROWS, writeTable } from '@bathyscribe/core/formats'
import { isTimeZone, nextOccurrence, readMomentCell, wallTime } from '@bathyscribe/core/dates'
import { divideAtRandom } from '@bathyscribe/core/groups'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'

const rows = (text: string) => {
  const read = readAssignmentTable(text, 'Europe/Oslo')
  if ('code' in read) throw new Error(`${read.code} ${read.detail}`)
  return read.rows
}

describe('a table', () => {
  it.each([
    ['commas', 'title,points\nBends,10'],
    ['semicolons', 'title;points\nBends;10'],
    ['tabs, as pasted from a spreadsheet', 'title\tpoints\nBends\t10'],
    ['a byte order mark', '\ufefftitle,points\r\nBends,10\r\n'],
    ['a separator line', 'sep=;\ntitle;points\nBends;10'],
    ['empty lines and blanks around cells', '\n\ntitle , points\n\n  Bends ,10\n,,\n'],
    ['quotes, a comma and a line end inside', '"title","points"\n"Bends","10"'],
    ['heads in other words and capitals', 'Name,MAX\nBends,10'],
  ])('is read with %s', (_, text) => {
    expect(rows(text)).toEqual([expect.objectContaining({ title: 'Bends', points: '10', key: 'bends', problems: [] })])
  })
  it.each([
    ['table.empty', ' \n\n'],
    ['table.quotes', 'title,points\n"Bends,10'],
    ['table.no_head', 'a,b\n1,2'],
    ['table.column_twice', 'title,name\nBends,Bends'],
    ['table.too_many_rows', `title\n${'x\n'.repeat(TABLE_MAX_ROWS + 1)}`],
  ])('is refused as %s', (code, text) => {
    expect(readAssignmentTable(text, 'UTC')).toMatchObject({ code })
  })
  it('keeps what it does not know apart, and says so', () => {
    expect(readAssignmentTable('title,colour\nBends,red', 'UTC')).toMatchObject({ unknown: ['colour'] })
  })
  it('never breaks the reader, whatever is pasted', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (text) => void readAssignmentTable(`title,due\n${text}`, 'UTC')),
      { numRuns: 500 },
    )
  })
  it('is read back as it was written, formulas made harmless', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.string({ minLength: 1 }), fc.string())), (data) => {
        const clean = data.map(([a, b]) => [
          `x${a.replace(/[\s\u0000\ufeff]/g, '')}`,
          b.replace(/[\s\u0000\ufeff]/g, ''),
        ])
        const read = readTable(writeTable(['title', 'text'], clean), (head) => head)
        if ('code' in read) throw new Error(read.code)
        expect(read.rows.map(({ cells }) => [cells['title'], cells['text']])).toEqual(
          clean.map(([a, b]) => [a, isFormula(b!) ? `'${b}` : b]),
        )
      }),
    )
    expect(writeTable(['t'], [['=cmd|x'], ['@SUM(1)'], ['-1'], ['-x'], ['plain']])).toBe(
      "t\r\n'=cmd|x\r\n'@SUM(1)\r\n-1\r\n'-x\r\nplain\r\n",
    )
  })
})

describe('a row of the assignment table', () => {
  it('reads numbers, truth, dates in the course’s time, groups and custom parameters', () => {
    const [row] = rows(
      'key,title,tool,points,due,opens,attempts,opens in,groups,publish,counted,custom.drill,Custom: part\nw1,Bends,knotwork-drills,"12,5",2026-12-01,1.12.2026 08:30,3,window,A | B,yes,no,bends,all',
    )
    expect(row).toMatchObject({
      key: 'w1', points: '12.5', dueAt: '2026-12-01T22:59:00.000Z', opensAt: '2026-12-01T07:30:00.000Z', attempts: 3, documentTarget: 'window', groups: ['A', 'B'],
      publish: true, counted: false, customParameters: { drill: 'bends', part: 'all' }, problems: [],
    }) // oxfmt-ignore
  })
  it.each([
    ['points', 'ten'],
    ['due', 'soon'],
    ['due', '12/01/2026'],
    ['due', '2026-02-30'],
    ['attempts', '0'],
    ['opens in', 'popup'],
    ['publish', 'perhaps'],
    ['title', '=HYPERLINK("x")'],
    ['title', ''],
  ])('says what is wrong in “%s” when it holds “%s”', (column, cell) => {
    const head = column === 'title' ? 'title,points' : `title,${column}`
    const line = column === 'title' ? `"${cell.replaceAll('"', '""')}",10` : `Bends,"${cell}"`
    expect(rows(`${head}\n${line}`)[0]!.problems).toEqual([expect.objectContaining({ column })])
  })
  it('cannot have the key of another row', () => {
    const [, second] = rows('title\nBends\nbends ')
    expect(second!.problems).toEqual([
      expect.objectContaining({ column: 'key', message: expect.stringContaining('line 2') as string }),
    ])
  })
})

describe('dates', () => {
  it.each([
    ['2026-07-01 12:00', '2026-07-01T10:00:00.000Z'],
    ['2026-12-01 12:00', '2026-12-01T11:00:00.000Z'],
    ['2026-10-25 02:30', '2026-10-25T01:30:00.000Z'],
    ['46357', '2026-12-01T22:59:00.000Z'],
    ['46357.5', '2026-12-01T11:00:00.000Z'],
    ['46357,5', '2026-12-01T11:00:00.000Z'],
    ['2026-12-01T12:00:00Z', '2026-12-01T12:00:00.000Z'],
  ])('“%s” in Oslo is %s', (cell, iso) => {
    expect(readMomentCell(cell, 'Europe/Oslo', true)).toEqual({ value: iso })
  })
  it.each([
    ['2026-02-30 12:00', 'Europe/Oslo', '2026-02-30 12:00 is not in the calendar'],
    ['2026-13-01', 'Europe/Oslo', '2026-13-01 23:59 is not in the calendar'],
    ['2026-12-01 24:00', 'Europe/Oslo', '2026-12-01 24:00 is not in the calendar'],
    ['2026-12-01 12:60', 'Europe/Oslo', '2026-12-01 12:60 is not in the calendar'],
    [
      '2026-03-29 02:30',
      'Europe/Oslo',
      '2026-03-29 02:30 does not exist in Europe/Oslo: clocks are put forward over it',
    ],
    ['29.3.2026 2:00', 'Europe/Oslo', '2026-03-29 02:00 does not exist in Europe/Oslo: clocks are put forward over it'],
    ['2011-12-30', 'Pacific/Apia', '2011-12-30 23:59 does not exist in Pacific/Apia: clocks are put forward over it'],
  ])('“%s” in %s: %s', (cell, zone, problem) => {
    expect(readMomentCell(cell, zone, true)).toEqual({ problem })
  })
  it('alone begin with the first minute there is where midnight is left out', () => {
    expect(readMomentCell('2026-09-06', 'America/Santiago', false)).toEqual({ value: '2026-09-06T04:00:00.000Z' })
    expect(readMomentCell('2026-02-30', 'America/Santiago', false)).toEqual({
      problem: '2026-02-30 is not in the calendar',
    })
  })
  it('of the first century are no dates of the twentieth', () => {
    expect(readMomentCell('0026-01-01 00:00', 'UTC', true)).toEqual({ value: '0026-01-01T00:00:00.000Z' })
  })
  it('alone are the beginning of their day, or its end, in the zone', () => {
    const read = (zone: string, end: boolean) => readMomentCell('2026-12-12', zone, end)
    expect(read('Europe/Oslo', true)).toEqual({ value: '2026-12-12T22:59:00.000Z' })
    expect(read('Europe/Oslo', false)).toEqual({ value: '2026-12-11T23:00:00.000Z' })
    expect(read('Pacific/Kiritimati', true)).toEqual({ value: '2026-12-12T09:59:00.000Z' })
  })
  it('read from what a zone’s clocks show are the same moments again', () => {
    const zones = fc.constantFrom('Europe/Oslo', 'Pacific/Chatham', 'America/St_Johns', 'UTC')
    const min = new Date('1990-01-01T00:00:00Z')
    const max = new Date('2090-01-01T00:00:00Z')
    fc.assert(
      fc.property(fc.date({ min, max, noInvalidDate: true }), zones, (at, zone) => {
        const shown = wallTime(at, zone)
        const read = readMomentCell(shown, zone, true)
        // In the hour that clocks go through twice two moments look the same.
        expect('value' in read && wallTime(new Date(read.value!), zone)).toBe(shown)
      }),
    )
  })
  it('are in zones that there are', () => {
    expect(['Europe/Oslo', 'UTC', 'Atlantic/Faroe'].every(isTimeZone)).toBe(true)
    expect(['', 'Sea/Bottom', 'Moon', '__proto__'].some(isTimeZone)).toBe(false)
  })
})

describe('what comes again each day or each Monday', () => {
  it.each([
    ['2026-11-27T05:59:59Z', 'day', '2026-11-27T06:00:00.000Z'],
    ['2026-11-27T06:00:00Z', 'day', '2026-11-28T06:00:00.000Z'],
    ['2026-12-31T23:00:00Z', 'day', '2027-01-01T06:00:00.000Z'],
    ['2026-11-27T06:00:00Z', 'week', '2026-11-30T06:00:00.000Z'],
    ['2026-11-30T05:00:00Z', 'week', '2026-11-30T06:00:00.000Z'],
    ['2026-11-30T06:00:00Z', 'week', '2026-12-07T06:00:00.000Z'],
  ] as const)('after %s, each %s, is next at %s', (now, every, next) => {
    expect(nextOccurrence(new Date(now), every, 6).toISOString()).toBe(next)
  })
})

describe('dividing at random', () => {
  it('puts everybody into exactly one of groups of almost equal size', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.string()),
        fc.integer({ min: 1, max: 30 }),
        fc.infiniteStream(fc.double({ min: 0, max: 1, maxExcluded: true, noNaN: true })),
        (people, n, chance) => {
          const groups = divideAtRandom(people, n, () => chance.next().value as number)
          expect(groups).toHaveLength(n)
          expect(groups.flat().sort()).toEqual([...people].sort())
          const sizes = groups.map((one) => one.length)
          expect(Math.max(...sizes) - Math.min(...sizes)).toBeLessThanOrEqual(1)
        },
      ),
    )
  })
})
