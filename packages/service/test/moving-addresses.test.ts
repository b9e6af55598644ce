import { MARK_SIGNS } from '@bathyscribe/contract'
import { beforeAll, describe, expect, it } from 'vitest'
import { codeOf, openForm, publishDrill, startAcademy, type TestAcademy } from './harness.js'
import { questionsOf } from './statements.js'

const OLD = 'https://drills.example'
const NEW = 'https://knots.example/drills'
let academy: TestAcademy
const call = () => academy.admin.client
const params = { tool: 'rope-work' }
const links: Record<string, string> = {}

beforeAll(async () => {
  academy = await startAcademy()
  await call().call('registerTool', {
    body: {
      name: 'Rope Work',
      consumerKey: 'rope',
      sharedSecret: 'halyard-3-bowline',
      launchUrl: `${OLD}/launch`,
      placements: [{ place: 'course_menu', launchUrl: `${OLD}/menu` }],
    },
  })
  await call().call('createCourse', { body: { code: 'NAV 120', title: 'Coastal Navigation', categories: ['Drills'] } })
  const make = async (title: string, course: string, launchUrl?: string) => {
    const { id } = await call().call('createAssignment', {
      params: { course },
      body: { title, tool: 'rope-work', points: '10', category: 'Drills', publish: true, ...(launchUrl && { launchUrl }) }, // oxfmt-ignore
    })
    links[title] = id
  }
  await make('Plain', 'HYD-210')
  await make('Bends', 'HYD-210', `${OLD}/launch?drill=bends&x=%7e`)
  await make('Hitches', 'NAV-120', `${OLD}/launch?drill=hitches`)
  await make('Elsewhere', 'NAV-120', 'https://drills.example.org/launch')
  await academy.query(`update assignment set review_url = $2, reviewable = true where id = $1`, [
    links['Bends'],
    `${OLD}/review`,
  ])
  await call().call('addMenuEntry', { params: { course: 'HYD-210' }, body: { tool: 'rope-work', launchUrl: `${OLD}/menu` } }) // oxfmt-ignore
})

const preview = (body: object) => call().call('previewAddressMove', { params, body: body as never })
const move = (body: object) => call().call('moveAddresses', { params, body: body as never })
const past = async () => (await call().call('listAddressMoves', { params })).items
const undo = (id: string) => call().call('undoAddressMove', { params: { ...params, id } })
/** Everything that a move may touch, as it stands. */
const addresses = async () => {
  const rows = await academy.query<{ title: string; launch_url: string | null; review_url: string | null }>(
    `select title, launch_url, review_url from assignment order by title`,
  )
  const [tool] = await academy.query<{ launch_url: string; placements: { launchUrl: string }[] }>(
    `select launch_url, placements from registration`,
  )
  const [menu] = await academy.query<{ launch_url: string }>(`select launch_url from menu_entry`)
  return {
    ...Object.fromEntries(rows.map((row) => [row.title, [row.launch_url, row.review_url]])),
    tool: tool!.launch_url,
    placed: tool!.placements.map((one) => one.launchUrl),
    menu: menu!.launch_url,
  }
}
const BEFORE = {
  Bends: [`${OLD}/launch?drill=bends&x=%7e`, `${OLD}/review`],
  Elsewhere: ['https://drills.example.org/launch', null],
  Hitches: [`${OLD}/launch?drill=hitches`, null],
  Plain: [null, null],
  tool: `${OLD}/launch`,
  placed: [`${OLD}/menu`],
  menu: `${OLD}/menu`,
}
const AFTER = {
  Bends: [`${NEW}/launch?drill=bends&x=%7e`, `${NEW}/review`],
  Elsewhere: ['https://drills.example.org/launch', null],
  Hitches: [`${NEW}/launch?drill=hitches`, null],
  Plain: [null, null],
  tool: `${NEW}/launch`,
  placed: [`${NEW}/menu`],
  menu: `${NEW}/menu`,
}

describe('when a tool’s domain moves', () => {
  it('what would move is looked at first, and changes nothing by that', async () => {
    const seen = await preview({ from: OLD, to: NEW })
    expect(seen.registration).toEqual([
      { field: 'launchUrl', before: `${OLD}/launch`, after: `${NEW}/launch` },
      { field: 'placement course_menu', before: `${OLD}/menu`, after: `${NEW}/menu` },
    ])
    expect(seen.courses.map((one) => [one.course.code, one.addresses])).toEqual([
      ['HYD 210', 3],
      ['NAV 120', 1],
    ])
    expect(seen).toMatchObject({ addresses: 4, staying: 1, remarks: [] })
    expect(seen.links.find((one) => one.title === 'Bends')).toMatchObject({
      before: `${OLD}/launch?drill=bends&x=%7e`,
      after: `${NEW}/launch?drill=bends&x=%7e`,
    })
    expect(await addresses()).toEqual(BEFORE)
  })

  it('one course first: its links move, the registration and other courses stay', async () => {
    const moved = await move({ from: OLD, to: NEW, course: 'HYD-210' })
    expect(moved).toMatchObject({ addresses: 3, still: 3, course: { code: 'HYD 210' }, by: 'Ingrid Valesdottir' })
    expect(await addresses()).toEqual({ ...AFTER, Hitches: BEFORE.Hitches, tool: BEFORE.tool, placed: BEFORE.placed })
    await undo(moved.id)
    expect(await addresses()).toEqual(BEFORE)
  })

  it('all of them move in one act, launches go to the new place, and the marks say that this is to be proven', async () => {
    await academy.person('aino', { 'HYD-210': 'learner' })
    const aino = await academy.signIn('aino')
    expect((await openForm(aino, links['Bends']!)).action).toContain(OLD)
    const line = async () =>
      (await call().call('showAssignment', { params: { assignment: links['Bends']! } })).proof
        .map((mark) => MARK_SIGNS[mark.state])
        .join('')
    expect(await line()).toBe('●●●●○○')
    await move({ from: `${OLD}/`, to: `${NEW}/` })
    expect(await addresses()).toEqual(AFTER)
    expect(await line()).toBe('●●●◐○○')
    expect((await openForm(aino, links['Bends']!)).action).toBe(`${NEW}/launch?drill=bends&x=%7e`)
    expect((await openForm(aino, links['Plain']!)).action).toBe(`${NEW}/launch`)
    const [entry] = (await call().call('listAudit', { query: { limit: 1 } })).items
    expect(entry).toMatchObject({ action: 'move addresses', subject: 'tool rope-work', after: { links: 4 } })
  })

  it('is taken back once: what was changed by hand since stays', async () => {
    const [last] = await past()
    const { revision } = await call().call('showAssignment', { params: { assignment: links['Hitches']! } })
    const byHand = 'https://third.example/launch'
    await call().call('changeAssignment', {
      params: { assignment: links['Hitches']! },
      body: { revision, launchUrl: byHand },
    })
    const tool = await call().call('showTool', { params })
    await call().call('changeTool', { params, body: { revision: tool.revision, launchUrl: `${NEW}/start` } })
    expect((await past())[0]).toMatchObject({ addresses: 4, still: 3 })
    const codes = await Promise.all([codeOf(undo(last!.id)), codeOf(undo(last!.id))])
    expect(codes.sort()).toEqual(['tool.address_move_undone', undefined])
    expect(await addresses()).toEqual({ ...BEFORE, Hitches: [byHand, null], tool: `${NEW}/start` })
    expect(await codeOf(undo('nothinglikeit'))).toBe('tool.address_move_unknown')
    const again = await call().call('showTool', { params })
    await call().call('changeTool', { params, body: { revision: again.revision, launchUrl: BEFORE.tool } })
  })

  it('a check of the tool says which links were left behind, and what lets them follow', async () => {
    const set = async (launchUrl: string) => {
      const { revision } = await call().call('showTool', { params })
      await call().call('changeTool', { params, body: { revision, launchUrl } })
    }
    const links = async () =>
      (await call().call('checkTool', { params })).findings.filter((one) => one.check === 'links')
    await set(`${NEW}/launch`)
    expect(await links()).toMatchObject([
      { verdict: 'warn', statement: `3 links have addresses at ${OLD}, the registration is at https://knots.example.` },
      { statement: expect.stringContaining('https://drills.example.org') as string },
      { statement: expect.stringContaining('https://third.example') as string },
    ])
    expect((await links())[0]!.remedy).toContain(`tool move-addresses rope-work --from ${OLD}`)
    await set(BEFORE.tool)
    expect(await links()).toHaveLength(2)
  })

  it('two at once are one: the second finds nothing left', async () => {
    const codes = await Promise.all([1, 2].map(() => codeOf(move({ from: OLD, to: NEW }))))
    expect(codes.sort()).toEqual(['tool.nothing_to_move', undefined])
    expect((await past()).filter((one) => one.undoneAt === null)).toHaveLength(1)
    await undo((await past())[0]!.id)
    expect(await addresses()).toMatchObject({ Bends: BEFORE.Bends, tool: BEFORE.tool })
  })

  it.each([
    ['an address that nothing begins with', { from: 'https://drills.exam', to: NEW }, 'tool.nothing_to_move'],
    ['half a word of a path', { from: `${OLD}/lau`, to: NEW }, 'tool.nothing_to_move'],
    ['no address', { from: 'drills', to: NEW }, 'address.malformed'],
    ['another scheme', { from: OLD, to: 'ftp://knots.example' }, 'address.scheme'],
    ['a fragment', { from: OLD, to: `${NEW}#top` }, 'address.fragment'],
    ['a user name', { from: OLD, to: 'https://me:pw@knots.example' }, 'address.credentials'],
    ['a course that is not there', { from: OLD, to: NEW, course: 'NO-1' }, 'course.not_found'],
    ['addresses that would be too long', { from: OLD, to: `${OLD}/${'x'.repeat(1970)}` }, 'address.too_long'],
  ])('from or to %s is refused, and nothing moves', async (_, body, code) => {
    const before = await addresses()
    expect(await codeOf(move(body))).toBe(code)
    expect(await addresses()).toEqual(before)
  })

  it('a step down to http is remarked', async () => {
    const { remarks } = await preview({ from: OLD, to: 'http://knots.example' })
    expect(remarks).toEqual([
      { verdict: 'warn', statement: expect.stringContaining('can be read on the way') as string },
    ])
  })

  it('what hangs on a tool counts links of every kind', async () => {
    const { id: unit } = await call().call('addUnit', { params: { course: 'NAV-120' }, body: { title: 'Week 1' } })
    await call().call('addUnitItem', { params: { course: 'NAV-120' }, body: { kind: 'tool_link', unit, title: 'Chart', tool: 'rope-work' } as never }) // oxfmt-ignore
    const { items } = await call().call('listTools', {})
    expect(items[0]).toMatchObject({ assignments: 4, menuEntries: 1, unitItems: 1, courses: 2 })
  })

  it('is for administrators', async () => {
    await academy.person('tomas', { 'HYD-210': 'instructor' })
    const tomas = await academy.signIn('tomas')
    for (const name of ['previewAddressMove', 'moveAddresses'] as const)
      expect(await codeOf(tomas.client.call(name, { params, body: { from: OLD, to: NEW } }))).toBe('access.denied')
  })

  it('costs as many statements for forty links as for four', async () => {
    const ask = async () => (await questionsOf(async () => undo((await move({ from: OLD, to: NEW })).id))).length
    const few = await ask()
    for (let i = 0; i < 36; i++)
      await publishDrill(academy, 'rope-work', { title: `Drill ${i}`, launchUrl: `${OLD}/launch?n=${i}` })
    expect(await ask()).toBe(few)
  })
})
