import { readResultId, writeResultId } from '@bathyscribe/core/lti1'
import { beforeAll, describe, expect, it } from 'vitest'
import type { Link } from '../src/records/statements/links.js'
import { openForm, publishDrill, registerKnotwork, sendScore, startAcademy, type TestAcademy } from './harness.js'
import { statementsOf } from './statements.js'

let academy: TestAcademy
let assignment: string
const people: Record<string, string> = {}
const params = { course: 'HYD-210' }

beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  assignment = (await publishDrill(academy, 'knotwork-drills')).id
  people['aino'] = await academy.person('aino', { 'HYD-210': 'learner' })
  people['tomas'] = await academy.person('tomas', { 'HYD-210': 'instructor' })
  people['niamh'] = await academy.person('niamh', { 'HYD-210': 'learner' })
  people['stranger'] = await academy.person('stranger')
  await academy.admin.client.call('changeEnrolment', {
    params: { ...params, person: 'niamh' },
    body: { state: 'dropped' },
  })
})

const statements = () => academy.service.context.statements
/** What a score has to know, of the link that a launch knows all of. */
function reduced(link: Link | undefined) {
  if (!link) return undefined
  const { resource, course, registration, person, enrolment } = link
  const { id, name, state, version, consumerKey, secretSealed, signatureMethod, scoresWhileSuspended } = registration
  return {
    resource: { kind: resource.kind, id: resource.id, points: resource.points },
    course: { id: course.id },
    registration: { id, name, state, version, consumerKey, secretSealed, signatureMethod, scoresWhileSuspended },
    person: { id: person.id },
    enrolment,
  }
}
async function both(linkId: string, personId: string) {
  const asked = { linkId, personId }
  const [scored, link] = await Promise.all([statements().findScored(asked), statements().findLink(asked)])
  return { scored, link }
}

describe('what is looked up for a score', () => {
  it('is of learner, instructor, who was dropped and who was never there what a launch would find', async () => {
    for (const [who, enrolment] of [
      ['aino', { role: 'learner', state: 'active' }],
      ['tomas', { role: 'instructor', state: 'active' }],
      ['niamh', { role: 'learner', state: 'dropped' }],
      ['stranger', undefined],
    ] as const) {
      const { scored, link } = await both(assignment, people[who]!)
      expect(scored, who).toEqual(reduced(link))
      expect(scored!.enrolment, who).toEqual(enrolment)
    }
  })

  it('is nothing where person or link is not there, and a menu entry is told as one', async () => {
    expect(await both(assignment, 'nobody')).toEqual({ scored: undefined, link: undefined })
    expect(await both('nothing', people['aino']!)).toEqual({ scored: undefined, link: undefined })
    const menu = await academy.admin.client.call('addMenuEntry', { params, body: { tool: 'knotwork-drills', label: 'Drills' } }) // oxfmt-ignore
    const { scored } = await both(menu.id, people['aino']!)
    expect(scored).toMatchObject({ resource: { kind: 'menu', id: menu.id } })
  })

  it('is nothing of an assignment that was deleted, and of a draft what there is', async () => {
    const draft = await publishDrill(academy, 'knotwork-drills', { title: 'Draft', publish: false })
    expect((await both(draft.id, people['aino']!)).scored).toMatchObject({ resource: { id: draft.id, points: '100' } })
    await academy.admin.client.call('deleteAssignment', { params: { assignment: draft.id } })
    expect(await both(draft.id, people['aino']!)).toEqual({ scored: undefined, link: undefined })
  })

  it('takes one question for as many as come at once', async () => {
    const asked = Object.values(people).map((personId) => ({ linkId: assignment, personId }))
    const sent = await statementsOf(() => Promise.all(asked.map((one) => statements().findScored(one))))
    expect(sent).toHaveLength(1)
  })
})

describe('the secrets that a tool may sign by', () => {
  it('are its own, the next, and the previous until it ends; of many questions at once each is asked once', async () => {
    const { client } = academy.admin
    const tool = await client.call('showTool', { params: { tool: 'knotwork-drills' } })
    const secretOf = async () => (await academy.query<{ sealed: Buffer }>('select secret_sealed as sealed from registration where id = $1', [tool.id]))[0]!.sealed // oxfmt-ignore
    const own = await secretOf()
    expect(await statements().findSecrets(tool.id)).toEqual({ current: own, others: [] })
    await academy.query(
      `insert into other_secret (id, registration_id, sealed, role, set_at, ends_at) values
       ('o-next', $1, '\\x01', 'next', now(), null), ('o-old', $1, '\\x02ff', 'previous', now() - interval '1 day', now() + interval '1 day'),
       ('o-gone', $1, '\\x03', 'previous', now() - interval '9 days', now() - interval '1 day')`,
      [tool.id],
    )
    const { others } = await statements().findSecrets(tool.id)
    expect(others.map(({ id, registrationId, role }) => [id, registrationId, role])).toEqual([['o-next', tool.id, 'next'], ['o-old', tool.id, 'previous']]) // oxfmt-ignore
    expect(others[1]!.sealed).toEqual(Buffer.from([2, 255]))
    expect(others[1]!.endsAt!.getTime()).toBeGreaterThan(Date.now())
    const ask = () => Promise.all([tool.id, 'nobody', tool.id].map((id) => statements().findSecrets(id)))
    expect((await ask()).map((one) => one.others.length)).toEqual([2, 0, 2])
    const [sent] = await Promise.all([statementsOf(ask)])
    expect(sent).toHaveLength(1)
    await academy.query(`delete from other_secret where registration_id = $1`, [tool.id])
  })
})

describe('a score by it', () => {
  it('is refused when its course has gone since the launch, as any other that is unknown', async () => {
    await academy.admin.client.call('createCourse', { body: { code: 'NAV 120', title: 'Coastal Navigation' } })
    await academy.admin.client.call('enrol', { params: { course: 'NAV-120' }, body: { person: 'aino', role: 'learner' } }) // oxfmt-ignore
    const { id } = await academy.admin.client.call('createAssignment', {
      params: { course: 'NAV-120' },
      body: { title: 'Gone', tool: 'knotwork-drills', points: '10', publish: true },
    })
    const { fields } = await openForm(await academy.signIn('aino'), id)
    const resultId = fields['lis_result_sourcedid']!
    expect(await sendScore(academy, resultId, '0.5')).toMatchObject({ codeMajor: 'success' })
    await academy.admin.client.call('setCourseState', { params: { course: 'NAV-120' }, body: { state: 'deleted' } })
    const { codeMajor, description } = await sendScore(academy, resultId, '0.5')
    expect([codeMajor, description.split(':')[0]]).toEqual(['failure', 'outcomes.result_id_unknown'])
    const { resultIdKey } = academy.service.context.keys
    const target = readResultId(resultIdKey, resultId)!
    expect(writeResultId(resultIdKey, target)).toBe(resultId)
    expect(await both(target.linkId, target.personId)).toEqual({ scored: undefined, link: undefined })
  })
})
