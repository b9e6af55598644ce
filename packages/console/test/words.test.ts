import { UNKNOWN_CELL, type Cell, type Gradebook } from '@bathyscribe/contract'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { cellOf, fits, sending, toolWords, wordsOf, type Filter, type Row } from '../src/gradebook/cells.js'
import { courseMoment, fromInput, toInput } from '../src/state/moments.js'
import { trimPasted } from '../src/state/pasted.js'
import { count, ms, sizeWords, toneOf } from '../src/state/words.js'
import { sheetText } from '../src/tool/sheet-text.js'

describe('a date in a form', () => {
  const zone = fc.constantFrom('UTC', 'Europe/Oslo', 'America/St_Johns', 'Pacific/Chatham', 'Asia/Kathmandu')
  const minute = fc.date({ min: new Date('2020-01-01'), max: new Date('2035-01-01'), noInvalidDate: true }).map((at) => new Date(Math.floor(at.getTime() / 60_000) * 60_000)) // oxfmt-ignore

  it('is the moment that it was before, in whatever zone the course is', () => {
    fc.assert(
      fc.property(zone, minute, (name, at) => {
        const text = toInput(at.toISOString(), name)
        const back = fromInput(text, name)
        // An hour that is there twice is read as one of the two.
        expect(toInput(back, name)).toBe(text)
        expect(Math.abs(Date.parse(back!) - at.getTime())).toBeLessThanOrEqual(3_600_000)
      }),
    )
  })

  it('is empty for none, and goes as it stands where there is no such hour', () => {
    expect([toInput(null, 'UTC'), fromInput('', 'UTC')]).toEqual(['', null])
    expect(fromInput('2026-03-29T02:30', 'Europe/Oslo')).toBe('2026-03-29T02:30')
  })

  it('that is none stands as it was said', () => {
    expect(courseMoment('soon', 'Europe/Oslo')).toBe('soon')
  })

  it('is told with the zone of the course', () => {
    expect(courseMoment('2026-12-01T22:59:00.000Z', 'Europe/Oslo')).toMatch(/^1 Dec,? 23:59 (CET|GMT\+1)$/)
    expect(courseMoment('2026-07-01T22:59:00.000Z', 'Europe/Oslo')).toMatch(/^2 Jul,? 00:59 (CEST|GMT\+2)$/)
  })
})

describe('a pasted value', () => {
  const edge = fc.array(fc.constantFrom(' ', '\t', '\n', '"', "'", '\u200b', '\u200f', '\u2060', '\ufeff', '\u00ad'), { maxLength: 6 }).map((all) => all.join('')) // oxfmt-ignore
  const inner = fc.stringMatching(/^[a-z0-9](?:[a-z0-9 "'\u200b]{0,20}[a-z0-9])?$/)

  it('loses what was copied along at its ends, and nothing within', () => {
    fc.assert(
      fc.property(edge, inner, edge, (before, value, after) => {
        expect(trimPasted(before + value + after)).toBe(value)
      }),
    )
    expect(trimPasted(' "\u200b ')).toBe('')
  })

  it('is trimmed in one go, however much of nothing there is', () => {
    expect(trimPasted(`${' '.repeat(200_000)}x${'\u200b'.repeat(200_000)}`)).toBe('x')
  })
})

describe('what a cell says', () => {
  const cell = (parts: Partial<Cell>): Cell => ({ ...UNKNOWN_CELL, ...parts })
  const row = (one: Cell): Row => ({ cells: { a: one } }) as unknown as Row
  const columns = [{ id: 'a' }] as Gradebook['columns']

  it('is nothing known where nothing came', () => {
    expect(cellOf(row(cell({})), 'b')).toEqual(UNKNOWN_CELL)
  })

  it.each<[string, Partial<Cell>, string]>([
    ['never opened', { state: 'never_opened' }, 'never opened'],
    ['points by hand, late, of three', { state: 'graded', overridden: true, late: true, attempts: 3 }, 'set by the instructor, late, 3 scores'], // oxfmt-ignore
    ['one score', { state: 'graded', attempts: 1 }, ''],
    ['refused', { state: 'refused' }, 'score refused'],
  ])('%s', (_, parts, words) => expect(wordsOf(cell(parts))).toBe(words))

  it.each<[Filter, Partial<Cell>, boolean]>([
    ['scored', { points: '0' }, true],
    ['scored', { points: null }, false],
    ['opened', { state: 'opened', points: null }, true],
    ['opened', { state: 'started', points: null }, true],
    ['opened', { state: 'opened', points: '3' }, false],
    ['never_opened', { state: 'never_opened' }, true],
    ['waiting', { state: 'waiting' }, true],
    ['waiting', { state: 'submitted' }, true],
    ['waiting', { state: 'graded' }, false],
    ['late', { late: true }, true],
    ['refused', { state: 'refused' }, true],
    ['overridden', { overridden: true }, true],
    ['exempt', { exempt: true }, true],
    ['exempt', { exempt: false }, false],
    ['all', {}, true],
  ])('a row is found by “%s” where a cell is %j: %s', (filter, parts, found) =>
    expect(fits(row(cell(parts)), columns, filter)).toBe(found),
  )

  it('tells what a tool said in people’s words, and what it made up as it stands', () => {
    expect(toolWords('InProgress', 'PendingManual')).toBe('at work, waits to be graded by a person')
    expect(toolWords('Submitted', null)).toBe('handed in')
    expect(toolWords(null, 'Soonish')).toBe('Soonish')
    expect(toolWords(null, null)).toBe('')
  })

  it.each([
    [{ refused: 2, waiting: 1, lastScoreAt: 'x', scored: 3 }, '2 refused', 'bad'],
    [{ refused: 0, waiting: 1, lastScoreAt: 'x', scored: 3 }, '1 waiting', 'look'],
    [{ refused: 0, waiting: 0, lastScoreAt: null, scored: 0 }, 'nothing heard', 'quiet'],
    [{ refused: 0, waiting: 0, lastScoreAt: 'x', scored: 3 }, '3 scored', 'good'],
  ])('a column of %j', (column, word, tone) => expect(sending(column as Gradebook['columns'][number])).toEqual({ word, tone })) // oxfmt-ignore
})

describe('words', () => {
  it.each([
    [count(1, 'course'), '1 course'],
    [count(0, 'course'), '0 courses'],
    [count(2, 'entry', 'entries'), '2 entries'],
    [ms(3.14), '3.1 ms'],
    [ms(314.15), '314 ms'],
    [sizeWords(1023), '1023 bytes'],
    [sizeWords(1024), '1 KiB'],
    [sizeWords(5 * 1_048_576), '5.0 MiB'],
    [toneOf('proven'), 'good'],
    [toneOf('refused'), 'bad'],
    [toneOf('what nobody knows'), 'quiet'],
  ])('%s', (said, wanted) => expect(said).toBe(wanted))

  it('of an exchange sheet are lines for a mail', () => {
    const lines = [{ label: 'Key', value: 'k' }, { label: 'Secret', value: 's' }] // oxfmt-ignore
    expect(sheetText(lines as never)).toBe('Key: k\nSecret: s')
  })
})
