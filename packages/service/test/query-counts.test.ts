import { beforeAll, describe, expect, it } from 'vitest'
import { cookieOf, openForm, publishDrill, registerKnotwork, type Visitor } from './harness.js'
import { launch13 } from './harness-13.js'
import { SCOPES_13, startScoring, type Scoring } from './scoring-13.js'
import { statementsOf } from './statements.js'

let at: Scoring
let bearer: string
beforeAll(async () => {
  at = await startScoring()
  bearer = await at.token(SCOPES_13.score, SCOPES_13.roster)
})

/** A tool's call, carried out within the same work, so that its statements are told from everybody else's. */
async function toolCall(method: 'GET' | 'POST', path: string, body?: unknown): Promise<string[]> {
  return statementsOf(async () => {
    const answer = await at.academy.service.app.inject({
      method,
      url: new URL(path, at.service + '/').pathname + new URL(path, at.service + '/').search,
      headers: {
        authorization: `Bearer ${bearer}`,
        ...(body !== undefined && { 'content-type': 'application/vnd.ims.lis.v1.score+json' }),
      },
      ...(body !== undefined && { payload: JSON.stringify(body) }),
    })
    expect(answer.statusCode, answer.body).toBeLessThan(300)
  })
}

/** The same person in a browser, within the same work. */
const withinWork = (who: Visitor): Visitor => ({
  ...who,
  send: async (path) => {
    const { body, statusCode } = await at.academy.service.app.inject({ url: path, headers: { cookie: cookieOf(who) } })
    return new Response(body, { status: statusCode })
  },
})

describe('a launch', () => {
  it('takes one question, of link and session at once, and one statement', async () => {
    const tool = await registerKnotwork(at.academy)
    const link = await publishDrill(at.academy, tool.slug)
    const open = () => openForm(withinWork(at.aino), link.id)
    expect((await open()).fields).toHaveProperty('oauth_signature')
    expect(await statementsOf(open)).toHaveLength(2)
  })

  it('of LTI 1.3 takes them twice, once for each of its two requests', async () => {
    const link = await at.make('Opened')
    const open = () => launch13(withinWork(at.aino), link, at.client)
    expect((await open()).fields).toHaveProperty('id_token')
    expect(await statementsOf(open)).toHaveLength(4)
  })
})

describe('a sounding that nobody watches', () => {
  // How often it looks for its score, and aside for one that was refused or went elsewhere; what is written or told gathered, by whoever begins: uses of keys, changes, messages
  // and the links that they are of, those of the tool's own call among them.
  const HANGS_ON_TIME =
    /s\.id > \$3::bigint|a\.state = 'column' order by s\.id|from wire_entry|insert into key_use|pg_notify|with asked as|\(link_id, \w+, n\)/

  it('takes few statements, and as many in a course of many links', async () => {
    const { startSounding } = await import('../src/desk/soundings/start-sounding.js')
    const { runSounding } = await import('../src/desk/soundings/run-sounding.js')
    const { academy } = at
    const context = academy.service.context as never
    const tool = await registerKnotwork(academy, { name: 'Sounded', secondReason: 'to sound' })
    await academy.person('sounds', { 'HYD-210': 'instructor' })
    const [row] = await academy.query<{ id: string; course: string }>(
      `select p.id, c.id as course from person p, course c where p.username = 'sounds' and c.code = 'HYD 210'`,
    )
    const { id } = await publishDrill(academy, tool.slug, { title: 'Sounded' })
    const how = { depth: 'plain', follower: 'http', consented: false, waitMinutes: 0 } as const
    const take = async () => {
      let outcome
      const asked = await statementsOf(async () => {
        const sounding = await startSounding(context, { id: row!.id }, { id, courseId: row!.course }, how)
        outcome = await runSounding(context, sounding, new AbortController().signal)
      })
      expect(outcome).toMatchObject({ verdict: expect.stringMatching(/pass|warn/) as string })
      return asked.filter((sql) => !HANGS_ON_TIME.test(sql)).length
    }
    const few = await take()
    for (let n = 0; n < 12; n++) await publishDrill(academy, tool.slug, { title: `Another ${n}` })
    expect(await take()).toBeLessThanOrEqual(few)
    expect(few).toBeLessThanOrEqual(18)
  })
})

describe('however large a course is', () => {
  it('its gradebook is read by four queries', async () => {
    const { readGradebook } = await import('../src/desk/grades/read-gradebook.js')
    const { context } = at.academy.service
    const course = await context.records.courses.byRef('HYD-210')
    for (const title of ['A', 'B', 'C']) await at.score(await at.make(title), 'aino', 10)
    for (const first of [2, 5000])
      expect(
        await statementsOf(() => readGradebook(context as never, course as never, { testLearner: false, first })),
      ).toHaveLength(4)
  })

  it('a page of its roster is one query, and one more says whose token it is', async () => {
    await toolCall('GET', 'memberships')
    const sent = await toolCall('GET', 'memberships?limit=2')
    expect(sent.filter((sql) => !/insert into wire_entry/i.test(sql))).toHaveLength(2)
  })

  it('a score is taken by one question and one statement', async () => {
    const column = await at.make('Counted')
    const score = (given: number, at_: string) => ({
      userId: at.subjects['aino'],
      scoreGiven: given,
      scoreMaximum: 40,
      activityProgress: 'Completed',
      gradingProgress: 'FullyGraded',
      timestamp: at_,
    })
    await toolCall('POST', `lineitems/${column}/scores`, score(1, '2026-11-02T10:00:00Z'))
    expect(await toolCall('POST', `lineitems/${column}/scores`, score(2, '2026-11-02T11:00:00Z'))).toHaveLength(2)
  })
})
