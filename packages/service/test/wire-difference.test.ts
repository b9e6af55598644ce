import { beforeAll, describe, expect, it } from 'vitest'
import { codeOf, publishDrill, registerKnotwork, startAcademy, type TestAcademy } from './harness.js'
import { runSounding } from './soundings.js'

let academy: TestAcademy
let assignment: string
beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  await academy.person('aino', { 'HYD-210': 'learner' })
  await academy.person('bo', { 'HYD-210': 'learner' })
  assignment = (
    await publishDrill(academy, 'knotwork-drills', { title: 'Bends', customParameters: { drill: 'bends' } })
  ).id
})
const launch = (person: string) =>
  academy.admin.client.call('tryLaunch', { params: { assignment }, body: { as: 'learner', person } })
const difference = (entry: string) => academy.admin.client.call('showWireDifference', { params: { entry } })

describe('a message against the last good one', () => {
  it('has nothing to be held against at first, and says so', async () => {
    const first = await launch('aino')
    expect(await difference(first.wireEntryId)).toEqual({ good: null, differences: [], changes: [] })
  })

  it('names what is other than in the last that was taken, for the same person, and nothing that always is', async () => {
    const { wireEntryId: good } = await launch('aino')
    await launch('bo')
    const one = await academy.admin.client.call('showAssignment', { params: { assignment } })
    await academy.admin.client.call('changeAssignment', {
      params: { assignment },
      body: {
        revision: one.revision,
        title: 'Bends and hitches',
        customParameters: { drill: 'bends', practice_fault: 'error_500' },
      },
    })
    const bad = await launch('aino')
    expect(bad.accepted).toBe(false)
    const found = await difference(bad.wireEntryId)
    expect(found.good!.id).toBe(good)
    expect(found.differences).toEqual([
      { part: 'resource_link_title', then: 'Bends', now: 'Bends and hitches' },
      { part: 'custom_practice_fault', then: '(left out)', now: 'error_500' },
    ])
  })

  it('reads envelopes by what stands in them', async () => {
    const { id, revision } = await publishDrill(academy, 'knotwork-drills', { title: 'Scored' })
    await runSounding(academy, id, { depth: 'plain' })
    await academy.admin.client.call('changeAssignment', {
      params: { assignment: id },
      body: { revision, customParameters: { practice_fault: 'score_above_maximum' }, keepScores: true },
    })
    await runSounding(academy, id, { depth: 'plain' })
    const { items } = await academy.admin.client.call('listWire', {
      query: { assignment: id, kind: 'outcome', outcome: 'refused' },
    })
    expect((await difference(items[0]!.id)).differences).toEqual([{ part: 'textString', then: '0.645', now: '1.645' }])
  })

  it('is kept from those who may not see it', async () => {
    const { wireEntryId: entry } = await launch('aino')
    const aino = await academy.signIn('aino')
    expect(await codeOf(aino.client.call('showWireDifference', { params: { entry } }))).toBe('access.denied')
    await academy.admin.client.call('createCourse', { body: { code: 'NAV 120', title: 'Coastal Navigation' } })
    await academy.person('maren', { 'NAV-120': 'instructor' })
    const maren = await academy.signIn('maren')
    expect(await codeOf(maren.client.call('showWireDifference', { params: { entry } }))).toBe('wire.not_found')
  })
})

describe('the wire log', () => {
  it('is searched by any identifier that crossed the wire, and holds no secret that could be found', async () => {
    const { wireEntryId } = await launch('bo')
    const entry = await academy.admin.client.call('showWireEntry', { params: { entry: wireEntryId } })
    const nonce = entry.request.parameters!.find(([name]) => name === 'oauth_nonce')![1]
    const found = (search: string) =>
      academy.admin.client.call('listWire', { query: { search } }).then(({ items }) => items.map((one) => one.id))
    expect(await found(nonce)).toEqual([wireEntryId])
    const user = entry.request.parameters!.find(([name]) => name === 'user_id')![1]
    expect(await found(user)).toContain(wireEntryId)
    expect(await found('halyard-3-bowline-7-fid')).toEqual([])
  })
})
