import { beforeAll, describe, expect, it } from 'vitest'
import { codeOf } from './harness.js'
import { launch13, verified } from './harness-13.js'
import { SCOPES_13, startScoring, type Scoring } from './scoring-13.js'

const LINE_ITEM = 'application/vnd.ims.lis.v2.lineitem+json'
let at: Scoring
let ours: string
beforeAll(async () => {
  at = await startScoring()
  ours = await at.make('Fog log', { points: '20' })
})
interface Item {
  id: string
  label: string
  scoreMaximum: number
  tag?: string
  resourceId?: string
  resourceLinkId?: string
  submissionReview?: Record<string, unknown>
}
const idOf = (item: Item) => item.id.split('/').at(-1)!
const add = (body: unknown, options = {}) =>
  at.call<Item & { error?: string }>('POST', 'lineitems', body, { type: LINE_ITEM, ...options })

describe('columns that a tool makes', () => {
  it('are answered by 201 with their address, found by filter, changed and deleted', async () => {
    const made = await add({
      label: 'Morning watch',
      scoreMaximum: 12.5,
      resourceId: 'watch-1',
      tag: 'watch',
      endDateTime: '2026-12-01T12:00:00Z',
    })
    expect(made).toMatchObject({
      status: 201,
      location: made.body.id,
      body: { label: 'Morning watch', scoreMaximum: 12.5, tag: 'watch' },
    })
    expect(made.type).toContain(LINE_ITEM)
    for (const filter of ['tag=watch', 'resource_id=watch-1'])
      expect((await at.call<Item[]>('GET', `lineitems?${filter}`)).body.map((one) => one.id)).toEqual([made.body.id])
    const changed = await at.call<Item>(
      'PUT',
      made.body.id,
      { label: 'Middle watch', scoreMaximum: 10 },
      { type: LINE_ITEM },
    )
    expect(changed).toMatchObject({ status: 200, body: { label: 'Middle watch', scoreMaximum: 10 } })
    expect(changed.body.tag).toBeUndefined()
    expect((await at.call('DELETE', made.body.id)).status).toBe(204)
    expect((await at.call('GET', made.body.id)).status).toBe(404)
  })

  it('stand in the gradebook as the tool’s own, and are no assignments', async () => {
    const { body } = await add({ label: 'Depth diary', scoreMaximum: 40 })
    expect(await at.score(idOf(body), 'aino', 30)).toBe(204)
    const book = await at.tomas.client.call('showGradebook', { params: { course: 'HYD-210' } })
    expect(book.columns.find((one) => one.title === 'Depth diary')).toMatchObject({
      state: 'column',
      scored: 1,
      points: '40',
    })
    expect(await codeOf(at.tomas.client.call('showAssignment', { params: { assignment: idOf(body) } }))).toBe(
      'assignment.is_column',
    )
    const { items } = await at.tomas.client.call('listAssignments', { params: { course: 'HYD-210' } })
    expect(items.map((one) => one.title)).not.toContain('Depth diary')
    const { items: work } = await at.aino.client.call('listWork', { params: { course: 'HYD-210' } })
    expect(work.map((one) => one.title)).not.toContain('Depth diary')
  })

  it('tied to a link leave the claim’s lineitem out, as there are two then', async () => {
    const [row] = await at.academy.query<{ link: string }>(
      `select resource_link_id as link from assignment where id = $1`,
      [ours],
    )
    const endpoint = async () => {
      const { fields } = await launch13(at.aino, ours, at.client)
      return (await verified(at.academy, fields['id_token']!, at.clientId))[
        'https://purl.imsglobal.org/spec/lti-ags/claim/endpoint'
      ] as object
    }
    expect(await endpoint()).toHaveProperty('lineitem')
    const { body } = await add({ label: 'Second column', scoreMaximum: 5, resourceLinkId: row!.link })
    expect(body.resourceLinkId).toBe(row!.link)
    expect(await endpoint()).not.toHaveProperty('lineitem')
    await at.call('DELETE', body.id)
    expect(await endpoint()).toHaveProperty('lineitem')
  })

  it.each([
    ['line_item.malformed', '['],
    ['line_item.malformed', { scoreMaximum: 1 }],
    ['line_item.malformed', { label: ' ', scoreMaximum: 1 }],
    ['line_item.malformed', { label: 'x', scoreMaximum: 1, endDateTime: '2026-12-01' }],
    ['line_item.malformed', { label: 'x', scoreMaximum: 1, submissionReview: { url: 'javascript:alert(1)' } }],
    ['line_item.malformed', { label: 'x', scoreMaximum: 1, submissionReview: { reviewableStatus: 'Submitted' } }],
    ['line_item.malformed', { label: 'x', scoreMaximum: 1, submissionReview: { reviewableStatus: [1] } }],
    [
      'line_item.malformed',
      { label: 'x', scoreMaximum: 1, submissionReview: { reviewableStatus: Array(21).fill('Submitted') } },
    ],
    ['line_item.maximum', { label: 'x' }],
    ['line_item.maximum', { label: 'x', scoreMaximum: 0 }],
    ['line_item.maximum', { label: 'x', scoreMaximum: -1 }],
    ['line_item.maximum', { label: 'x', scoreMaximum: '10' }],
    ['line_item.maximum', { label: 'x', scoreMaximum: 1e300 }],
    ['line_item.foreign_link', { label: 'x', scoreMaximum: 1, resourceLinkId: 'not-ours' }],
  ])('%s: %j is refused', async (code, body) => {
    expect(await add(body)).toMatchObject({ status: 400, body: { error: code } })
  })

  it.each([
    [
      'all of it',
      {
        reviewableStatus: ['Submitted', 'Completed'],
        label: 'Logbook',
        url: 'https://bench.example/r',
        custom: { step: '2' },
      },
    ],
    ['its states alone', { reviewableStatus: ['Submitted'] }],
    ['no state at all', { reviewableStatus: [] }],
    ['a state that no standard knows', { reviewableStatus: ['HandedOver'] }],
    ['no states, as some tools leave it', { label: 'Logbook' }],
  ])(
    'give a review back as it was sent, with %s, and a tool that writes back what it read changes nothing',
    async (_, submissionReview) => {
      const { body: made } = await add({ label: 'Looked at', scoreMaximum: 5, submissionReview })
      const read = async () => (await at.call<Item>('GET', made.id)).body
      expect((await read()).submissionReview).toEqual(submissionReview)
      await at.call('PUT', made.id, await read(), { type: LINE_ITEM })
      expect((await read()).submissionReview).toEqual(submissionReview)
      // The same for the column of an instructor's assignment.
      await at.call('PUT', `lineitems/${ours}`, { label: 'x', scoreMaximum: 1, submissionReview }, { type: LINE_ITEM })
      expect((await at.call<Item>('GET', `lineitems/${ours}`)).body.submissionReview).toEqual(submissionReview)
      await at.call('DELETE', made.id)
    },
  )

  it('of an instructor keep title and points whatever the tool writes, and cannot be deleted by it', async () => {
    const put = await at.call<Item>(
      'PUT',
      `lineitems/${ours}`,
      { label: 'Renamed', scoreMaximum: 99, tag: 'fog' },
      { type: LINE_ITEM },
    )
    expect(put.body).toMatchObject({ label: 'Fog log', scoreMaximum: 20, tag: 'fog' })
    expect(await at.call('DELETE', `lineitems/${ours}`)).toMatchObject({
      status: 403,
      body: { error: 'line_item.of_assignment' },
    })
  })

  it('need the scope for changing; reading needs less', async () => {
    const bearer = await at.token(SCOPES_13.readColumns)
    expect((await at.call('GET', 'lineitems', undefined, { bearer })).status).toBe(200)
    expect(await add({ label: 'x', scoreMaximum: 1 }, { bearer })).toMatchObject({
      status: 403,
      body: { error: 'service_token.scope' },
    })
    expect((await at.call('DELETE', `lineitems/${ours}`, undefined, { bearer })).status).toBe(403)
  })
})

describe('results', () => {
  it('name who gave the score that stands, as the tool did, and nobody where another word stands', async () => {
    const column = await at.make('Graded by somebody')
    const scoredBy = async () =>
      (await at.call<{ scoringUserId?: string }[]>('GET', `lineitems/${column}/results`)).body[0]?.scoringUserId
    await at.score(column, 'aino', 30, { scoringUserId: at.subjects['tomas'] })
    expect(await scoredBy()).toBe(at.subjects['tomas'])
    // Where work is in between is nobody's score.
    await at.score(column, 'aino', null, { gradingProgress: 'Pending', scoringUserId: 'somebody-else' })
    expect(await scoredBy()).toBe(at.subjects['tomas'])
    const byHand = (body: { act: 'override'; points: string } | { act: 'lift' }) =>
      at.tomas.client.call('gradeByHand', { params: { assignment: column, person: 'aino' }, body })
    await byHand({ act: 'override', points: '12' })
    expect(await scoredBy()).toBeUndefined()
    await byHand({ act: 'lift' })
    expect(await scoredBy()).toBe(at.subjects['tomas'])
    await at.score(column, 'aino', 31)
    expect(await scoredBy()).toBeUndefined()
    await at.score(column, 'aino', 32, { scoringUserId: 17 })
    expect(await scoredBy()).toBeUndefined()
  })

  it('say what stands, the instructor’s own word included, by person and in pages', async () => {
    const column = await at.make('Results', { points: '40' })
    for (const [who, given] of [
      ['aino', 30],
      ['bo', 20],
      ['cyd', 10],
    ] as const)
      await at.score(column, who, given, { comment: `for ${who}` })
    await at.tomas.client.call('gradeByHand', {
      params: { assignment: column, person: 'bo' },
      body: { act: 'override', points: '33' },
    })
    await at.tomas.client.call('gradeByHand', {
      params: { assignment: column, person: 'cyd' },
      body: { act: 'exempt' },
    })
    const all = await at.call<Record<string, unknown>[]>('GET', `lineitems/${column}/results`)
    expect(all.type).toContain('application/vnd.ims.lis.v2.resultcontainer+json')
    const of = (who: string) => all.body.find((one) => one['userId'] === at.subjects[who])
    expect(all.body).toHaveLength(2)
    expect(of('aino')).toMatchObject({
      resultScore: 30,
      resultMaximum: 40,
      comment: 'for aino',
      scoreOf: `${at.service}/lineitems/${column}`,
    })
    expect(of('bo')).toMatchObject({ resultScore: 33 })
    const one = await at.call<Record<string, unknown>[]>(
      'GET',
      `lineitems/${column}/results?user_id=${at.subjects['aino']}`,
    )
    expect(one.body).toHaveLength(1)
    const first = await at.call<unknown[]>('GET', `lineitems/${column}/results?limit=1`)
    const next = /<([^>]+)>; rel="next"/.exec(first.link)![1]!
    const second = await at.call<unknown[]>('GET', next)
    expect([...first.body, ...second.body]).toHaveLength(2)
    expect(second.link).toBe('')
    const bearer = await at.token(SCOPES_13.score)
    expect((await at.call('GET', `lineitems/${column}/results`, undefined, { bearer })).status).toBe(403)
  })
})

describe('merging a column that a tool made into one of ours', () => {
  it('is offered with its reasons, loses no score, takes what still comes, and is undone again', async () => {
    const into = await at.make('Soundings', { points: '40' })
    const twin = idOf((await add({ label: 'SOUNDINGS', scoreMaximum: 40 })).body)
    await at.score(into, 'aino', 10)
    await at.score(twin, 'aino', 20)
    await at.score(twin, 'bo', 36)
    const { items } = await at.tomas.client.call('listTwins', { params: { course: 'HYD-210' } })
    expect(items).toMatchObject([
      { made: { id: twin, scored: 2 }, ours: { id: into, scored: 1 }, reasons: ['same_title_and_points'] },
    ])

    const input = { params: { assignment: twin }, body: { into } }
    const preview = await at.tomas.client.call('previewMerge', input)
    expect(preview).toMatchObject({ kept: 3, stays: 0 })
    expect(preview.changes.map((one) => [one.person.username, one.now, one.then])).toEqual([
      ['aino', '10', '20'],
      ['bo', null, '36'],
    ])
    expect(await at.tomas.client.call('mergeColumn', input)).toEqual(preview)

    expect((await at.cell(into, 'aino')).points).toBe('20')
    expect(await at.score(twin, 'bo', 38)).toBe(204)
    expect((await at.cell(into, 'bo')).points).toBe('38')
    const trail = await at.tomas.client.call('showTrail', { params: { assignment: into, person: 'aino' } })
    expect(trail.items.map((one) => one.mergedFrom)).toEqual(['SOUNDINGS', null])
    expect((await at.call<Item[]>('GET', 'lineitems')).body.map((one) => idOf(one))).not.toContain(twin)

    await at.tomas.client.call('unmergeColumn', { params: { assignment: twin } })
    expect([await at.cell(into, 'aino'), await at.cell(into, 'bo')]).toMatchObject([{ points: '10' }, { points: null }])
    expect([await at.cell(twin, 'aino'), await at.cell(twin, 'bo')]).toMatchObject([{ points: '20' }, { points: '38' }])
    expect(await codeOf(at.tomas.client.call('unmergeColumn', { params: { assignment: twin } }))).toBe(
      'column.not_merged',
    )
  })

  it('is refused for anything but a tool’s own column into an assignment of the same tool', async () => {
    const [a, b] = [await at.make('One'), await at.make('Two')]
    const twin = idOf((await add({ label: 'Three', scoreMaximum: 40 })).body)
    const merge = (from: string, into: string, who = at.tomas) =>
      codeOf(who.client.call('mergeColumn', { params: { assignment: from }, body: { into } }))
    expect(await merge(a, b)).toBe('column.not_mergeable')
    expect(await merge(twin, twin)).toBe('column.not_mergeable')
    expect(await merge(twin, a, at.aino)).toBe('assignment.not_found')
  })

  it('two at once: one of them is told that it came too late', async () => {
    const into = await at.make('Twice')
    const twin = idOf((await add({ label: 'Twice', scoreMaximum: 40 })).body)
    const codes = await Promise.all(
      [1, 2].map(() => codeOf(at.tomas.client.call('mergeColumn', { params: { assignment: twin }, body: { into } }))),
    )
    expect(codes.sort()).toEqual(['column.not_mergeable', undefined])
  })
})

describe('what a tool does to a column', () => {
  it('is done only when it is noted, too', async () => {
    const made = await add({ label: 'Noted', scoreMaximum: 10 })
    expect(made.status).toBe(201)
    const id = idOf(made.body)
    const standing = () => at.academy.query(`select id, title, points, state from assignment order by id`)
    const before = await standing()
    await at.academy.query(
      `create function no_note() returns trigger language plpgsql as $$ begin raise 'no note'; end $$`,
    )
    await at.academy.query(
      `create trigger no_note before insert on audit_entry for each row execute function no_note()`,
    )
    try {
      const changed = { id: made.body.id, label: 'Otherwise', scoreMaximum: 20 }
      for (const answer of [
        await add({ label: 'Not noted', scoreMaximum: 5 }),
        await at.call('PUT', `lineitems/${id}`, changed, { type: LINE_ITEM }),
        await at.call('DELETE', `lineitems/${id}`),
      ])
        expect(answer.status).toBe(500)
      expect(await standing()).toEqual(before)
    } finally {
      await at.academy.query(`drop trigger no_note on audit_entry`)
    }
    expect((await at.call('DELETE', `lineitems/${id}`)).status).toBe(204)
    const { items } = await at.academy.admin.client.call('listAudit', { query: { limit: 2 } })
    expect(items.map((one) => one.action)).toEqual(['tool deleted column', 'tool made column'])
  })
})
