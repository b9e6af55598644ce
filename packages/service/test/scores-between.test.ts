import { outcomeAuthorization, outcomeXml, sendOutcome } from '@bathyscribe/practice-tools'
import pg from 'pg'
import { beforeAll, describe, expect, it } from 'vitest'
import { eventually } from '../../../test/eventually.js'
import { expire } from '../src/records/expiry.js'
import { closeAfterwards } from './closing.js'
import { KEY, openForm, openRecords, publishDrill, registerKnotwork, SECRET } from './harness.js'
import { startScoring, type Scoring } from './scoring-13.js'

let at: Scoring
/** Somebody else at the same records: another process, or an instructor's act. */
let other: pg.Client
let old: { assignment: string; resultId: string }
beforeAll(async () => {
  at = await startScoring()
  await registerKnotwork(at.academy)
  const assignment = (await publishDrill(at.academy, 'knotwork-drills')).id
  old = { assignment, resultId: (await openForm(at.aino, assignment)).fields['lis_result_sourcedid']! }
  const { databaseUrl, databaseSchema } = at.academy.service.context.settings
  other = new pg.Client({ connectionString: databaseUrl, options: `-c search_path=${databaseSchema}` })
  await other.connect()
  closeAfterwards(() => other.end())
})
const target = () => ({
  serviceUrl: `${at.academy.url}/lti/outcomes`,
  resultId: old.resultId,
  key: KEY,
  secret: SECRET,
})
const send = (score: string) => sendOutcome(target(), outcomeXml('replaceResult', old.resultId, score))
const trail = async (assignment: string, person = 'aino') =>
  at.academy.admin.client.call('showTrail', { params: { assignment, person } })
const entries = async () =>
  Number((await at.academy.query<{ n: string }>('select count(*) as n from wire_entry'))[0]!.n)
/** Does something while a transaction of somebody else is open, and lets that one end once ours waits for it. */
async function meanwhile<T>(begin: () => Promise<unknown>, ours: () => Promise<T>): Promise<T> {
  await other.query('begin')
  await begin()
  const answer = ours()
  await eventually(async () => {
    const [row] = await at.academy.query<{ n: number }>(
      `select count(*)::int as n from pg_stat_activity where wait_event_type = 'Lock' and datname = current_database()`,
    )
    expect(row!.n).toBeGreaterThan(0)
  })
  await other.query('commit')
  const first = await answer
  // On a machine so busy that the row was held too long it was told to come again, and does.
  return first === 503 || (first as { status?: number } | null)?.status === 503 ? ours() : first
}

describe('between our reading and our writing', () => {
  it('points change: what is kept is of the new points, by LTI 1.3 and by 1.1', async () => {
    const column = await at.make('Points change', { points: '40' })
    const change = (id: string, points: number) => async () => {
      await other.query('select 1 from assignment where id = $1 for update', [id])
      await other.query('update assignment set points = $2 where id = $1', [id, points])
    }
    expect(await meanwhile(change(column, 80), () => at.score(column, 'aino', 20))).toBe(204)
    expect(await at.cell(column, 'aino')).toMatchObject({ points: '40' })
    expect((await trail(column)).items).toHaveLength(1)
    const answer = await meanwhile(change(old.assignment, 80), () => send('0.25'))
    expect(answer.codeMajor).toBe('success')
    expect((await trail(old.assignment)).cell).toMatchObject({ points: '20' })
  })

  it('another process keeps a newer score: the older one is told so, and neither stands nor is kept', async () => {
    const column = await at.make('Two processes')
    expect(await at.score(column, 'aino', 10)).toBe(204)
    const newer = new Date(Date.now() + 3_600_000)
    const before = await entries()
    const status = await meanwhile(
      () => other.query(`update result set sent_at = $2, sent = '36', points = 36, fraction = 0.9 where assignment_id = $1`, [column, newer]),
      () => at.score(column, 'aino', 20),
    ) // oxfmt-ignore
    expect(status).toBe(409)
    expect(await at.cell(column, 'aino')).toMatchObject({ points: '36', sent: '36' })
    expect((await trail(column)).items).toHaveLength(1)
    // Only that it was refused.
    expect(await entries()).toBe(before + 1)
  })

  it('the column is merged into another: the score goes where the column went', async () => {
    const into = await at.make('Merged into', { points: '80' })
    const { body } = await at.call<{ id: string }>('POST', 'lineitems', { label: 'Merged', scoreMaximum: 40 })
    const merged = body.id.split('/').at(-1)!
    const status = await meanwhile(
      async () => {
        await other.query('select 1 from assignment where id = $1 for update', [merged])
        await other.query('update assignment set merged_into = $2 where id = $1', [merged, into])
      },
      () => at.score(merged, 'bo', 20),
    )
    expect(status).toBe(204)
    const rows = await at.academy.query(`select assignment_id, points::text from result where assignment_id = any($1)`, [[into, merged]]) // oxfmt-ignore
    expect(rows).toEqual([{ assignment_id: into, points: '40' }])
    // The trail says where it was sent.
    expect(await at.academy.query(`select assignment_id from score where assignment_id = $1`, [merged])).toHaveLength(1)
    // Its results are read from where they are.
    const results = await at.call<{ resultScore: number; resultMaximum: number }[]>('GET', `${body.id}/results`)
    expect(results.body).toMatchObject([{ resultScore: 40, resultMaximum: 80 }])
  })

  it('the column is deleted: nothing is kept', async () => {
    const column = await at.make('Deleted meanwhile')
    const status = await meanwhile(
      async () => {
        await other.query('select 1 from assignment where id = $1 for update', [column])
        await other.query(`update assignment set state = 'deleted', deleted_at = now(), points = points + 1 where id = $1`, [column]) // oxfmt-ignore
      },
      () => at.score(column, 'aino', 20),
    )
    expect(status).toBe(404)
    expect(await at.academy.query('select 1 from score where assignment_id = $1', [column])).toEqual([])
  })
})

describe('a column that its tool changes', () => {
  it('takes its scores along to other points, as shares of what they were out of', async () => {
    const { body } = await at.call<{ id: string }>('POST', 'lineitems', { label: 'Out of more', scoreMaximum: 40 })
    const id = body.id.split('/').at(-1)!
    await at.score(id, 'aino', 30)
    await at.score(id, 'bo', 10)
    expect((await at.call('PUT', body.id, { label: 'Out of less', scoreMaximum: 20 })).status).toBe(200)
    expect([await at.cell(id, 'aino'), await at.cell(id, 'bo')]).toMatchObject([{ points: '15' }, { points: '5' }])
    const results = await at.call<{ resultScore: number; resultMaximum: number }[]>('GET', `${body.id}/results`)
    expect(results.body.map((one) => [one.resultScore, one.resultMaximum])).toEqual(
      expect.arrayContaining([
        [15, 20],
        [5, 20],
      ]),
    )
  })

  it('is audited under the tool: made, changed, deleted', async () => {
    const { body } = await at.call<{ id: string }>('POST', 'lineitems', { label: 'Audited', scoreMaximum: 5 })
    await at.call('PUT', body.id, { label: 'Audited twice', scoreMaximum: 6 })
    await at.call('DELETE', body.id)
    const id = body.id.split('/').at(-1)!
    const rows = await at.academy.query(
      `select action, person_id, via like 'tool %' as by_tool, before, after from audit_entry where subject = $1 order by id`,
      [`column ${id}`],
    )
    expect(rows).toMatchObject([
      { action: 'tool made column', by_tool: true, person_id: null, after: { title: 'Audited', points: '5' } },
      { action: 'tool changed column', before: { title: 'Audited' }, after: { title: 'Audited twice' } },
      { action: 'tool deleted column', before: { title: 'Audited twice', points: '6' } },
    ])
  })

  it('is one of five hundred at most', async () => {
    await at.academy.query(
      `insert into assignment (id, course_id, registration_id, slug, title, instructions, points, state, document_target, custom_parameters, resource_link_id, revision, position,
         published_at, created_at, updated_at, settings_changed_at)
       select 'mass' || g, course_id, registration_id, 'mass-' || g, 'Mass ' || g, '', 10, 'column', document_target, '{}', 'mass' || g, 1, g, now(), now(), now(), now()
       from (select * from assignment where title = 'Out of less') a,
         generate_series(1, 500 - (select count(*)::int from assignment where state = 'column' and merged_into is null)) g`,
    )
    expect(await at.call('POST', 'lineitems', { label: 'One more', scoreMaximum: 5 })).toMatchObject({
      body: { error: 'line_item.too_many' },
    })
    await at.academy.query(`delete from assignment where id like 'mass%'`)
    expect((await at.call('POST', 'lineitems', { label: 'One more', scoreMaximum: 5 })).status).toBe(201)
  })
})

describe('a score that is refused', () => {
  it('leaves one entry in the wire log, and in the trail no points', async () => {
    const column = await at.make('Refused')
    await at.academy.admin.client.call('changeEnrolment', {
      params: { course: 'HYD-210', person: 'cyd' },
      body: { state: 'dropped' },
    })
    const before = await entries()
    expect(await at.score(column, 'cyd', 20)).toBe(400)
    expect(await entries()).toBe(before + 1)
    const rows = await at.academy.query('select outcome, code, sent, points, fraction from score where assignment_id = $1', [column]) // oxfmt-ignore
    expect(rows).toMatchObject([{ outcome: 'refused', code: 'score.not_a_learner', sent: '20' }])
    expect(await at.academy.query('select 1 from result where assignment_id = $1', [column])).toEqual([])
  })

  it('for somebody who instructs by now keeps what was sent, but no points, by the result identifier of before', async () => {
    const change = (role: string) =>
      at.academy.admin.client.call('changeEnrolment', {
        params: { course: 'HYD-210', person: 'aino' },
        body: { role: role as 'learner' },
      })
    const xml = outcomeXml('replaceResult', old.resultId, '0.9').replace('</result>', '<resultData><text>Knots</text></resultData></result>') // oxfmt-ignore
    const standing = (await trail(old.assignment)).cell.points
    await change('teaching_assistant')
    const refused = await sendOutcome(target(), xml)
    expect(refused.description).toMatch(/^score\.not_a_learner/)
    await change('learner')
    expect((await trail(old.assignment)).cell.points).toBe(standing)
    const [row] = await at.academy.query(
      `select outcome, sent, fraction, points, handed_in from score where assignment_id = $1 order by id desc limit 1`,
      [old.assignment],
    )
    expect(row).toEqual({
      outcome: 'refused',
      sent: '0.9',
      fraction: null,
      points: null,
      handed_in: { kind: 'text', value: 'Knots' },
    })
    expect((await sendOutcome(target(), xml)).codeMajor).toBe('success')
    expect((await trail(old.assignment)).items[0]).toMatchObject({
      outcome: 'accepted',
      handedIn: { kind: 'text', value: 'Knots' },
    })
  })

  it('uses its nonce up: the same message is a repetition, whatever was wrong with it', async () => {
    const xml = outcomeXml('replaceResult', old.resultId, '2')
    const headers = { 'content-type': 'application/xml', authorization: outcomeAuthorization(target(), xml) }
    const post = async () => (await fetch(target().serviceUrl, { method: 'POST', headers, body: xml })).text()
    expect(await post()).toContain('score.above_one')
    expect(await post()).toContain('oauth.nonce_used')
  })

  it('and a message that was taken is not taken again at the end of its time, whatever was cleared away', async () => {
    const database = await openRecords(at.academy)
    const xml = outcomeXml('replaceResult', old.resultId, '0.5')
    const headers = { 'content-type': 'application/xml', authorization: outcomeAuthorization(target(), xml) }
    const post = async () => (await fetch(target().serviceUrl, { method: 'POST', headers, body: xml })).text()
    expect(await post()).toContain('>success<')
    const tolerance = at.academy.service.context.settings.clockToleranceSeconds * 1000
    at.academy.clock.offsetMs += tolerance - 5000
    await expire(database, 'nonce', at.academy.clock.now())
    expect(await post()).toContain('oauth.nonce_used')
    at.academy.clock.offsetMs -= tolerance - 5000
  })

  it('a link of LTI 1.1 takes no token, though the tool may send scores by one', async () => {
    const response = await fetch(target().serviceUrl, {
      method: 'POST',
      headers: {
        'content-type': 'application/xml',
        authorization: `Bearer ${await at.token('https://purl.imsglobal.org/spec/lti-bo/scope/basicoutcome')}`,
      },
      body: outcomeXml('replaceResult', old.resultId, '1'),
    })
    expect(response.status).toBe(401)
    expect((await trail(old.assignment)).cell.points).toBe('40')
  })
})
