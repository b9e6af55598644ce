import { beforeAll, describe, expect, it } from 'vitest'
import {
  codeOf,
  openForm,
  publishDrill,
  registerKnotwork,
  sendScore,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'
import { eventually } from '../../../test/eventually.js'
import { statementsOf } from './statements.js'

let academy: TestAcademy
let aino: Visitor
beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  await academy.person('aino', { 'HYD-210': 'learner' })
  aino = await academy.signIn('aino')
})
const call = () => academy.admin.client
const make = (change: Record<string, unknown> = {}) => publishDrill(academy, 'knotwork-drills', change)
const params = (assignment: string) => ({ params: { assignment } })

async function score(assignment: string, fraction: string): Promise<void> {
  const { fields } = await openForm(aino, assignment)
  const resultId = fields['lis_result_sourcedid']!
  expect((await sendScore(academy, resultId, fraction)).codeMajor).toBe('success')
}

describe('making an assignment', () => {
  it.each([
    ['no title', { title: '' }, 'request.invalid'],
    ['points that are no number', { points: 'ten' }, 'request.invalid'],
    ['negative points', { points: '-5' }, 'request.invalid'],
    ['points with a comma', { points: '12,5' }, 'request.invalid'],
    ['too many points', { points: '100001' }, 'request.invalid'],
    ['an unknown category', { category: 'Nothing' }, 'category.not_found'],
    ['an unknown tool', { tool: 'nothing' }, 'tool.not_found'],
    ['an address that cannot be launched', { launchUrl: 'ftp://x.example' }, 'address.scheme'],
    ['zero points, published', { points: '0' }, 'assignment.preflight'],
  ])('with %s is refused by %3$s and makes nothing', async (_, change, code) => {
    const count = async () => (await call().call('listAssignments', { params: { course: 'HYD-210' } })).items.length
    const before = await count()
    expect(await codeOf(make(change))).toBe(code)
    expect(await count()).toBe(before)
  })

  it('twice under one title gets two short names, and either way of naming finds it', async () => {
    const [first, second] = [await make({ title: 'Čertové knots!' }), await make({ title: 'Čertové knots!' })]
    expect([first.slug, second.slug]).toEqual(['certove-knots', 'certove-knots-2'])
    expect(await call().call('showAssignment', params('hyd-210/certove-knots-2'))).toMatchObject({ id: second.id })
  })

  it('whose title has no Latin letter still has a short name', async () => {
    expect(await make({ title: '潮の満ち引き' })).toMatchObject({ slug: 'assignment' })
  })

  it('as a draft is published once preflight finds nothing broken, twice harmlessly', async () => {
    const draft = await make({ title: 'Later', points: '0', publish: false })
    expect(await codeOf(call().call('publishAssignment', params(draft.id)))).toBe('assignment.preflight')
    await call().call('changeAssignment', { ...params(draft.id), body: { revision: draft.revision, points: '5' } })
    const states = await Promise.all([1, 2].map(() => codeOf(call().call('publishAssignment', params(draft.id)))))
    expect(states.filter((code) => code === undefined).length).toBeGreaterThanOrEqual(1)
    expect(await call().call('publishAssignment', params(draft.id))).toMatchObject({ state: 'published' })
  })
})

describe('changing an assignment', () => {
  it('that has scores says so first, then recalculates every result from what was sent', async () => {
    const one = await make({ title: 'Repointed', points: '100' })
    await score(one.id, '0.645')
    const change = (keepScores: boolean) =>
      call().call('changeAssignment', {
        ...params(one.id),
        body: { revision: one.revision, points: '12.5', keepScores },
      })
    expect(await codeOf(change(false))).toBe('assignment.has_scores')
    await change(true)
    const trail = await call().call('showTrail', { params: { assignment: one.id, person: 'aino' } })
    expect(trail.cell).toMatchObject({ points: '8.0625', sent: '0.645' })
    expect(trail.items[0]).toMatchObject({ points: '64.5', outOf: '100' })
    const { proof } = await call().call('showAssignment', params(one.id))
    expect(proof[5]).toMatchObject({
      state: 'changed',
      statement: '0.645 of 1 × 12.5 = 8.0625 is in the gradebook. Since then the points changed.',
    })
  })

  it('while scores come in never leaves one that was computed from the old points', async () => {
    const one = await make({ title: 'Racing', points: '10' })
    // As tools do, each sends again what is refused because the row is held: a busy machine may hold it for longer than one is let wait.
    const scores = Array.from({ length: 12 }, () => eventually(() => score(one.id, '0.5')))
    const change = async () => {
      let { revision } = one
      for (const points of ['20', '30', '40']) {
        const body = { revision, points, keepScores: true }
        revision = (await call().call('changeAssignment', { ...params(one.id), body })).revision
      }
    }
    await Promise.all([change(), ...scores])
    const trail = await call().call('showTrail', {
      params: { assignment: one.id, person: 'aino' },
      query: { limit: 50 },
    })
    expect(trail.cell.points).toBe('20')
    expect(trail.items).toHaveLength(12)
  })

  it('by two people at once tells the later one', async () => {
    const one = await make({ title: 'Contested' })
    const change = (title: string) =>
      codeOf(call().call('changeAssignment', { ...params(one.id), body: { revision: one.revision, title } }))
    expect(
      (await Promise.all([change('A'), change('B')])).filter((code) => code === 'record.changed_meanwhile'),
    ).toHaveLength(1)
  })

  it('back to a draft hides it from learners and keeps its scores', async () => {
    const one = await make({ title: 'Withdrawn' })
    await score(one.id, '1')
    expect(await codeOf(call().call('unpublishAssignment', { ...params(one.id), body: {} }))).toBe(
      'assignment.has_scores',
    )
    await call().call('unpublishAssignment', { ...params(one.id), body: { keepScores: true } })
    expect(await codeOf(aino.client.call('showWork', params(one.id)))).toBe('assignment.not_found')
    expect((await call().call('showTrail', { params: { assignment: one.id, person: 'aino' } })).cell.points).toBe('100')
  })
})

describe('what a learner sees', () => {
  it('is the published work with the own result, and no proof, scores of others or settings', async () => {
    const one = await make({ title: 'Seen', points: '20' })
    await score(one.id, '0.345')
    const work = (await aino.client.call('listWork', { params: { course: 'HYD-210' } })).items.find(
      (item) => item.id === one.id,
    )!
    expect(work).toMatchObject({
      title: 'Seen',
      points: '20',
      result: { state: 'graded', points: '6.9', shown: '7', sent: '0.345', sentOutOf: '1' },
    })
    expect(Object.keys(work)).not.toContain('proof')
    expect(JSON.stringify(work)).not.toContain('127.0.0.1')
  })
})

describe('lists do not ask more the longer they are', () => {
  it('assignments with their proof are one query, the gradebook three', async () => {
    const { records } = academy.service.context
    const { id } = await records.courses.byRef('HYD-210')
    expect(await statementsOf(() => records.assignments.summariesOfCourse(id))).toHaveLength(1)
    const gradebook = await statementsOf(async () => {
      const columns = await records.scores.columns(id)
      await records.scores.people(id, true, 2)
      await records.scores.cells(columns.map((column) => column.id))
    })
    expect(gradebook).toHaveLength(3)
  })
})
