import { MARK_SIGNS } from '@bathyscribe/contract'
import { outcomeXml, sendOutcome } from '@bathyscribe/practice-tools'
import { beforeAll, describe, expect, it } from 'vitest'
import { codeOf, KEY, openForm, publishDrill, registerKnotwork, SECRET, startAcademy, type TestAcademy, type Visitor } from './harness.js' // oxfmt-ignore

let academy: TestAcademy
let aino: Visitor
const links: Record<string, string> = {}
const call = () => academy.admin.client
beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  await registerKnotwork(academy, { name: 'Knotwork New', secondReason: 'another key', consumerKey: 'new-key' })
  await call().call('createCourse', { body: { code: 'NAV 120', title: 'Coastal Navigation', categories: ['Drills'] } })
  await academy.person('aino', { 'HYD-210': 'learner' })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  aino = await academy.signIn('aino')
  links['hyd'] = (await publishDrill(academy, 'knotwork-drills', { title: 'Bends' })).id
  links['nav'] = (
    await call().call('createAssignment', {
      params: { course: 'NAV-120' },
      body: { title: 'Hitches', tool: 'knotwork-drills', points: '20', category: 'Drills', publish: true, launchUrl: `${academy.knotwork}/launch?x=1` }, // oxfmt-ignore
    })
  ).id
  await call().call('addMenuEntry', { params: { course: 'HYD-210' }, body: { tool: 'knotwork-drills' } })
  const { fields } = await openForm(aino, links['hyd']!)
  const target = { serviceUrl: `${academy.url}/lti/outcomes`, resultId: fields['lis_result_sourcedid']!, key: KEY, secret: SECRET } // oxfmt-ignore
  expect((await sendOutcome(target, outcomeXml('replaceResult', target.resultId, '0.5'))).codeMajor).toBe('success')
})

const params = { tool: 'knotwork-drills' }
const preview = (body: object) => call().call('previewReplacement', { params, body: body as never })
const replace = (body: object) => call().call('replaceTool', { params, body: body as never })
const past = async () => (await call().call('listReplacements', { params })).items
const undo = (id: string) => call().call('undoReplacement', { params: { ...params, id } })
const toolOf = async (link: string) =>
  (await call().call('showAssignment', { params: { assignment: links[link]! } })).tool.slug
const line = async (link: string) =>
  (await call().call('showAssignment', { params: { assignment: links[link]! } })).proof
    .map((mark) => MARK_SIGNS[mark.state])
    .join('')
const shelf = (change: object) =>
  call().call('registerTool', { body: { consumerKey: `k${Math.random()}`, sharedSecret: SECRET, launchUrl: 'https://shelf.example/launch', ...change } as never }) // oxfmt-ignore

describe('replacing a tool', () => {
  it('is looked at first, and changes nothing by that', async () => {
    const { courses, remarks, retires } = await preview({ with: 'knotwork-new' })
    expect(courses.map(({ course, ...row }) => [course.code, row.assignments, row.menuEntries, row.results])).toEqual([
      ['HYD 210', 1, 1, 1],
      ['NAV 120', 1, 0, 0],
    ])
    expect([remarks.map((one) => one.statement), retires]).toEqual([['1 links have an address of their own, which they keep.'], true]) // oxfmt-ignore
    expect([await toolOf('hyd'), await past()]).toEqual(['knotwork-drills', []])
  })

  it('says what speaks against it: another vendor, no scores, not offered, not enabled', async () => {
    await shelf({ name: 'Shelf', features: [] })
    const told = (await preview({ with: 'shelf' })).remarks.map((one) => `${one.verdict} ${one.statement}`)
    expect(told).toEqual([
      expect.stringMatching(/^warn .*127\.0\.0\.1.*shelf\.example/),
      'warn “Shelf” returns no scores; 2 published assignments are counted.',
      expect.stringMatching(/^warn 1 links have an address/),
    ])
    await shelf({ name: 'Only there', offer: 'named', offeredTo: ['HYD-210'] })
    expect(await codeOf(replace({ with: 'only-there' }))).toBe('tool.replace_mismatch')
    expect((await preview({ with: 'only-there', course: 'HYD-210' })).remarks.filter((one) => one.verdict === 'fail')).toEqual([]) // oxfmt-ignore
    await shelf({ name: 'Not yet', enable: false })
    expect(await codeOf(replace({ with: 'not-yet' }))).toBe('tool.replace_mismatch')
    expect(await codeOf(replace({ with: 'knotwork-drills' }))).toBe('tool.replace_itself')
    expect(await codeOf(preview({ with: 'shelf', course: 'NO-1' }))).toBe('course.not_found')
    expect(await toolOf('hyd')).toBe('knotwork-drills')
  })

  it('one course first: the others and the registration stay, scores stay, the proof is to be proven anew', async () => {
    expect(await line('hyd')).toBe('●●●●●●')
    await replace({ with: 'knotwork-new', course: 'HYD-210' })
    expect([await toolOf('hyd'), await toolOf('nav')]).toEqual(['knotwork-new', 'knotwork-drills'])
    expect((await call().call('showTool', { params })).state).toBe('enabled')
    expect(await line('hyd')).toBe('●●●◐◐◐')
    const menu = await call().call('listMenu', { params: { course: 'HYD-210' } })
    expect(menu.items.map((one) => one.tool.slug)).toEqual(['knotwork-new'])
    const book = await call().call('showGradebook', { params: { course: 'HYD-210' } })
    expect(Object.values(book.rows[0]!.cells).map((cell) => cell.points)).toEqual(['50'])
  })

  it('is taken back: what still is there goes back, what was moved on since stays', async () => {
    const [one] = await past()
    expect(one).toMatchObject({ links: 2, still: 2, by: 'Ingrid Valesdottir', course: { code: 'HYD 210' } })
    const { revision } = await call().call('showAssignment', { params: { assignment: links['hyd']! } })
    await call().call('changeAssignment', {
      params: { assignment: links['hyd']! },
      body: { revision, tool: 'shelf', keepScores: true },
    })
    expect((await past())[0]).toMatchObject({ links: 2, still: 1 })
    const answers = await Promise.all([codeOf(undo(one!.id)), codeOf(undo(one!.id))])
    expect(answers.sort()).toEqual(['tool.replacement_undone', undefined])
    expect(await toolOf('hyd')).toBe('shelf')
    const menu = await call().call('listMenu', { params: { course: 'HYD-210' } })
    expect(menu.items.map((entry) => entry.tool.slug)).toEqual(['knotwork-drills'])
    expect(await codeOf(undo('nothinglikeit'))).toBe('tool.replacement_unknown')
  })

  it('of all courses retires the registration, and taken back enables it again', async () => {
    await replace({ with: 'knotwork-new' })
    expect(await call().call('showTool', { params })).toMatchObject({
      state: 'retired',
      replacedBy: { slug: 'knotwork-new' },
    })
    await undo((await past())[0]!.id)
    expect(await call().call('showTool', { params })).toMatchObject({ state: 'enabled', replacedBy: null })
    expect(await toolOf('nav')).toBe('knotwork-drills')
    const acts = (await call().call('listAudit', {})).items.slice(0, 2).map((one) => one.action)
    expect(acts).toEqual(['take replacement back', 'replace tool'])
  })

  it('is for administrators', async () => {
    const tomas = await academy.signIn('tomas')
    for (const name of ['previewReplacement', 'replaceTool'] as const)
      expect(await codeOf(tomas.client.call(name, { params, body: { with: 'knotwork-new' } }))).toBe('access.denied')
  })
})

describe('other points of a column that has scores', () => {
  it('are a line of the gradebook’s history and of each trail, with who did it and how many results there were', async () => {
    await call().call('changeCourse', { params: { course: 'HYD-210' }, body: {} })
    const drill = (await publishDrill(academy, 'knotwork-drills', { title: 'Recounted', points: '10' })).id
    const change = async (body: object) => {
      const { revision } = await call().call('showAssignment', { params: { assignment: drill } })
      return call().call('changeAssignment', { params: { assignment: drill }, body: { revision, ...body } as never })
    }
    const history = () => call().call('listScores', { params: { course: 'HYD-210' }, query: { assignment: drill } })
    await change({ points: '20' })
    expect((await history()).changes).toEqual([])
    const { fields } = await openForm(aino, drill)
    const target = { serviceUrl: `${academy.url}/lti/outcomes`, resultId: fields['lis_result_sourcedid']!, key: KEY, secret: SECRET } // oxfmt-ignore
    await sendOutcome(target, outcomeXml('replaceResult', target.resultId, '0.5'))
    expect(await codeOf(change({ points: '100' }))).toBe('assignment.has_scores')
    const tomas = await academy.signIn('tomas')
    const { revision } = await tomas.client.call('showAssignment', { params: { assignment: drill } })
    await tomas.client.call('changeAssignment', {
      params: { assignment: drill },
      body: { revision, points: '100', counting: 'best', keepScores: true },
    })
    const told = { pointsBefore: '20', pointsAfter: '100', countingBefore: 'latest', countingAfter: 'best', results: 1, by: 'Tomas Testmann' } // oxfmt-ignore
    expect((await history()).changes).toMatchObject([told])
    const trail = await call().call('showTrail', { params: { assignment: drill, person: 'aino' } })
    expect([trail.cell.points, trail.changes]).toMatchObject(['50', [told]])
    const refused = await call().call('listScores', { params: { course: 'HYD-210' }, query: { outcome: 'refused' } })
    expect(refused.changes).toEqual([])
    // After a restore, transactions are numbered anew: the audit entry of another time is not of this act.
    await academy.query(
      `update audit_entry x set at = x.at - interval '1 day' from column_change d where d.xact = x.xact and d.assignment_id = $1`,
      [drill],
    )
    expect((await history()).changes).toMatchObject([{ ...told, by: null }])
  })

  it('stand on the page in whose time they fell', async () => {
    const drill = (await publishDrill(academy, 'knotwork-drills', { title: 'Paged', points: '10' })).id
    const { fields } = await openForm(aino, drill)
    const target = { serviceUrl: `${academy.url}/lti/outcomes`, resultId: fields['lis_result_sourcedid']!, key: KEY, secret: SECRET } // oxfmt-ignore
    for (const [n, points] of [20, 30].entries()) {
      await sendOutcome(target, outcomeXml('replaceResult', target.resultId, `0.${n + 1}`))
      const { revision } = await call().call('showAssignment', { params: { assignment: drill } })
      await call().call('changeAssignment', { params: { assignment: drill }, body: { revision, points: String(points), keepScores: true } }) // oxfmt-ignore
    }
    await sendOutcome(target, outcomeXml('replaceResult', target.resultId, '0.9'))
    const seen: (string | undefined)[][] = []
    let cursor: string | undefined
    do {
      const page = await call().call('listScores', {
        params: { course: 'HYD-210' },
        query: { assignment: drill, limit: 1, cursor },
      })
      seen.push([page.items[0]?.sent ?? undefined, ...page.changes.map((one) => one.pointsAfter)])
      cursor = page.next ?? undefined
    } while (cursor !== undefined)
    expect(seen).toEqual([['0.9'], ['0.2', '30'], ['0.1', '20']])
  })
})
