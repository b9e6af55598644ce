import { decodeJwt } from 'jose'
import { beforeAll, describe, expect, it } from 'vitest'
import { eventually } from '../../../test/eventually.js'
import { launch13 } from './harness-13.js'
import { SCOPES_13, startScoring, type Scoring } from './scoring-13.js'

const MEMBERSHIP = 'http://purl.imsglobal.org/vocab/lis/v2/membership'
let at: Scoring
beforeAll(async () => {
  at = await startScoring({ disclosure: 'name' })
})
const linkOf = async (assignment: string) =>
  (
    await at.academy.query<{ link: string }>('select resource_link_id as link from assignment where id = $1', [
      assignment,
    ])
  )[0]!.link
interface Roster {
  id: string
  context: Record<string, string>
  members: Record<string, unknown>[]
}
const read = (query = '') => at.call<Roster>('GET', query.startsWith('http') ? query : `memberships${query}`)
const names = (roster: Roster) => roster.members.map((one) => one['name'] as string).sort()
const rel = (link: string, name: string) => new RegExp(`<([^>]+)>; rel="${name}"`).exec(link)?.[1]

describe('the roster that a tool reads', () => {
  it('is everybody who is in the course, with no more than the registration allows, without the test learner', async () => {
    const { status, type, body } = await read()
    expect(status).toBe(200)
    expect(type).toContain('application/vnd.ims.lti-nrps.v2.membershipcontainer+json')
    expect(body.context).toMatchObject({ label: 'HYD 210' })
    expect(names(body)).toEqual(['Aino Testmann', 'Bo Testmann', 'Cyd Testmann', 'Tomas Testmann'])
    const aino = body.members.find((one) => one['user_id'] === at.subjects['aino'])!
    expect(aino).toMatchObject({ status: 'Active', name: 'Aino Testmann' })
    expect(aino['roles']).toContain(`${MEMBERSHIP}#Learner`)
    expect(aino).not.toHaveProperty('email')
  })

  it('is filtered by role, full or short, and empty for roles that nobody has', async () => {
    for (const role of [`${MEMBERSHIP}#Instructor`, 'Instructor'])
      expect(names((await read(`?role=${encodeURIComponent(role)}`)).body)).toEqual(['Tomas Testmann'])
    expect((await read('?role=Mentor')).body.members).toEqual([])
  })

  it('comes in pages that miss nobody and name nobody twice', async () => {
    const seen: string[] = []
    let next: string | undefined = '?limit=2'
    while (next) {
      const page = await read(next)
      expect(page.body.members.length).toBeLessThanOrEqual(2)
      seen.push(...names(page.body))
      next = rel(page.link, 'next')
    }
    expect(seen.sort()).toEqual(['Aino Testmann', 'Bo Testmann', 'Cyd Testmann', 'Tomas Testmann'])
  })

  it('says what changed since: who came, who changed the name, who left', async () => {
    // What others have open on the same server lets a mark reach further back: this one is past all that was done before.
    const since = await eventually(async () => {
      const mark = rel((await read()).link, 'differences')!
      expect((await read(mark)).body.members).toEqual([])
      return mark
    })
    await at.academy.person('dov', { 'HYD-210': 'learner' })
    await at.academy.admin.client.call('changeEnrolment', {
      params: { course: 'HYD-210', person: 'bo' },
      body: { state: 'dropped' },
    })
    await at.academy.admin.client.call('changePerson', { params: { person: 'cyd' }, body: { fullName: 'Cyd Renamed' } })
    const { body } = await read(since)
    expect(body.members.map((one) => [one['name'] ?? one['user_id'], one['status']]).sort()).toEqual(
      [
        ['Dov Testmann', 'Active'],
        [at.subjects['bo'], 'Deleted'],
        ['Cyd Renamed', 'Active'],
      ].sort(),
    )
    expect(names((await read()).body)).not.toContain('Bo Testmann')
  })

  it('for a link says what its launch would say of each', async () => {
    const assignment = await at.make('By link', {
      customParameters: { who: '$Person.name.full', mail: '$Person.email.primary', part: '3' },
    })
    const { body } = await read(`?rlid=${await linkOf(assignment)}`)
    const aino = body.members.find((one) => one['user_id'] === at.subjects['aino'])!
    const [message] = aino['message'] as Record<string, unknown>[]
    expect(message!['https://purl.imsglobal.org/spec/lti/claim/custom']).toEqual({
      who: 'Aino Testmann',
      mail: '',
      part: '3',
    })
    // Word for word what the launch says: a tool that works deadlines out beforehand meets the same ones later.
    const dated = await at.make('Dated', {
      instructions: '<p>Bring a <b>pencil</b>.</p>',
      dueAt: '2026-12-14T11:00:00.000Z',
      closesAt: '2026-12-15T11:00:00.000Z',
      customParameters: {
        due: '$ResourceLink.submission.endDateTime',
        closes: '$ResourceLink.available.endDateTime',
        says: '$ResourceLink.description',
        begins: '$CourseSection.timeFrame.begin',
        user: '$User.username',
        id: '$ResourceLink.id',
        role: '$Membership.role',
      },
    })
    await at.academy.query(`update course set starts_at = '2026-08-17T00:00:00Z' where code = 'HYD 210'`)
    const { fields } = await launch13(at.aino, dated, at.client)
    const launched = decodeJwt(fields['id_token']!)
    const same = (await read(`?rlid=${await linkOf(dated)}`)).body.members.find(
      (one) => one['user_id'] === at.subjects['aino'],
    )!
    const custom = 'https://purl.imsglobal.org/spec/lti/claim/custom'
    expect((same['message'] as Record<string, unknown>[])[0]![custom]).toEqual(launched[custom])
    expect(launched[custom]).toMatchObject({ due: '2026-12-14T11:00:00.000Z', says: 'Bring a pencil.', begins: '2026-08-17T00:00:00.000Z' }) // oxfmt-ignore
    expect(await read('?rlid=not-ours')).toMatchObject({ status: 400, body: { error: 'roster.foreign_link' } })
  })

  it('for a link names only those whom its assignment is for', async () => {
    const id = await at.make('For one')
    const { revision } = await at.tomas.client.call('showAssignment', { params: { assignment: id } })
    const person = (await at.academy.query<{ id: string }>(`select id from person where username = 'aino'`))[0]!.id
    await at.tomas.client.call('changeAssignment', {
      params: { assignment: id },
      body: { audience: { groups: [], people: [person] }, revision },
    })
    const link = await linkOf(id)
    const { body } = await read(`?rlid=${link}`)
    expect(names(body).sort()).toEqual(['Aino Testmann', 'Tomas Testmann'])
    expect(names((await read(`?rlid=${link}&role=Learner`)).body)).toEqual(['Aino Testmann'])
    expect(names((await read()).body).length).toBeGreaterThan(2)
  })

  it('names the test learner only when the registration asks for it, and nobody without the scope', async () => {
    expect((await read('?since=abc')).status).toBe(400)
    await at.academy.query(`update registration set roster_test_learner = true where client_id = $1`, [at.clientId])
    const roles = (await read()).body.members.flatMap((one) => one['roles'] as string[])
    expect(roles).toContain('http://purl.imsglobal.org/vocab/lti/system/person#TestUser')
    const bearer = await at.token(SCOPES_13.score)
    expect((await at.call('GET', 'memberships', undefined, { bearer })).status).toBe(403)
  })

  it('is not read from another course', async () => {
    const other = await at.academy.admin.client.call('createCourse', {
      body: { code: 'NAV 120', title: 'Navigation', categories: [] },
    })
    expect(await at.call('GET', `${at.academy.url}/lti/courses/${other.id}/memberships`)).toMatchObject({
      status: 404,
      body: { error: 'service_token.other_course' },
    })
  })
})
