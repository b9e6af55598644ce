import type { Mark } from '@bathyscribe/contract'
import { MARK_SIGNS } from '@bathyscribe/contract'
import { outcomeXml, sendOutcome } from '@bathyscribe/practice-tools'
import { beforeAll, describe, expect, it } from 'vitest'
import {
  KEY,
  openForm,
  publishDrill,
  registerKnotwork,
  SECRET,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'

let academy: TestAcademy
let aino: Visitor
beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  await academy.person('aino', { 'HYD-210': 'learner' })
  aino = await academy.signIn('aino')
})
const call = () => academy.admin.client
const lineOf = (proof: readonly Mark[]) => proof.map((mark) => MARK_SIGNS[mark.state]).join('')
const proof = async (assignment: string) => (await call().call('showAssignment', { params: { assignment } })).proof
const line = async (assignment: string) => lineOf(await proof(assignment))
async function score(assignment: string, fraction: string): Promise<void> {
  const { fields } = await openForm(aino, assignment)
  const resultId = fields['lis_result_sourcedid']!
  const target = { serviceUrl: `${academy.url}/lti/outcomes`, resultId, key: KEY, secret: SECRET }
  expect((await sendOutcome(target, outcomeXml('replaceResult', resultId, fraction))).codeMajor).toBe('success')
}
let n = 0
async function proven(change: Record<string, unknown> = {}): Promise<string> {
  const { id } = await publishDrill(academy, 'knotwork-drills', { title: `Proven ${++n}`, ...change })
  await score(id, '0.5')
  expect(await line(id)).toBe('●●●●●●')
  return id
}
async function changeAssignment(assignment: string, body: Record<string, unknown>) {
  const { revision } = await call().call('showAssignment', { params: { assignment } })
  await call().call('changeAssignment', { params: { assignment }, body: { ...body, revision } })
}
async function changeTool(tool: string, body: Record<string, unknown>) {
  const { revision } = await call().call('showTool', { params: { tool } })
  await call().call('changeTool', { params: { tool }, body: { ...body, revision } })
}

describe('a proof', () => {
  it.each<[string, Record<string, unknown>, string, string]>([
    ['the launch address', { launchUrl: 'http://127.0.0.1:9/nowhere', keepScores: true }, '●●●◐◐◐', 'address'],
    ['the custom parameters', { customParameters: { drill: 'other' }, keepScores: true }, '●●●◐◐◐', 'parameters'],
    ['the points', { points: '40', keepScores: true }, '●●●●●◐', 'points'],
    ['nothing that it depends on', { title: 'Another title', instructions: 'Read first.' }, '●●●●●●', ''],
  ])('when %s of its link changed', async (_, body, expected, what) => {
    const id = await proven()
    await changeAssignment(id, body)
    const marks = await proof(id)
    expect(lineOf(marks)).toBe(expected)
    for (const mark of marks.filter((one) => one.state === 'changed'))
      expect(mark.change).toMatchObject({ what, by: 'Ingrid Valesdottir' })
  })

  it('is lit again by new evidence, and by nothing else', async () => {
    const id = await proven()
    await changeAssignment(id, { customParameters: { drill: 'again' }, keepScores: true })
    expect(await line(id)).toBe('●●●◐◐◐')
    await openForm(aino, id)
    expect(await line(id)).toBe('●●●●◐◐')
    await score(id, '0.75')
    expect(await line(id)).toBe('●●●●●●')
  })

  it('of every link of a tool ages with the tool, and of no other tool’s', async () => {
    const other = await registerKnotwork(academy, {
      name: 'Knotwork Annex',
      secondReason: 'a second one',
      consumerKey: 'annex-key',
    })
    const [mine, own] = [await proven(), await proven({ launchUrl: `${academy.knotwork}/launch` })]
    await changeTool('knotwork-annex', { sharedSecret: 'annex-2-hitch-9' })
    expect(await line(mine)).toBe('●●●●●●')
    await changeTool('knotwork-drills', { description: 'For splicing', name: 'Knotwork Drills' })
    expect(await line(mine)).toBe('●●●●●●')
    await changeTool('knotwork-drills', { launchUrl: `${academy.knotwork}/launch?moved=1` })
    // A link with an address of its own does not hang on the tool's.
    expect([await line(mine), await line(own)]).toEqual(['●●●◐◐◐', '●●●●●●'])
    await changeTool('knotwork-drills', { sharedSecret: 'wrong-3-hitch-9' })
    const marks = await proof(own)
    expect(lineOf(marks)).toBe('●●●◐◐◐')
    expect(marks[3]!.change).toMatchObject({ what: 'tool_credentials', by: 'Ingrid Valesdottir' })
    await changeTool('knotwork-drills', { sharedSecret: SECRET, launchUrl: `${academy.knotwork}/launch` })
    expect(other.slug).toBe('knotwork-annex')
  })

  it('says published only where learners can open it now', async () => {
    const unit = await call().call('addUnit', { params: { course: 'HYD-210' }, body: { title: 'Week 9' } })
    const { id } = await publishDrill(academy, 'knotwork-drills', { title: 'In a unit', unit: unit.id })
    expect((await line(id))[2]).toBe('▲')
    expect((await proof(id))[2]!.statement).toContain('unit is hidden')
  })

  it('is counted as what it is, however many there are: the figures of the first page are those of the marks', async () => {
    await proven()
    const { items } = await call().call('listAssignments', { params: { course: 'HYD-210' } })
    const published = items.filter((one) => one.state === 'published')
    const whole = published.filter((one) => lineOf(one.proof) === '●●●●●●')
    const watch = await call().call('showWatch', {})
    expect(watch.publishedCount).toBe(published.length)
    expect(watch.publishedCount - watch.unprovenCount).toBe(whole.length)
    expect(whole.length).toBeGreaterThan(0)
    expect(watch.unproven.map((one) => one.id)).not.toContain(whole[0]!.id)
    expect(watch.unproven.map((one) => one.nextAct).join()).toMatch(
      /(was|were) changed by Ingrid Valesdottir since it was proven\. Run a sounding\./,
    )
    // Far more than one page of them.
    await academy.query(
      `insert into assignment (id, course_id, registration_id, slug, title, instructions, points, state, document_target, custom_parameters, resource_link_id, revision, position,
         published_at, created_at, updated_at, settings_changed_at)
       select 'many' || g, course_id, registration_id, 'many-' || g, 'Many ' || g, '', 10, 'published', document_target, '{}', 'many' || g, 1, g, now(), now(), now(), now()
       from assignment, generate_series(1, 500) g where id = $1`,
      [published[0]!.id],
    )
    const more = await call().call('showWatch', {})
    expect(more.publishedCount).toBe(published.length + 500)
    expect(more.unprovenCount).toBe(watch.unprovenCount + 500)
    expect(more.unproven).toHaveLength(12)
  })

  it('does not go over to another tool', async () => {
    const id = await proven()
    await registerKnotwork(academy, {
      name: 'Knotwork Fourth',
      secondReason: 'to go over to',
      consumerKey: 'fourth-key',
    })
    await call().call('replaceTool', { params: { tool: 'knotwork-drills' }, body: { with: 'knotwork-fourth' } })
    const marks = await proof(id)
    expect(lineOf(marks).slice(3)).toBe('◐◐◐')
    expect(marks[3]!.change!.what).toBe('tool')
  })
})
