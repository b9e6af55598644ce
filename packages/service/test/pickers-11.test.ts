import { selectionFields } from '@bathyscribe/practice-tools'
import type { AddressInfo } from 'node:net'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import {
  codeOf,
  KEY,
  openRecords,
  registerKnotwork,
  SECRET,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'
import { answerTo, askedOf, LINK, offeringSite, type AnswerChange } from './picking-11.js'

let academy: TestAcademy
let tomas: Visitor
let priyanka: Visitor
const course = { course: 'HYD-210' }
const site = offeringSite()
let origin = ''

beforeAll(async () => {
  academy = await startAcademy()
  await new Promise<void>((resolve) => site.listen(0, '127.0.0.1', resolve))
  origin = `http://127.0.0.1:${(site.address() as AddressInfo).port}`
  await registerKnotwork(academy, { features: ['scores', 'picker'], pickerUrl: `${academy.knotwork}/shelf` })
  await registerKnotwork(academy, { name: 'Bare', consumerKey: 'bare', launchUrl: `${academy.knotwork}/launch?bare` })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  await academy.person('priyanka', { 'HYD-210': 'instructor' })
  tomas = await academy.signIn('tomas')
  priyanka = await academy.signIn('priyanka')
})
afterAll(() => site.close())

const begin = (change: Record<string, unknown> = {}, who = tomas) =>
  who.client.call('openPicker', { params: course, body: { tool: 'knotwork-drills', ...change } })
const show = (picking: string, who = tomas) => who.client.call('showPicking', { params: { ...course, picking } })

const asked = (id: string, who = tomas) => askedOf(who, id)
const answer = (id: string, items: readonly object[], change: AnswerChange = {}, url?: string) =>
  answerTo(tomas, id, items, change, { to: url, otherwise: `${academy.url}/lti/picked/${id}` })

describe('a picker of LTI 1.1', () => {
  it('is asked by a signed request that its own end verifies, and its choice is at once in the picking', async () => {
    const { id } = await begin()
    const page = await tomas.send(`/lti/picker/${id}/open`)
    const html = await page.text()
    expect(html).toContain(`action="${academy.knotwork}/shelf"`)
    const shelf = await fetch(`${academy.knotwork}/shelf`, {
      method: 'POST',
      body: new URLSearchParams(await asked(id)),
    })
    const session = /name="session" value="([^"]*)"/.exec(await shelf.text())![1]!
    const taken = await (
      await fetch(`${academy.knotwork}/shelf/take`, {
        method: 'POST',
        body: new URLSearchParams({ session, drill: 'soundings', length: 'one question' }),
      })
    ).text()
    const fields = Object.fromEntries(
      [...taken.matchAll(/name="([^"]*)" value="([^"]*)"/g)].map(([, name, value]) => [
        name!,
        value!.replaceAll('&quot;', '"').replaceAll('&lt;', '<').replaceAll('&gt;', '>').replaceAll('&amp;', '&'),
      ]),
    )
    const back = await fetch(`${academy.url}/lti/picked/${id}`, { method: 'POST', body: new URLSearchParams(fields) })
    expect((await show(id)).code).toBeNull()
    expect(await back.text()).toContain('It is on your page now')
    expect(await show(id)).toMatchObject({
      state: 'answered',
      items: [
        {
          kind: 'tool_link',
          title: 'Soundings and datum',
          custom: { drill: 'soundings', length: 'one question' },
          column: { points: '30', resourceId: 'soundings' },
        },
      ],
    })
    const made = await tomas.client.call('createAssignment', {
      params: course,
      body: {
        title: 'Soundings and datum',
        tool: 'knotwork-drills',
        points: '30',
        category: 'Drills',
        content: { picking: id, item: 0 },
        publish: true,
      },
    })
    expect(made).toMatchObject({
      launchUrl: `${academy.knotwork}/launch`,
      customParameters: { drill: 'soundings' },
      content: { title: 'Soundings and datum' },
    })
    expect(made.preflight.map((one) => one.rule)).not.toContain('content_chosen')
  })

  it('hands over every kind of item, each where it belongs, HTML cleaned and files fetched', async () => {
    const { id } = await begin({ purpose: 'unit', multiple: true })
    const { page } = await answer(id, [
      LINK,
      { '@type': 'ContentItem', mediaType: 'text/html', url: 'https://knots.example/read', title: 'To read' },
      { '@type': 'FileItem', mediaType: 'application/pdf', url: `${origin}/moved`, title: '../../chart.txt' },
      {
        '@type': 'ContentItem',
        mediaType: 'text/html',
        title: 'Notes',
        text: '<p onclick="x()">Hold <script>alert(1)</script><a href="javascript:alert(1)">fast</a></p>',
      },
      { '@type': 'FileItem', url: `${origin}/gone`, title: 'Gone' },
      { '@type': 'SemaphoreItem', title: 'Flags' },
    ])
    expect(page).toContain('4 items are on your page')
    const picking = await show(id)
    expect(picking.items.map((one) => one.kind)).toEqual(['tool_link', 'address', 'file', 'html'])
    expect(picking.items[3]!.html).toBe('<p>Hold <a href="">fast</a></p>'.replace(' href=""', ''))
    expect(picking.problems.map((one) => one.code).sort()).toEqual(['item.not_fetched', 'item.unknown_type'])
    const { items } = await tomas.client.call('listFiles', { params: course })
    expect(items).toEqual([expect.objectContaining({ name: 'chart.txt', mediaType: 'text/plain', bytes: 16 })])

    const unit = await tomas.client.call('addUnit', { params: course, body: { title: 'From the picker' } })
    const kinds = []
    for (const item of [0, 1, 2, 3]) {
      const made = await tomas.client.call('addUnitItem', {
        params: course,
        body: { kind: 'tool_link', unit: unit.id, content: { picking: id, item } },
      })
      kinds.push(made.kind)
    }
    expect(kinds).toEqual(['tool_link', 'address', 'file', 'page'])
  })

  it('hands over no file that a course has no room for, and says so of it', async () => {
    await academy.query(
      `insert into course_file (id, course_id, name, media_type, bytes, content_key, person_id, created_at)
       select 'full', c.id, 'full.bin', 'application/octet-stream', 2000::bigint * 1048576, 'full', p.id, now() from course c, person p where p.username = 'tomas' limit 1`,
    )
    const { id } = await begin({ purpose: 'unit', multiple: true })
    await answer(id, [LINK, { '@type': 'FileItem', url: `${origin}/chart.txt`, title: 'No room' }])
    const picking = await show(id)
    expect(picking.items.map((one) => one.kind)).toEqual(['tool_link'])
    expect(picking.problems).toMatchObject([
      { code: 'item.not_fetched', sentence: expect.stringContaining('more room than a course has') as string },
    ])
    await academy.query(`delete from course_file where id = 'full'`)
  })

  it.each([
    ['unsigned', 'picker.unsigned', { drop: 'oauth_signature' }],
    ['under another key', 'picker.key_unknown', { key: 'somebody' }],
    ['signed with another secret', 'oauth.signature_mismatch', { secret: 'wrong' }],
    ['with other data', 'picker.data_unknown', { data: 'not ours' }],
    ['without data', 'picker.data_unknown', { data: '' }],
    ['of another message type', 'picker.wrong_message', { more: { lti_message_type: 'basic-lti-launch-request' } }],
    ['with items that are no list', 'picker.items_malformed', { more: { content_items: '{' } }],
  ])(
    'an answer %s is refused, leaves a wire entry, and the picking stays open for a good one',
    async (_, code, change) => {
      const { id } = await begin()
      const { status, page } = await answer(id, [LINK], change)
      expect(status).toBeGreaterThanOrEqual(400)
      expect(page).not.toContain('at Object.')
      const refused = await show(id)
      expect(refused).toMatchObject({ state: 'open', code })
      expect(await tomas.client.call('showWireEntry', { params: { entry: refused.wireEntryId! } })).toMatchObject({
        kind: 'picker',
        outcome: 'refused',
        code,
      })
      await answer(id, [LINK])
      expect((await show(id)).state).toBe('answered')
    },
  )

  /** Several answers to one question, each rightly signed, to be posted when it is time. */
  async function answers(id: string, titles: readonly string[]) {
    const request = await asked(id)
    const to = request['content_item_return_url']!
    return titles.map((title) => {
      const question = { content_item_return_url: to, data: request['data']! }
      const fields = selectionFields({ key: KEY, secret: SECRET }, question, [{ ...LINK, title }])
      return () => fetch(to, { method: 'POST', body: new URLSearchParams(fields) }).then((response) => response.status)
    })
  }

  it('of two good answers in one moment takes one, and says of the other that it was refused and nothing else', async () => {
    const { id } = await begin()
    const both = await answers(id, ['Bends', 'Splices'])
    expect((await Promise.all(both.map((post) => post()))).sort()).toEqual([200, 409])
    const { wireEntryId, items } = await show(id)
    expect(items).toHaveLength(1)
    const entries = await academy.query<{ id: string; outcome: string }>(
      `select id::text as id, outcome from wire_entry where picking_id = $1 and direction = 'received' order by outcome`,
      [id],
    )
    expect(entries.map((one) => one.outcome)).toEqual(['accepted', 'refused'])
    expect(entries[0]!.id).toBe(wireEntryId)
  })

  it('is not lost when the wire log cannot be written in that moment: the choice is there', async () => {
    const { id } = await begin()
    const [post] = await answers(id, ['Bends'])
    const holder = (await openRecords(academy)).createQueryRunner()
    await holder.startTransaction()
    await holder.query('lock table wire_entry in exclusive mode')
    const status = await post!()
    await holder.rollbackTransaction()
    await holder.release()
    expect(status).toBe(503)
    expect(await show(id)).toMatchObject({ state: 'answered', wireEntryId: null, items: [{ title: 'Bends' }] })
    // What the tool sends again is told that it was taken.
    expect(await post!()).toBe(409)
    expect(await show(id)).toMatchObject({ state: 'answered', items: [{ title: 'Bends' }] })
  })

  it('is answered once: a repetition, and a second choice in another tab, change nothing', async () => {
    const { id } = await begin()
    const request = await asked(id)
    const first = await answer(id, [LINK])
    expect(first.status).toBe(200)
    const again = await fetch(request['content_item_return_url']!, {
      method: 'POST',
      body: new URLSearchParams(first.fields),
    })
    expect(again.status).toBe(409)
    expect((await show(id)).items.map((one) => one.title)).toEqual(['Bends'])
  })

  it('two answers at the same moment: one is taken', async () => {
    const { id } = await begin()
    const request = await asked(id)
    const post = (title: string) => {
      const fields = selectionFields(
        { key: KEY, secret: SECRET },
        { content_item_return_url: request['content_item_return_url']!, data: request['data']! },
        [{ ...LINK, title }],
      )
      return fetch(request['content_item_return_url']!, { method: 'POST', body: new URLSearchParams(fields) })
    }
    const statuses = (await Promise.all([post('One'), post('Two')])).map((one) => one.status)
    expect(statuses.sort()).toEqual([200, 409])
    expect((await show(id)).items).toHaveLength(1)
  })

  it('an answer to one question is none to another', async () => {
    const [mine, other] = [await begin(), await begin()]
    const request = await asked(other.id)
    await answer(mine.id, [LINK], { data: request['data']! })
    expect(await show(mine.id)).toMatchObject({ state: 'open', code: 'picker.data_unknown' })
  })

  it.each([
    ['nothing', [], {}, 'empty'],
    ['an error', [], { lti_errormsg: 'The shelf is empty.', lti_errorlog: 'x' }, 'failed'],
    ['a word and nothing else', [], { lti_msg: 'Changed my mind' }, 'empty'],
    ['nothing that can be taken', [{ '@type': 'SemaphoreItem' }], {}, 'failed'],
  ])('that comes back with %s ends in something sensible', async (_, items, more, state) => {
    const { id } = await begin()
    expect((await answer(id, items, { more })).status).toBe(200)
    expect((await show(id)).state).toBe(state)
  })

  it('is too late after twelve hours, and after it was left', async () => {
    const late = await begin()
    const request = await asked(late.id)
    academy.clock.offsetMs = 13 * 3600_000
    const answered = await answer(
      late.id,
      [LINK],
      { data: request['data']!, more: { oauth_timestamp: String(Math.floor(Date.now() / 1000) + 13 * 3600) } },
      request['content_item_return_url'],
    )
    academy.clock.offsetMs = 0
    expect(answered.status).toBeGreaterThanOrEqual(400)
    const left = await begin()
    const other = await asked(left.id)
    await tomas.client.call('leavePicking', { params: { ...course, picking: left.id } })
    expect((await answer(left.id, [LINK], { data: other['data']! }, other['content_item_return_url'])).status).toBe(409)
    expect((await show(left.id)).state).toBe('left')
  })

  it('takes two hundred items, and five megabytes not', async () => {
    const { id } = await begin({ multiple: true })
    await answer(
      id,
      Array.from({ length: 200 }, (_, i) => ({ ...LINK, title: `Drill ${i}`, custom: { drill: String(i) } })),
    )
    expect((await show(id)).items).toHaveLength(200)
    const { items } = await tomas.client.call('takePicked', {
      params: course,
      body: { picking: id, points: '5', category: 'Drills' },
    })
    expect(items).toHaveLength(200)
    const again = await tomas.client.call('takePicked', { params: course, body: { picking: id, points: '5' } })
    expect(again.items.map((one) => one.id).sort()).toEqual(items.map((one) => one.id).sort())
    const huge = await begin()
    expect((await answer(huge.id, [{ ...LINK, text: 'x'.repeat(5_000_000) }])).status).toBe(413)
    expect((await show(huge.id)).state).toBe('open')
  })

  it('keeps script in titles as the text it is, and javascript: and private addresses out', async () => {
    const { id } = await begin({ purpose: 'unit', multiple: true })
    await answer(id, [
      { ...LINK, title: '<script>alert(1)</script>' },
      { ...LINK, url: 'javascript:alert(1)' },
      { '@type': 'ContentItem', mediaType: 'text/html', url: 'data:text/html,<script>' },
      { '@type': 'FileItem', url: 'http://10.0.0.1/secret' },
    ])
    const picking = await show(id)
    expect(picking.items.map((one) => one.title)).toEqual(['<script>alert(1)</script>'])
    expect(picking.problems).toHaveLength(3)
  })
})

describe('who may pick', () => {
  it('is an instructor, for the own pickings only, in a tool that has a picker', async () => {
    expect(await codeOf(begin({ tool: 'bare' }))).toBe('picker.none')
    const { id } = await begin()
    expect(await codeOf(show(id, priyanka))).toBe('picker.not_found')
    expect((await priyanka.send(`/lti/picker/${id}/open`)).status).toBe(409)
    await academy.person('aino', { 'HYD-210': 'learner' })
    const aino = await academy.signIn('aino')
    expect(await codeOf(begin({}, aino))).toBe('access.denied')
    expect((await academy.visitor().send(`/lti/picker/${id}/open`)).status).toBe(401)
  })

  it('cannot use what was picked in another tool, or by somebody else', async () => {
    const { id } = await begin()
    await answer(id, [LINK])
    const body = { title: 'x', tool: 'knotwork-drills', points: '5', content: { picking: id, item: 0 } }
    expect(await codeOf(priyanka.client.call('createAssignment', { params: course, body }))).toBe('picker.not_found')
    expect(
      await codeOf(tomas.client.call('createAssignment', { params: course, body: { ...body, tool: 'bare' } })),
    ).toBe('picker.other_tool')
    expect(
      await codeOf(
        tomas.client.call('createAssignment', { params: course, body: { ...body, content: { picking: id, item: 7 } } }),
      ),
    ).toBe('picker.item_not_found')
  })
})

describe('picking again', () => {
  it('replaces the content and keeps link, column and scores', async () => {
    const first = await begin()
    await answer(first.id, [LINK])
    const made = await tomas.client.call('createAssignment', {
      params: course,
      body: {
        title: 'Twice picked',
        tool: 'knotwork-drills',
        points: '5',
        category: 'Drills',
        content: { picking: first.id, item: 0 },
        publish: true,
      },
    })
    const second = await begin({ assignment: made.id })
    await answer(second.id, [{ ...LINK, title: 'Hitches', custom: { drill: 'hitches' } }])
    const changed = await tomas.client.call('changeAssignment', {
      params: { assignment: made.id },
      body: { revision: made.revision, content: { picking: second.id, item: 0 } },
    })
    expect(changed).toMatchObject({
      title: 'Twice picked',
      customParameters: { drill: 'hitches' },
      resourceLinkId: made.resourceLinkId,
    })
    const { differences } = await tomas.client.call('preflightAssignment', {
      params: course,
      body: {
        assignment: made.id,
        tool: 'knotwork-drills',
        title: changed.title,
        points: '5',
        content: { picking: second.id, item: 0 },
      },
    })
    expect(differences).toEqual([{ field: 'title', typed: 'Twice picked', offered: 'Hitches', fills: false }])
  })
})
