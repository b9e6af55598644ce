import { beforeAll, describe, expect, it } from 'vitest'
import { codeOf, publishDrill, registerKnotwork, startAcademy, type TestAcademy, type Visitor } from './harness.js'

let academy: TestAcademy
const people: Record<string, Visitor> = {}
beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  await academy.admin.client.call('createCourse', { body: { code: 'NAV 120', title: 'Coastal Navigation' } })
  await academy.person('tomas', { 'HYD-210': 'instructor', 'NAV-120': 'learner' })
  await academy.person('aino', { 'HYD-210': 'learner' })
  await academy.person('stranger', {})
  for (const name of ['tomas', 'aino', 'stranger']) people[name] = await academy.signIn(name)
  const params = { course: 'NAV-120' }
  const draft = { title: 'Bends at sea, a draft', tool: 'knotwork-drills', points: '5' }
  await academy.admin.client.call('createAssignment', { params, body: draft })
  await publishDrill(academy, 'knotwork-drills', { title: 'Fancy bends' })
  await publishDrill(academy, 'knotwork-drills', { title: 'Bends_100%' })
  await publishDrill(academy, 'knotwork-drills', { title: 'Bends, a draft', publish: false })
})
const find = async (who: Visitor, search: string, limit = 50) =>
  (await who.client.call('findAssignments', { query: { search, limit } })).items.map((one) => one.title)

describe('assignments are found by title', () => {
  it('by those who teach them in every state, by learners as far as they may open them, by others not at all', async () => {
    expect(await find(people['tomas']!, 'BENDS')).toEqual(['Bends, a draft', 'Bends_100%', 'Fancy bends'])
    expect(await find(people['aino']!, 'bends')).toEqual(['Bends_100%', 'Fancy bends'])
    expect(await find(people['stranger']!, 'bends')).toEqual([])
    expect(await find(academy.admin, 'bends')).toHaveLength(4)
    expect(await find(academy.admin, 'bends', 2)).toHaveLength(2)
  })

  it('letter by letter: what is a pattern elsewhere is none here', async () => {
    expect(await find(academy.admin, 's_1')).toEqual(['Bends_100%'])
    expect(await find(academy.admin, '%')).toEqual(['Bends_100%'])
    expect(await find(academy.admin, '\\')).toEqual([])
  })

  it('not when the unit is hidden, the assignment is for others, or the person has left', async () => {
    await academy.query(`update assignment set for_everyone = false where title = 'Fancy bends'`)
    expect(await find(people['aino']!, 'bends')).toEqual(['Bends_100%'])
    const unit = await academy.admin.client.call('addUnit', { params: { course: 'HYD-210' }, body: { title: 'Hidden', published: false } }) // oxfmt-ignore
    await publishDrill(academy, 'knotwork-drills', { title: 'Bends below', unit: unit.id })
    expect(await find(people['aino']!, 'below')).toEqual([])
    expect(await find(people['tomas']!, 'below')).toEqual(['Bends below'])
    await academy.admin.client.call('changeEnrolment', { params: { course: 'HYD-210', person: 'tomas' }, body: { state: 'dropped' } }) // oxfmt-ignore
    expect(await find(people['tomas']!, 'bends')).toEqual([])
  })

  it('by nobody who is not signed in, nor for nothing', async () => {
    expect(await codeOf(find(academy.visitor(), 'bends'))).toBe('session.required')
    expect(await codeOf(find(academy.admin, '  '))).toBe('request.invalid')
  })
})
