import { stateOf, WORK_STATES } from '@bathyscribe/core/scores'
import { beforeAll, describe, expect, it } from 'vitest'
import { codeOf, type Visitor } from './harness.js'
import { launch13 } from './harness-13.js'
import { startScoring, type Scoring } from './scoring-13.js'

let at: Scoring
beforeAll(async () => {
  at = await startScoring()
})
const PENDING = { activityProgress: 'Completed', gradingProgress: 'PendingManual' }
const standing = async (assignment: string) => {
  const { items } = await at.tomas.client.call('showStanding', { params: { assignment } })
  return Object.fromEntries(items.map((one) => [one.person.username, `${one.state} ${one.activity ?? '–'} ${one.points ?? '–'}`])) // oxfmt-ignore
}
const waiting = async (query: object = {}, who: Visitor = at.tomas) =>
  (await who.client.call('listWaitingWork', { query })).items.map((one) => `${one.assignment.title} ${one.person.username}`) // oxfmt-ignore

describe('where learners stand', () => {
  it('is said of each of whom the assignment is for, and who is still there', async () => {
    const column = await at.make('Stands')
    await launch13(at.aino, column, at.client)
    await at.score(column, 'bo', null, PENDING)
    await at.score(column, 'cyd', 30)
    expect(await standing(column)).toEqual({
      aino: 'opened – –',
      bo: 'waiting Completed –',
      cyd: 'graded Completed 30',
    })
    const drop = (state: 'dropped' | 'active') => at.academy.admin.client.call('changeEnrolment', { params: { course: 'HYD-210', person: 'cyd' }, body: { state } }) // oxfmt-ignore
    await drop('dropped')
    expect(Object.keys(await standing(column))).toEqual(['aino', 'bo'])
    await drop('active')
    await at.academy.query(`update assignment set for_everyone = false where id = $1`, [column])
    expect(await standing(column)).toEqual({})
  })
})

describe('what waits to be graded', () => {
  it('is listed over all assignments, the longest first, until it is graded, refused or set by hand', async () => {
    await at.academy.query(`update result set grading = null`)
    const [first, second] = [await at.make('First'), await at.make('Second')]
    await at.score(second, 'bo', null, PENDING)
    await at.score(first, 'aino', null, PENDING)
    await at.score(first, 'bo', null, PENDING)
    await at.score(first, 'cyd', null, PENDING)
    expect(await waiting()).toEqual(['Second bo', 'First aino', 'First bo', 'First cyd'])
    expect((await at.tomas.client.call('showWatch', {})).waitingWork).toBe(4)
    await at.score(first, 'aino', 30)
    const hand = { params: { assignment: first, person: 'bo' }, body: { act: 'override', points: '12' } } as const
    await at.tomas.client.call('gradeByHand', hand)
    expect(await waiting()).toEqual(['Second bo', 'First cyd'])
    // A second attempt waits although the first was graded.
    await at.score(first, 'aino', null, PENDING)
    expect(await waiting({ course: 'HYD-210', tool: 'bearing-book' })).toEqual(['Second bo', 'First cyd', 'First aino'])
    const page = await at.tomas.client.call('listWaitingWork', { query: { limit: 2 } })
    expect(await waiting({ limit: 2, cursor: page.next! })).toEqual(['First aino'])
  })

  it('is what core says of each, whatever is known', async () => {
    const column = await at.make('Judged')
    await at.score(column, 'aino', 30)
    const moments = [null, '2026-11-02T10:00:00Z', '2026-11-02T11:00:00Z', '2026-11-02T12:00:00Z']
    const day = (text: string | null) => (text === null ? null : new Date(text))
    let tried = 0
    const states = new Set<string>()
    for (const grading of ['PendingManual', 'FullyGraded', null])
      for (const [heard, at_, refused] of [[1, 0, 0], [2, 1, 0], [1, 2, 0], [2, 0, 1], [1, 0, 2], [2, 1, 3], [1, 2, 3]] as const)
        for (const overridden of [false, true])
          for (const exempt of [false, true]) {
            await at.academy.query(
              `update result set grading = $2, heard_at = $3, at = $4, score_id = case when $4::timestamptz is null then null else score_id end, overridden = $5, exempt = $6,
                 override_at = case when $5 then '2026-11-01'::timestamptz end, activity = 'Completed' where assignment_id = $1`,
              [column, grading, moments[heard], moments[at_], overridden, exempt],
            )
            await at.academy.query(`delete from score where assignment_id = $1 and outcome = 'refused'`, [column])
            if (refused > 0)
              await at.academy.query(
                `insert into score (assignment_id, person_id, at, operation, outcome, code, out_of) select $1, person_id, $2, 'replace', 'refused', 'score.above_one', 40 from result where assignment_id = $1`,
                [column, moments[refused]],
              )
            const { state } = stateOf({
              openedAt: null,
              hasResult: at_ > 0,
              points: at_ > 0 ? '30' : null,
              overridden,
              exempt,
              activity: 'Completed',
              grading,
              heardAt: day(moments[heard]!),
              resultAt: overridden ? new Date('2026-11-01') : day(moments[at_]!),
              comment: null,
              refusedAt: day(moments[refused]!),
            })
            states.add(state)
            expect((await waiting()).includes('Judged aino'), `${grading} ${heard} ${at_} ${refused} ${overridden} ${exempt}: ${state}`).toBe(state === 'waiting')
            tried++
          }
    expect(tried).toBe(84)
    expect([...states].filter((one) => (WORK_STATES as readonly string[]).includes(one)).length).toBeGreaterThan(3)
  }) // oxfmt-ignore

  it('is told of one’s own courses only', async () => {
    await at.academy.admin.client.call('createCourse', { body: { code: 'NAV 120', title: 'Coastal Navigation' } })
    await at.academy.person('neighbour', { 'NAV-120': 'instructor' })
    const neighbour = await at.academy.signIn('neighbour')
    expect(await waiting({}, neighbour)).toEqual([])
    const asked = (query: object, who: Visitor) => codeOf(who.client.call('listWaitingWork', { query }))
    expect(await asked({ course: 'HYD-210' }, neighbour)).toBe('course.not_found')
    expect(await asked({}, at.aino)).toBe('access.denied')
    expect(await asked({ tool: 'nothing' }, at.tomas)).toBe('tool.not_found')
    expect(await asked({ cursor: 'x' }, at.tomas)).toBe('request.invalid')
  })
})

describe('what is written to several learners', () => {
  const write = (assignment: string, body: object, who: Visitor = at.tomas) =>
    who.client.call('writeToLearners', { params: { assignment }, body: { subject: 'Well done', text: 'Read the comments.', ...body } as never }) // oxfmt-ignore

  it('stands on the pages of each of them, once, and in their cases', async () => {
    const column = await at.make('Written')
    const { written } = await write(column, { people: ['aino', 'BO', 'aino'] })
    expect(written.map((one) => one.username)).toEqual(['aino', 'bo'])
    const { items } = await at.aino.client.call('listNotes', {})
    expect(items.filter((one) => one.assignment.id === column)).toMatchObject([{ text: 'Read the comments.' }])
    const { events } = await at.tomas.client.call('showCase', { params: { assignment: column, person: 'bo' } })
    expect(events[0]).toMatchObject({ kind: 'letter', text: 'Read the comments.', by: 'Tomas Testmann' })
  })

  it('goes to all of them or to nobody, from teachers, to learners', async () => {
    const column = await at.make('Nobody')
    expect(await codeOf(write(column, { people: ['aino', 'tomas'] }))).toBe('case.not_of_learner')
    expect(await codeOf(write(column, { people: [] }))).toBe('request.invalid')
    expect(await codeOf(write(column, { people: ['aino'], by: 'mail' }))).toBe('mail.off')
    expect(await codeOf(write(column, { people: ['aino'] }, at.aino))).toBe('access.denied')
    expect(await at.academy.query(`select 1 from case_event where assignment_id = $1`, [column])).toEqual([])
  })
})
