import { beforeAll, describe, expect, it } from 'vitest'
import {
  codeOf,
  openForm,
  publishDrill,
  registerKnotwork,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'

let academy: TestAcademy
let tomas: Visitor
let aino: Visitor
let bjarte: Visitor
const course = { course: 'HYD-210' }
beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  await academy.person('aino', { 'HYD-210': 'learner' })
  await academy.person('bjarte', { 'HYD-210': 'learner' })
  tomas = await academy.signIn('tomas')
  aino = await academy.signIn('aino')
  bjarte = await academy.signIn('bjarte')
})

describe('whom an assignment is for, and when', () => {
  const launch = async (who: Visitor, id: string) => (await openForm(who, id)).status
  it('a group’s assignment is met by its members only', async () => {
    const set = await tomas.client.call('addGroupSet', {
      params: course,
      body: { name: 'Watches', table: 'group,person\nRed,aino' },
    })
    expect(set).toMatchObject({ groups: [{ name: 'Red', members: [{ username: 'aino' }] }], without: 1 })
    const one = await publishDrill(academy, 'knotwork-drills', { title: 'For red', audience: { groups: ['Red'] } })
    expect(one.audience).toMatchObject({ groups: [{ name: 'Watches: Red', members: 1 }], reached: 1 })
    expect(one.preflight.map((remark) => remark.rule)).toContain('everyone_reached')
    expect(await launch(aino, one.id)).toBe(200)
    expect(await launch(bjarte, one.id)).toBe(404)
    expect(await codeOf(bjarte.client.call('showWork', { params: { assignment: one.id } }))).toBe(
      'assignment.not_found',
    )
    expect((await bjarte.client.call('listWork', { params: course })).items.map((work) => work.title)).not.toContain(
      'For red',
    )
    expect((await openForm(bjarte, one.id)).page).toContain('given to other learners')
    expect(await codeOf(tomas.client.call('removeGroupSet', { params: { ...course, groupSet: set.id } }))).toBe(
      'group.in_use',
    )
    await tomas.client.call('changeAssignment', {
      params: { assignment: one.id },
      body: { revision: one.revision, audience: { people: ['bjarte'] } },
    })
    expect([await launch(aino, one.id), await launch(bjarte, one.id)]).toEqual([404, 200])
    await tomas.client.call('removeGroupSet', { params: { ...course, groupSet: set.id } })
  })

  it('opens and closes by the clock, for learners; instructors get in', async () => {
    const hour = (n: number) => new Date(Date.now() + n * 3600_000).toISOString()
    const one = await publishDrill(academy, 'knotwork-drills', {
      title: 'By the clock',
      opensAt: hour(1),
      dueAt: hour(2),
      closesAt: hour(3),
    })
    expect([await launch(aino, one.id), await launch(tomas, one.id)]).toEqual([409, 200])
    expect(await aino.client.call('showWork', { params: { assignment: one.id } })).toMatchObject({
      openable: false,
      obstacle: 'It is not open yet.',
    })
    academy.clock.offsetMs = 1.5 * 3600_000
    expect(await launch(aino, one.id)).toBe(200)
    expect((await aino.client.call('listDue', {})).items.map((item) => item.assignment.title)).toContain('By the clock')
    academy.clock.offsetMs = 4 * 3600_000
    expect((await openForm(aino, one.id)).page).toContain('It is closed')
    academy.clock.offsetMs = 0
  })
})

describe('an assignment’s life', () => {
  it('is copied with its content and without its column, deleted with its scores kept, and brought back', async () => {
    const one = await publishDrill(academy, 'knotwork-drills', {
      title: 'Original',
      customParameters: { drill: 'bends' },
    })
    const copy = await tomas.client.call('copyAssignment', { params: { assignment: one.id } })
    expect(copy).toMatchObject({
      title: 'Original (copy)',
      state: 'draft',
      customParameters: { drill: 'bends' },
      scores: 0,
    })
    expect(copy.resourceLinkId).not.toBe(one.resourceLinkId)
    expect(copy.preflight.map((remark) => remark.rule)).toEqual(expect.arrayContaining(['same_content', 'told_apart']))

    expect(await tomas.client.call('deleteAssignment', { params: { assignment: one.id } })).toMatchObject({
      state: 'deleted',
    })
    expect(await codeOf(tomas.client.call('publishAssignment', { params: { assignment: one.id } }))).toBe(
      'assignment.not_found',
    )
    expect((await openForm(aino, one.id)).status).toBe(404)
    expect(await codeOf(aino.client.call('showAssignment', { params: { assignment: one.id } }))).toBe(
      'assignment.not_found',
    )
    expect((await tomas.client.call('listAssignments', { params: course })).items.map((each) => each.id)).not.toContain(
      one.id,
    )
    expect(await tomas.client.call('restoreAssignment', { params: { assignment: one.id } })).toMatchObject({
      state: 'published',
    })
    expect((await openForm(aino, one.id)).status).toBe(200)
    expect(await codeOf(tomas.client.call('restoreAssignment', { params: { assignment: one.id } }))).toBe(
      'assignment.not_deleted',
    )
  })

  it('publishes the unit that hides it with it, and nothing else of that unit; what stood there before is noted once', async () => {
    const unit = async (title: string) =>
      (await tomas.client.call('addUnit', { params: course, body: { title, published: false } })).id
    const published = async (id: string) =>
      (await tomas.client.call('showOutline', { params: course })).units.find((one) => one.id === id)!
    const [first, second] = [await unit('Hidden 1'), await unit('Hidden 2')]
    const quiet = await publishDrill(academy, 'knotwork-drills', {
      title: 'Stays a draft',
      unit: first,
      publish: false,
    })
    const made = await publishDrill(academy, 'knotwork-drills', { title: 'Hidden', unit: first })
    expect(made.preflight.map((one) => one.rule)).toContain('unit_published')
    expect((await published(first)).published).toBe(false)
    const at = { params: { assignment: made.id } }
    // It is published already: its unit is all that is left to do, and a second time nothing.
    for (let n = 0; n < 2; n++)
      expect(await tomas.client.call('publishAssignment', { ...at, body: { publishUnit: true } })).toMatchObject({ unit: { published: true } }) // oxfmt-ignore
    const now = await published(first)
    expect([now.published, now.items.find((one) => one.assignment?.id === quiet.id)!.published]).toEqual([true, false])
    const { items } = await academy.admin.client.call('listAudit', { query: { limit: 100 } })
    expect(items.filter((one) => one.subject === 'unit Hidden 1' && one.action === 'change unit')).toHaveLength(1)

    const question = { tool: 'knotwork-drills', title: 'X', points: '10', unit: second, publish: true }
    const rules = async (publishUnit: boolean) =>
      (await tomas.client.call('preflightAssignment', { params: course, body: { ...question, publishUnit } })).remarks.map((one) => one.rule) // oxfmt-ignore
    expect(await rules(false)).toContain('unit_published')
    expect(await rules(true)).not.toContain('unit_published')
    await publishDrill(academy, 'knotwork-drills', {
      title: 'A draft',
      unit: second,
      publish: false,
      publishUnit: true,
    })
    expect((await published(second)).published).toBe(false)
    await publishDrill(academy, 'knotwork-drills', { title: 'With it', unit: second, publishUnit: true })
    expect((await published(second)).published).toBe(true)
    // One in no unit is published as ever.
    const loose = await publishDrill(academy, 'knotwork-drills', { title: 'In none', publish: false })
    const of = { params: { assignment: loose.id }, body: { publishUnit: true } }
    expect(await tomas.client.call('publishAssignment', of)).toMatchObject({ state: 'published', unit: null })
  })

  it('two who publish one with its unit at once: it is done once, and the later is told or finds it done', async () => {
    const { id: unit } = await tomas.client.call('addUnit', {
      params: course,
      body: { title: 'Raced', published: false },
    })
    const one = await publishDrill(academy, 'knotwork-drills', { title: 'Raced', unit, publish: false })
    const go = () =>
      codeOf(tomas.client.call('publishAssignment', { params: { assignment: one.id }, body: { publishUnit: true } }))
    const ends = await Promise.all([go(), go()])
    expect(ends).toContain(undefined)
    for (const end of ends) expect([undefined, 'record.changed_meanwhile']).toContain(end)
    expect(await tomas.client.call('showAssignment', { params: { assignment: one.id } })).toMatchObject({ state: 'published', unit: { published: true } }) // oxfmt-ignore
  })

  it('two who change one at once: the later is told and nothing of it is kept', async () => {
    const one = await publishDrill(academy, 'knotwork-drills', { title: 'Contested' })
    const change = (title: string) =>
      codeOf(
        tomas.client.call('changeAssignment', {
          params: { assignment: one.id },
          body: { revision: one.revision, title },
        }),
      )
    expect((await Promise.all([change('A'), change('B')])).sort()).toEqual(
      ['record.changed_meanwhile', undefined].sort(),
    )
  })

  it('publishing while the tool is deleted ends with one of the two, never with a published assignment on nothing', async () => {
    await registerKnotwork(academy, { name: 'Short-lived', consumerKey: 'short' })
    const one = await publishDrill(academy, 'short-lived', { title: 'On nothing', publish: false })
    await Promise.all([
      codeOf(academy.admin.client.call('deleteTool', { params: { tool: 'short-lived' } })),
      codeOf(tomas.client.call('publishAssignment', { params: { assignment: one.id } })),
    ])
    const after = await tomas.client.call('showAssignment', { params: { assignment: one.id } })
    expect(after.proof[0]!.state).toBe('broken')
    expect((await openForm(aino, one.id)).status).toBeGreaterThanOrEqual(400)
  })

  it('releasing to a group while the group is removed ends with one of the two told, never with our own fault', async () => {
    for (let round = 0; round < 6; round++) {
      const set = await tomas.client.call('addGroupSet', {
        params: course,
        body: { name: `Fleeting ${round}`, table: 'group,person\nBlue,aino' },
      })
      const one = await publishDrill(academy, 'knotwork-drills', { title: `Fleeting ${round}` })
      const [removed, released] = await Promise.all([
        codeOf(tomas.client.call('removeGroupSet', { params: { ...course, groupSet: set.id } })),
        codeOf(
          tomas.client.call('changeAssignment', {
            params: { assignment: one.id },
            body: { revision: one.revision, audience: { groups: [set.groups[0]!.id] } },
          }),
        ),
      ])
      expect([undefined, 'group.in_use', 'record.changed_meanwhile']).toContain(removed)
      expect([undefined, 'group.not_found', 'record.changed_meanwhile']).toContain(released)
      expect(removed === undefined).not.toBe(released === undefined)
    }
  })

  it('0 points only for what is not counted; a warning is accepted with a reason, which is kept', async () => {
    const body = { title: 'For fun', tool: 'knotwork-drills', points: '0', publish: true }
    expect(await codeOf(tomas.client.call('createAssignment', { params: course, body }))).toBe('assignment.preflight')
    const fun = await tomas.client.call('createAssignment', { params: course, body: { ...body, counted: false } })
    expect(fun).toMatchObject({ counted: false, state: 'published' })
    const bare = await tomas.client.call('createAssignment', {
      params: course,
      body: { title: 'No category', tool: 'knotwork-drills', points: '5' },
    })
    const accept = (rule: string) =>
      tomas.client.call('acceptWarning', {
        params: { assignment: bare.id },
        body: { rule, reason: 'Counted by hand this term' },
      })
    const accepted = await accept('category_set')
    expect(accepted.preflight.find((one) => one.rule === 'category_set')!.accepted).toMatchObject({
      reason: 'Counted by hand this term',
      by: 'Tomas Testmann',
    })
    expect(await codeOf(accept('points_above_zero'))).toBe('assignment.not_accepted')
    const { items } = await tomas.client.call('preflightCourse', { params: course })
    expect(
      items.find((one) => one.id === bare.id)!.remarks.find((one) => one.rule === 'category_set')!.accepted,
    ).not.toBeNull()
  })

  it('lets a warning stand as long as its rule finds the same, and asks anew when it finds more', async () => {
    const body = { title: 'Twins of the tide', tool: 'knotwork-drills', points: '5', category: 'Drills' }
    const make = () => tomas.client.call('createAssignment', { params: course, body })
    const [first] = [await make(), await make()]
    const remark = async () =>
      (await tomas.client.call('showAssignment', { params: { assignment: first.id } })).preflight.find(
        (one) => one.rule === 'title_alone',
      )!
    await tomas.client.call('acceptWarning', {
      params: { assignment: first.id },
      body: { rule: 'title_alone', reason: 'One for each watch' },
    })
    expect(await remark()).toMatchObject({ facts: { others: 1 }, accepted: { reason: 'One for each watch' } })
    await tomas.client.call('changeAssignment', {
      params: { assignment: first.id },
      body: { revision: first.revision, points: '7' },
    })
    expect((await remark()).accepted).not.toBeNull()
    await make()
    expect(await remark()).toMatchObject({ facts: { others: 2 }, accepted: null })
  })
})
