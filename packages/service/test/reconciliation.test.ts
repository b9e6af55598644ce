import { beforeAll, describe, expect, it } from 'vitest'
import { codeOf } from './harness.js'
import { launch13 } from './harness-13.js'
import { startScoring, type Scoring } from './scoring-13.js'

let at: Scoring
let column: string
beforeAll(async () => {
  at = await startScoring()
  for (const name of ['dov', 'eik', 'fen', 'gul', 'hal']) await at.academy.person(name, { 'HYD-210': 'learner' })
  const rows = await at.academy.query<{ username: string; subject: string }>(`select username, subject from person`)
  Object.assign(at.subjects, Object.fromEntries(rows.map((row) => [row.username, row.subject])))
  column = await at.make('Export', { points: '40' })
  await at.score(column, 'aino', 30)
  await at.score(column, 'bo', 26.6667)
  await at.score(column, 'cyd', 20)
  await at.score(column, 'dov', 10)
  await at.score(column, 'eik', 12)
  await at.tomas.client.call('gradeByHand', {
    params: { assignment: column, person: 'eik' },
    body: { act: 'override', points: '40' },
  })
  await at.academy.admin.client.call('changeEnrolment', {
    params: { course: 'HYD-210', person: 'fen' },
    body: { state: 'dropped' },
  })
  await at.score(column, 'fen', 33)
  await launch13(at.aino, column, at.client)
})
const table = [
  'Student ID,Email,Student,Points,Out of',
  'aino,,,30,40',
  'bo,,,26.67,40',
  ',cyd@skerrow.example,,50,100',
  'dov,,,15,40',
  'eik,,,12,40',
  'fen,,,33,40',
  ',,"Testmann, Gul",35,40',
  'nobody,,,1,40',
  'aino,,,31,40',
].join('\n')
const ask = (more: object = {}) =>
  at.tomas.client.call('reconcileScores', {
    params: { assignment: column },
    body: { fileName: 'bearing-book.csv', table, ...more },
  })

describe('a tool’s export against the gradebook', () => {
  it('holds every class of difference, each with the reason that the trail shows', async () => {
    await at.score(column, 'hal', 7)
    const { rows, counts, reading, confirmed } = await ask()
    expect(reading).toEqual({
      identifier: 'Student ID',
      email: 'Email',
      name: 'Student',
      score: 'Points',
      maximum: 'Out of',
    })
    expect(confirmed).toBe(false)
    expect(rows.map((row) => [row.person?.username ?? row.called, row.class, row.reason])).toEqual([
      ['aino', 'same', null],
      ['bo', 'rounding', null],
      ['cyd', 'scale', null],
      ['dov', 'different', 'not_sent_again'],
      ['eik', 'different', 'overridden'],
      ['fen', 'missing_here', 'refused'],
      ['gul', 'missing_here', 'never_launched'],
      ['nobody', 'unknown_person', null],
      ['aino', 'unreadable', rows[8]!.reason],
      ['hal', 'missing_there', rows[9]!.reason],
    ])
    expect(rows[6]).toMatchObject({ matchedBy: 'name', doubtful: true })
    expect(rows[5]!.statement).toContain('not, or no longer, a learner of the course')
    expect(counts).toMatchObject({
      same: 1,
      rounding: 1,
      scale: 1,
      different: 2,
      missing_here: 2,
      missing_there: 1,
      unknown_person: 1,
      unreadable: 1,
    })
  })

  it('says so when the file is older than the last score', async () => {
    await at.score(column, 'cyd', 24)
    const { rows } = await ask()
    expect(rows[2]).toMatchObject({ class: 'different', reason: 'file_older' })
  })

  it('reads columns as they were confirmed once, and is told which when it cannot see', async () => {
    const strange = 'A,B\naino,30\nbo,9'
    expect(await codeOf(ask({ table: strange }))).toBe('reconciliation.no_person')
    expect(await codeOf(ask({ table: 'who,what\naino,x' }))).toBe('reconciliation.no_score')
    expect(await codeOf(ask({ table: strange, reading: { identifier: 'Z', score: 'B' } }))).toBe('reconciliation.head')
    await ask({ table: strange, reading: { identifier: 'A', score: 'B' }, confirm: true })
    expect(await ask({ table: strange })).toMatchObject({ confirmed: true, counts: { same: 1, different: 1 } })
    expect(await codeOf(ask({ table: '' }))).toBe('request.invalid')
    expect(await codeOf(ask({ table: '"a,b' }))).toBe('table.quotes')
  })

  it('is taken over line by line, with the file as evidence, all or none', async () => {
    const take = (lines: number[]) =>
      at.tomas.client.call('takeReconciled', {
        params: { assignment: column },
        body: { fileName: 'bearing-book.csv', table, lines },
      })
    expect(await codeOf(take([5, 9]))).toBe('reconciliation.line')
    expect(await at.cell(column, 'dov')).toMatchObject({ points: '10' })
    expect(await take([5, 8])).toMatchObject({ taken: 2 })
    const trail = await at.tomas.client.call('showTrail', { params: { assignment: column, person: 'dov' } })
    expect(trail.cell).toMatchObject({ points: '15', overridden: true })
    expect(trail.items[0]).toMatchObject({
      by: { username: 'tomas' },
      evidence: expect.stringMatching(/^bearing-book\.csv, line 5 \(SHA-256 [0-9a-f]{12}\)$/) as string,
    })
    expect(
      await codeOf(
        at.aino.client.call('reconcileScores', { params: { assignment: column }, body: { fileName: 'x', table } }),
      ),
    ).toBe('access.denied')
  })
})
