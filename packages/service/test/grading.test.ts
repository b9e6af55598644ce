import { outcomeXml } from '@bathyscribe/practice-tools'
import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { codeOf } from './harness.js'
import { launch13, verified } from './harness-13.js'
import { startScoring, type Scoring } from './scoring-13.js'

let at: Scoring
beforeAll(async () => {
  at = await startScoring()
})
const book = () => at.tomas.client.call('showGradebook', { params: { course: 'HYD-210' } })
const hand = (column: string, who: string, body: object) =>
  at.tomas.client.call('gradeByHand', { params: { assignment: column, person: who }, body: body as { act: 'lift' } })
const change = async (column: string, body: Record<string, unknown>) => {
  const { revision } = await at.tomas.client.call('showAssignment', { params: { assignment: column } })
  return at.tomas.client.call('changeAssignment', {
    params: { assignment: column },
    body: { revision, keepScores: true, ...body },
  })
}

describe('which score counts', () => {
  it.each([
    ['latest', '20'],
    ['best', '30'],
    ['first', '10'],
    ['mean', '20'],
  ] as const)('%s', async (counting, points) => {
    const column = await at.make(`Counts ${counting}`, { counting })
    for (const given of [10, 30, 20]) await at.score(column, 'aino', given)
    expect(await at.cell(column, 'aino')).toMatchObject({ points, attempts: 3 })
  })

  it('is derived from the trail: what stands after each message is what the whole trail comes to', async () => {
    const step = fc.oneof(
      { weight: 6, arbitrary: fc.integer({ min: 0, max: 50 }) },
      { weight: 1, arbitrary: fc.constant(null) },
      { weight: 1, arbitrary: fc.constant('wait' as const) },
    )
    const counting = fc.constantFrom('latest' as const, 'best' as const, 'first' as const, 'mean' as const)
    let n = 0
    await fc.assert(
      fc.asyncProperty(fc.array(step, { minLength: 1, maxLength: 7 }), counting, async (steps, rule) => {
        const column = await at.make(`Derived ${++n}`, { counting: rule, points: '7' })
        for (const one of steps)
          await at.score(
            column,
            'bo',
            one === 'wait' ? null : one,
            one === 'wait' ? { gradingProgress: 'PendingManual' } : { ...(one !== null && { scoreMaximum: 37 }) },
          )
        const rows = () =>
          at.academy.query(
            `select fraction, points, sent, sent_out_of, score_id, attempts, counted, sum, activity, grading, comment, at from result where assignment_id = $1`,
            [column],
          )
        const before = await rows()
        // Changing the points there and back derives everything anew.
        await change(column, { points: '9' })
        await change(column, { points: '7' })
        expect(await rows()).toEqual(before)
      }),
      { numRuns: 12 },
    )
  }, 60_000)

  it('says what would change before it is changed', async () => {
    const column = await at.make('Foreseen')
    for (const given of [10, 30, 20]) await at.score(column, 'aino', given)
    await at.score(column, 'bo', 25)
    const ask = (body: object) => at.tomas.client.call('previewRecount', { params: { assignment: column }, body })
    expect(await ask({ counting: 'best' })).toMatchObject({
      stays: 1,
      changes: [{ person: { username: 'aino' }, now: '20', then: '30' }],
    })
    expect((await ask({ points: '80' })).changes.map((one) => one.then)).toEqual(['40', '50'])
    await change(column, { counting: 'best' })
    expect((await at.cell(column, 'aino')).points).toBe('30')
  })
})

describe('the instructor’s own word', () => {
  it('stays until it is lifted, while what the tool sends enters the trail', async () => {
    const column = await at.make('By hand')
    await at.score(column, 'aino', 10)
    await hand(column, 'aino', { act: 'override', points: '35.5', comment: 'Seen the chart' })
    expect(await at.score(column, 'aino', 12)).toBe(204)
    const trail = await at.tomas.client.call('showTrail', { params: { assignment: column, person: 'aino' } })
    expect(trail.cell).toMatchObject({
      points: '35.5',
      shown: '36',
      overridden: true,
      state: 'commented',
      comment: 'Seen the chart',
    })
    expect(trail.items.map((one) => [one.operation, one.by?.username ?? null])).toEqual([
      ['replace', null],
      ['override', 'tomas'],
      ['replace', null],
    ])
    expect(trail.explained).toBe(
      '35.5 of 40 points, set by the instructor; stays until it is lifted. The tool’s own: 12 of 40 × 40 points = 12.',
    )
    const work = await at.aino.client.call('showWork', { params: { assignment: column } })
    expect(work.result).toMatchObject({ points: '35.5', comment: 'Seen the chart' })
    await hand(column, 'aino', { act: 'lift' })
    expect(await at.cell(column, 'aino')).toMatchObject({ points: '12', overridden: false })
    expect(await codeOf(hand(column, 'aino', { act: 'lift' }))).toBe('result.not_overridden')
  })

  it('can exempt, and count again', async () => {
    const column = await at.make('Exempt')
    await at.score(column, 'bo', 10)
    await hand(column, 'bo', { act: 'exempt' })
    expect(await at.cell(column, 'bo')).toMatchObject({ state: 'exempt', points: null })
    await hand(column, 'bo', { act: 'count' })
    expect(await at.cell(column, 'bo')).toMatchObject({ points: '10' })
  })

  it('is only about learners, by who teaches, with good points', async () => {
    const column = await at.make('Refused')
    const body = { act: 'override', points: '1' } as const
    expect(await codeOf(hand(column, 'tomas', body))).toBe('result.person_not_scored')
    expect(await codeOf(hand(column, 'nobody', body))).toBe('enrolment.not_found')
    for (const points of ['-1', '1e5', 'NaN', '1,5'])
      expect(await codeOf(hand(column, 'aino', { act: 'override', points }))).toBe('request.invalid')
    expect(
      await codeOf(at.aino.client.call('gradeByHand', { params: { assignment: column, person: 'aino' }, body })),
    ).toBe('access.denied')
  })
})

describe('states', () => {
  it('follow the tool’s words, and late work is said to be late', async () => {
    const column = await at.make('Watched', { dueAt: '2026-01-01T12:00:00Z', points: '40' })
    const say = (activityProgress: string, gradingProgress: string) =>
      at.score(column, 'cyd', null, { activityProgress, gradingProgress })
    const seen: string[] = []
    for (const [activity, grading] of [
      ['Started', 'NotReady'],
      ['Submitted', 'Pending'],
      ['Submitted', 'PendingManual'],
      ['Completed', 'Failed'],
    ] as const) {
      await say(activity, grading)
      seen.push((await at.cell(column, 'cyd')).state)
    }
    expect(seen).toEqual(['started', 'submitted', 'waiting', 'failed'])
    await at.score(column, 'cyd', 40, { comment: 'Good', submission: { submittedAt: '2026-01-02T00:00:00Z' } })
    expect(await at.cell(column, 'cyd')).toMatchObject({ state: 'commented', late: true, points: '40' })
  })

  it('a score that is not newer than any word of the tool is refused by 409', async () => {
    const column = await at.make('In order')
    const later = new Date(Date.now() + 60_000).toISOString()
    expect(await at.score(column, 'bo', null, { timestamp: later, gradingProgress: 'PendingManual' })).toBe(204)
    for (const timestamp of [later, '1970-01-01T00:00:00Z', new Date().toISOString()])
      expect(await at.score(column, 'bo', 5, { timestamp })).toBe(409)
    expect(await at.cell(column, 'bo')).toMatchObject({ state: 'waiting', points: null })
  })

  it('of results that are held back learners see only that they wait', async () => {
    const column = await at.make('Held back', { released: false })
    await at.score(column, 'aino', 40, { comment: 'Secret still' })
    const work = await at.aino.client.call('showWork', { params: { assignment: column } })
    expect(work.result).toEqual({
      state: 'waiting',
      points: null,
      shown: null,
      sent: null,
      sentOutOf: null,
      overridden: false,
      comment: null,
      at: null,
    })
  })

  it('a result that the instructor set says so to its learner', async () => {
    const column = await at.make('Set by hand')
    await at.score(column, 'aino', 10)
    await hand(column, 'aino', { act: 'override', points: '35.5' })
    const work = await at.aino.client.call('showWork', { params: { assignment: column } })
    expect(work.result).toMatchObject({ points: '35.5', overridden: true })
  })

  it('who has no score yet is listed with the reason', async () => {
    const column = await at.make('Missing')
    await at.score(column, 'aino', 40)
    await at.score(column, 'bo', null, { gradingProgress: 'PendingManual', activityProgress: 'Submitted' })
    const { items } = await at.tomas.client.call('listUnscored', { params: { assignment: column } })
    expect(items.map((one) => [one.person.username, one.why])).toEqual([
      ['bo', 'waiting'],
      ['cyd', 'never_launched'],
    ])
  })
})

describe('the gradebook', () => {
  it('totals by weighted categories, rounds for display only, and counts missing work when told so', async () => {
    const settings = { shownDecimals: 1, missingCounts: true, weights: { Drills: '100' } }
    await at.tomas.client.call('changeGradebook', { params: { course: 'HYD-210' }, body: settings })
    const { rows, settings: kept } = await book()
    expect(kept).toMatchObject({ shownDecimals: 1, missingCounts: true, weights: [{ name: 'Drills', weight: '100' }] })
    const aino = rows.find((row) => row.person.username === 'aino')!
    expect(aino.outOf).toBe('100')
    expect(aino.shownTotal).toMatch(/^\d+(\.\d)?$/)
    const wrong = (weights: Record<string, string>) =>
      codeOf(at.tomas.client.call('changeGradebook', { params: { course: 'HYD-210' }, body: { weights } }))
    expect(await wrong({ Nothing: '1' })).toBe('category.not_found')
    expect(await wrong({ Drills: '101' })).toBe('category.weight')
    expect(await codeOf(at.aino.client.call('showGradebook', { params: { course: 'HYD-210' } }))).toBe('access.denied')
  })

  it('gives its first learners by themselves, just as they are in the whole, and says how many there are', async () => {
    const column = await at.make('First of all')
    for (const [i, who] of ['aino', 'bo', 'cyd'].entries()) await at.score(column, who, i)
    const whole = await book()
    expect(whole.learners).toBe(whole.rows.length)
    const first = (first: number) =>
      at.tomas.client.call('showGradebook', { params: { course: 'HYD-210' }, query: { first } })
    const two = await first(2)
    expect(two.rows).toEqual(whole.rows.slice(0, 2))
    expect(two).toMatchObject({ learners: whole.learners, columns: whole.columns })
    expect((await first(whole.learners)).rows).toEqual(whole.rows)
    for (const wrong of [0, -1, 5001, 1.5, 'two' as never]) expect(await codeOf(first(wrong))).toBe('request.invalid')
  })

  it('keeps a history that is searched and paged, and shows many scores at once as one event', async () => {
    const column = await at.make('Burst')
    for (let i = 0; i < 14; i++) await at.score(column, ['aino', 'bo', 'cyd'][i % 3]!, i)
    const { items: bursts } = await at.tomas.client.call('listScoreBursts', { params: { course: 'HYD-210' } })
    expect(bursts[0]!.scores).toBeGreaterThanOrEqual(14)
    expect(bursts[0]).toMatchObject({ tool: { name: 'Bearing Book' } })
    const list = (query: object) => at.tomas.client.call('listScores', { params: { course: 'HYD-210' }, query })
    const found = await list({ search: 'burst', limit: 10 })
    expect(found.items).toHaveLength(10)
    const rest = await list({ search: 'burst', limit: 10, cursor: found.next! })
    expect(rest.items).toHaveLength(4)
    expect(rest.next).toBeNull()
    expect((await list({ by: 'person' })).items.every((one) => one.by?.username === 'tomas')).toBe(true)
    expect((await list({ person: 'bo', assignment: column })).items.every((one) => one.person.username === 'bo')).toBe(
      true,
    )
  })

  it('ten scores at once for one person: each in the trail once, the newest stands', async () => {
    const column = await at.make('Ten at once')
    const start = Date.now() + 1000
    const statuses = await Promise.all(
      Array.from({ length: 10 }, (_, i) =>
        at.score(column, 'aino', i, { timestamp: new Date(start + i).toISOString() }),
      ),
    )
    const { items } = await at.tomas.client.call('showTrail', { params: { assignment: column, person: 'aino' } })
    expect(items).toHaveLength(statuses.filter((one) => one === 204).length)
    expect(statuses.every((one) => one === 204 || one === 409)).toBe(true)
    expect((await at.cell(column, 'aino')).points).toBe('9')
  })
})

describe('Basic Outcomes for a link of LTI 1.3', () => {
  it('takes scores by token and result identifier, and refuses them without the scope', async () => {
    const column = await at.make('Old way')
    const { fields } = await launch13(at.aino, column, at.client)
    const claims = await verified(at.academy, fields['id_token']!, at.clientId)
    const outcome = claims['https://purl.imsglobal.org/spec/lti-bo/claim/basicoutcome'] as Record<string, string>
    const send = async (bearer: string) => {
      const response = await fetch(outcome['lis_outcome_service_url']!, {
        method: 'POST',
        headers: { 'content-type': 'application/xml', authorization: `Bearer ${bearer}` },
        body: outcomeXml('replaceResult', outcome['lis_result_sourcedid']!, '0.5'),
      })
      return { status: response.status, xml: await response.text() }
    }
    expect((await send(await at.token('https://purl.imsglobal.org/spec/lti-ags/scope/score'))).status).toBe(401)
    expect((await send(await at.token('https://purl.imsglobal.org/spec/lti-bo/scope/basicoutcome'))).xml).toContain(
      '>success<',
    )
    expect(await at.cell(column, 'aino')).toMatchObject({ points: '20', sent: '0.5' })
  })
})

describe('reviewing a submission', () => {
  const FOR_USER = 'https://purl.imsglobal.org/spec/lti/claim/for_user'
  const open = async (who: Scoring['tomas'], column: string, person: string) => {
    const response = await who.send(`/lti/review/${column}/${person}`)
    const page = await response.text()
    return {
      status: response.status,
      page,
      fields: Object.fromEntries(
        [...page.matchAll(/<input type="hidden" name="([^"]*)" value="([^"]*)"/g)].map(([, name, value]) => [
          name!,
          value!,
        ]),
      ),
    }
  }
  it('opens the column’s own address as the instructor, naming whose work it is', async () => {
    const column = await at.make('Reviewed')
    const url = `${at.client.origin}/review`
    await at.call('PUT', `lineitems/${column}`, {
      label: 'x',
      scoreMaximum: 1,
      submissionReview: { url, custom: { step: '2' } },
    })
    await at.score(column, 'aino', 20)
    const [aino] = await at.academy.query<{ id: string }>(`select id from person where username = 'aino'`)
    const begun = await open(at.tomas, column, aino!.id)
    expect(begun.fields).toMatchObject({ target_link_uri: url })
    const { authorize13 } = await import('./harness-13.js')
    const { fields } = await authorize13(at.tomas, begun.fields, at.client)
    const claims = await verified(at.academy, fields['id_token']!, at.clientId)
    expect(claims).toMatchObject({
      'https://purl.imsglobal.org/spec/lti/claim/message_type': 'LtiSubmissionReviewRequest',
      sub: at.subjects['tomas'],
      [FOR_USER]: { user_id: at.subjects['aino'], name: 'Aino Testmann' },
      'https://purl.imsglobal.org/spec/lti-ags/claim/endpoint': { lineitem: `${at.service}/lineitems/${column}` },
      'https://purl.imsglobal.org/spec/lti/claim/custom': { step: '2' },
    })
    expect((await open(at.aino, column, aino!.id)).status).toBe(200)
    const [bo] = await at.academy.query<{ id: string }>(`select id from person where username = 'bo'`)
    expect((await open(at.aino, column, bo!.id)).status).toBe(404)
    await change(column, { released: false })
    expect((await open(at.aino, column, aino!.id)).status).toBe(404)
    const other = await at.make('Not reviewed')
    expect((await open(at.tomas, other, aino!.id)).status).toBe(409)
    // As any launch that may not be begun, it says so in the wire log.
    const { items } = await at.tomas.client.call('listWire', { query: { assignment: other, limit: 5 } })
    expect(items).toMatchObject([{ kind: 'launch', outcome: 'refused', code: 'launch.no_review' }])
  })

  it('is offered and opened only for work that is as far as the tool shows', async () => {
    const column = await at.make('Shown when handed in')
    const shown = (reviewableStatus?: string[]) =>
      at.call('PUT', `lineitems/${column}`, { label: 'x', scoreMaximum: 1, submissionReview: { reviewableStatus } })
    await shown(['Submitted', 'Completed'])
    const [aino] = await at.academy.query<{ id: string }>(`select id from person where username = 'aino'`)
    const offered = async () => ({
      teacher: (await at.tomas.client.call('showTrail', { params: { assignment: column, person: 'aino' } })).reviewable,
      learner: (await at.aino.client.call('showWork', { params: { assignment: column } })).reviewable,
      opens: (await open(at.tomas, column, aino!.id)).status,
    })
    const NOT = { teacher: false, learner: false, opens: 409 }
    expect(await offered()).toEqual(NOT)
    await at.score(column, 'aino', null, { activityProgress: 'InProgress', gradingProgress: 'Pending' })
    expect(await offered()).toEqual(NOT)
    expect((await open(at.tomas, column, aino!.id)).page).toContain('does not show a submission in this state')
    await at.score(column, 'aino', null, { activityProgress: 'Submitted', gradingProgress: 'PendingManual' })
    expect(await offered()).toEqual({ teacher: true, learner: true, opens: 200 })
    await shown([])
    expect(await offered()).toEqual(NOT)
    // A tool that names no state means any.
    await shown()
    expect(await offered()).toEqual({ teacher: true, learner: true, opens: 200 })
  })
})
