import fc from 'fast-check'
import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import type { Records } from '../src/records/index.js'
import { publishDrill, registerKnotwork, startAcademy, type TestAcademy } from './harness.js'

/** What soundings ask of trails, against somebody who reads the whole trail. */
let academy: TestAcademy
let scores: Records['scores']
let own: string
let merged: string
let strange: string
let person: string
let other: string

beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  ;[own, merged, strange] = [
    (await publishDrill(academy, 'knotwork-drills', { title: 'Own' })).id,
    (await publishDrill(academy, 'knotwork-drills', { title: 'Merged' })).id,
    (await publishDrill(academy, 'knotwork-drills', { title: 'Another' })).id,
  ]
  await academy.query(`update assignment set state = 'merged', merged_into = $2 where id = $1`, [merged, own])
  person = await academy.person('aino', { 'HYD-210': 'learner' })
  other = await academy.person('niamh', { 'HYD-210': 'learner' })
  scores = (academy.service.context as unknown as { records: Records }).records.scores
})
beforeEach(() => academy.query('delete from score'))

interface Entry {
  column: 'own' | 'merged' | 'strange'
  who: 'aino' | 'niamh'
  operation: 'replace' | 'delete' | 'progress' | 'override'
  outcome: 'accepted' | 'refused'
}
const ENTRY = fc.record<Entry>({
  column: fc.constantFrom('own', 'own', 'merged', 'strange'),
  who: fc.constantFrom('aino', 'aino', 'niamh'),
  operation: fc.constantFrom('replace', 'replace', 'delete', 'progress', 'override'),
  outcome: fc.constantFrom('accepted', 'accepted', 'refused'),
})
/** @returns their identifiers in the trail */
async function write(entries: readonly Entry[]): Promise<string[]> {
  const columns = { own, merged, strange }
  const ids: string[] = []
  for (const [n, { column, who, operation, outcome }] of entries.entries()) {
    const byHand = operation === 'override'
    const [row] = await academy.query<{ id: string }>(
      `insert into score (assignment_id, person_id, at, operation, outcome, sent, sent_out_of, fraction, points, out_of, wire_entry_id, by_person_id, comment)
       values ($1, $2, now(), $3, $4, $5, '1', 0.5, 5, 10, null, $6, $7) returning id::text as id`,
      [
        columns[column],
        who === 'aino' ? person : other,
        operation,
        outcome,
        operation === 'delete' ? null : `0.${n}`,
        byHand ? other : null,
        `no ${n}`,
      ],
    )
    ids.push(row!.id)
  }
  return ids
}

describe('the end of a trail', () => {
  it('is that of one person, in a column and in those merged into it, whatever else there is', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(ENTRY, { maxLength: 14 }), async (entries) => {
        await academy.query('delete from score')
        const ids = await write(entries)
        const mine = ids.filter((_, n) => entries[n]!.column !== 'strange' && entries[n]!.who === 'aino')
        expect(await scores.endOfTrail(own, person)).toBe(mine.at(-1) ?? null)
      }),
      { numRuns: 40 },
    )
  })

  it('is none where nothing came, or nothing of that name', async () => {
    expect(await scores.endOfTrail(own, person)).toBeNull()
    expect(await scores.endOfTrail('nothing', person)).toBeNull()
  })
})

describe('what a tool said last', () => {
  it('is found as by reading the whole trail, from any entry on', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(ENTRY, { maxLength: 14 }), fc.nat(14), async (entries, from) => {
        await academy.query('delete from score')
        const ids = await write(entries)
        const since = from === 0 ? null : (ids[from - 1] ?? null)
        const after = since === null ? 0 : from
        const counts = ({ column, who, operation }: Entry) =>
          column !== 'strange' && who === 'aino' && operation !== 'progress' && operation !== 'override'
        const last = entries.findLastIndex((one, n) => n >= after && counts(one))
        const found = await scores.newestSince(own, person, since)
        expect(found?.id).toBe(last < 0 ? undefined : ids[last])
        if (last < 0) return
        expect(found).toMatchObject({
          outcome: entries[last]!.outcome,
          sent: entries[last]!.operation === 'delete' ? null : `0.${last}`,
          comment: `no ${last}`,
        })
      }),
      { numRuns: 60 },
    )
  })

  it('is told with all that a sounding says of it', async () => {
    await write([{ column: 'merged', who: 'aino', operation: 'replace', outcome: 'refused' }])
    expect(await scores.newestSince(own, person, null)).toEqual({
      id: expect.stringMatching(/^\d+$/) as string,
      outcome: 'refused',
      code: null,
      sent: '0.0',
      sentOutOf: '1',
      comment: 'no 0',
      wireEntryId: null,
    })
  })
})

describe('a trail that results are derived from', () => {
  it('comes with how its column counts, that of the column which a merged one was merged into', async () => {
    await academy.query(`update assignment set counting = 'best', points = 40 where id = $1`, [own])
    await academy.query(`update assignment set counting = 'first', points = 7 where id = $1`, [merged])
    await write(['own', 'merged', 'strange'].map((column) => ({ column, who: 'aino', operation: 'replace', outcome: 'accepted' }) as Entry)) // oxfmt-ignore
    const steps = await scores.steps([own], person)
    expect(steps.map((one) => [one.assignmentId, one.counting, Number(one.columnPoints), one.sent])).toEqual([
      [own, 'best', 40, '0.0'],
      [own, 'best', 40, '0.1'],
    ])
    // What was merged has no trail of its own any more.
    expect(await scores.steps([merged], person)).toEqual([])
  })

  it.each([[1], [2]])('is the same for %i columns asked at once, of one person or of all', async (many) => {
    await write(
      (['own', 'strange'] as const).flatMap((column) =>
        (['aino', 'niamh'] as const).map((who): Entry => ({ column, who, operation: 'replace', outcome: 'accepted' })),
      ),
    )
    const asked = [own, strange].slice(0, many)
    expect(await scores.steps(asked)).toHaveLength(2 * many)
    const mine = await scores.steps(asked, person)
    expect(mine.map((one) => [one.assignmentId, one.personId]).sort()).toEqual(asked.map((id) => [id, person]).sort())
  })

  it('holds nothing that was set aside, refused, or said by hand', async () => {
    await write([
      { column: 'own', who: 'aino', operation: 'replace', outcome: 'refused' },
      { column: 'own', who: 'aino', operation: 'override', outcome: 'accepted' },
      { column: 'own', who: 'aino', operation: 'replace', outcome: 'accepted' },
      { column: 'own', who: 'aino', operation: 'progress', outcome: 'accepted' },
    ])
    expect((await scores.steps([own], person)).map((one) => one.operation)).toEqual(['replace', 'progress'])
    const aside = { assignmentId: own, personId: person, since: null, soundingId: 'x' }
    expect(await scores.setAside(aside)).toBe(2)
    expect(await scores.steps([own], person)).toEqual([])
    expect(await scores.setAside(aside)).toBe(0)
  })
})

describe('what is cleared with a trail', () => {
  const standing = async (id: string, who: string) => (await scores.standing(id, who))?.fraction ?? null
  const derived = (assignmentId: string, personId: string) => ({
    ...{ assignmentId, personId, fraction: '0.5', points: '5', sent: '0.5', sentOutOf: '1', scoreId: '1', attempts: 1 },
    ...{ counted: 1, sum: '0.5', outOf: '10', counting: 'last', at: new Date(), lastId: '1', lastOperation: 'replace' },
    ...{ activity: null, grading: null, heardAt: new Date(), sentAt: null, comment: null, submittedAt: null },
  }) as unknown as Parameters<Records['scores']['setDerived']>[1][number] // oxfmt-ignore
  beforeEach(() => academy.query('delete from result'))

  it('are the results that nothing was derived for, in the columns asked about', async () => {
    const all = [own, strange].flatMap((id) => [person, other].map((who) => derived(id, who)))
    await scores.setDerived([own, strange], all)
    expect(await standing(own, person)).toBe('0.5')
    await scores.setDerived([own], [derived(own, other)])
    expect([await standing(own, person), await standing(own, other), await standing(strange, person)]).toEqual([null, '0.5', '0.5']) // oxfmt-ignore
  })

  it('are one person’s alone where one is named', async () => {
    await scores.setDerived(
      [own],
      [person, other].map((who) => derived(own, who)),
    )
    await scores.setDerived([own], [], person)
    expect([await standing(own, person), await standing(own, other)]).toEqual([null, '0.5'])
  })
})

describe('scores that went elsewhere', () => {
  it('are those of the tool’s own columns, of that link or of none, since then, the newest first', async () => {
    const [row] = await academy.query<{ course: string; link: string; tool: string }>(
      'select course_id as course, resource_link_id as link, registration_id as tool from assignment where id = $1',
      [own],
    )
    const asked = (since: Date) =>
      scores.elsewhere({ courseId: row!.course, resourceLinkId: row!.link, registrationId: row!.tool, personId: person, since }) // oxfmt-ignore
    const before = new Date(Date.now() - 60_000)
    const entry: Entry = { column: 'strange', who: 'aino', operation: 'replace', outcome: 'accepted' }
    await write([entry, { ...entry, who: 'niamh' }, { ...entry, column: 'own' }, entry])
    expect(await asked(before)).toEqual([])
    try {
      for (const tied of [null, row!.link]) {
        await academy.query(`update assignment set state = 'column', tied_to = $2 where id = $1`, [strange, tied])
        expect((await asked(before)).map((one) => [one.title, one.sent])).toEqual([
          ['Another', '0.3'],
          ['Another', '0.0'],
        ])
        expect(await asked(new Date(Date.now() + 60_000))).toEqual([])
      }
      await academy.query(`update assignment set tied_to = 'another link' where id = $1`, [strange])
      expect(await asked(before)).toEqual([])
    } finally {
      await academy.query(`update assignment set state = 'published', tied_to = null where id = $1`, [strange])
    }
  })
})
