import { createHash, randomBytes } from 'node:crypto'
import { createTally } from '@bathyscribe/practice-tools'
import { beforeAll, describe, expect, it } from 'vitest'
import { codeOf, startAcademy, type TestAcademy, type Visitor } from './harness.js'
import { SCOPES_13, startScoring } from './scoring-13.js'
import { startPractice, type Practice } from './practice-13.js'

let academy: TestAcademy
let tally: Practice
let tomas: Visitor
let course: string
const SCOPES = [SCOPES_13.columns, SCOPES_13.results, SCOPES_13.score, SCOPES_13.roster]

beforeAll(async () => {
  academy = await startAcademy()
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  for (const name of ['aino', 'bo']) await academy.person(name, { 'HYD-210': 'learner' })
  tomas = await academy.signIn('tomas')
  course = (await academy.admin.client.call('showCourse', { params: { course: 'HYD-210' } })).id
  tally = await startPractice(academy, 'Tally Bench', createTally, SCOPES, { target: '/bench' })
  await academy.query(`update registration set redirect_uris = redirect_uris || $1::text where slug = $2`, [
    `${tally.url}/connected`,
    tally.slug,
  ])
})

/** The tool's question, as it arrives in the instructor's browser. */
async function question() {
  const response = await fetch(`${tally.url}/connect`, { redirect: 'manual' })
  const asked = new URL(response.headers.get('location')!)
  expect(`${asked.origin}${asked.pathname}`).toBe(`${academy.url}/connect`)
  const get = (name: string) => asked.searchParams.get(name) ?? ''
  expect([get('response_type'), get('code_challenge_method')]).toEqual(['code', 'S256'])
  return {
    clientId: get('client_id'),
    redirectUri: get('redirect_uri'),
    scope: get('scope'),
    state: get('state'),
    codeChallenge: get('code_challenge'),
  }
}
type Asked = Awaited<ReturnType<typeof question>>
const consent = (who: Visitor, asked: Asked, change: Record<string, unknown> = {}) =>
  who.client.call('connectTool', { body: { ...asked, scopes: SCOPES, courses: [course], ...change } })
const post = async (path: string, fields: Record<string, string> = {}) => {
  const response = await fetch(`${tally.url}${path}`, { method: 'POST', body: new URLSearchParams(fields) })
  return { status: response.status, html: await response.text() }
}
const bench = async () =>
  (await (await fetch(`${tally.url}/practice/tally`)).json()) as {
    connected: boolean
    courses: Record<string, { people: unknown[]; news: { added: string[]; left: string[] } }>
  }

describe('a tool that is connected by consent', () => {
  it('asks on a page of ours for what is granted to it, in courses that the person instructs', async () => {
    const { codeChallenge: _, ...asked } = await question()
    const shown = await tomas.client.call('showConnectionRequest', { query: asked })
    expect(shown).toMatchObject({ tool: { name: 'Tally Bench' }, courses: [{ code: 'HYD 210' }] })
    expect(shown.scopes.map((one) => one.says)).toContain('read the roster of a course')
    expect(new URL(shown.refuseTo).searchParams.get('error')).toBe('access_denied')
    const aino = await academy.signIn('aino')
    expect((await aino.client.call('showConnectionRequest', { query: asked })).courses).toEqual([])
  })

  it.each([
    ['login.client_unknown', { clientId: 'nobody' }],
    ['login.redirect_uri_unknown', { redirectUri: 'https://evil.example/' }],
    ['connection.challenge', { codeChallenge: 'plain' }],
    ['connection.scope', { scopes: ['urn:everything'] }],
    ['connection.course', { courses: ['zzzzzzzzzzzz'] }],
  ])('%s is refused, and nothing is connected', async (code, change) => {
    expect(await codeOf(consent(tomas, await question(), change))).toBe(code)
    expect((await tomas.client.call('listConnections', {})).items).toEqual([])
  })

  it('lists the courses, pulls the roster with adds and drops, makes a column, posts all, and posts again after a regrade', async () => {
    const { redirectTo } = await consent(tomas, await question())
    expect(new URL(redirectTo).searchParams.get('iss')).toBe(academy.url)
    expect((await fetch(redirectTo)).status).toBe(200)
    await post('/fetch', { course })
    expect((await bench()).courses[course]!.news.added.sort()).toHaveLength(2)
    await academy.person('cyd', { 'HYD-210': 'learner' })
    await academy.admin.client.call('changeEnrolment', {
      params: { course: 'HYD-210', person: 'bo' },
      body: { state: 'dropped' },
    })
    await post('/fetch', { course })
    const { news } = (await bench()).courses[course]!
    expect([news.added.length, news.left.length]).toEqual([1, 1])

    await post('/trial', { course, label: 'Berthing trial', maximum: '20' })
    const subjects = Object.fromEntries(
      (await academy.query<{ username: string; subject: string }>(`select username, subject from person`)).map(
        (row) => [row.username, row.subject],
      ),
    )
    await post('/marks', {
      course,
      trial: 'Berthing trial',
      [`mark ${subjects['aino']}`]: '15.5',
      [`mark ${subjects['cyd']}`]: '9',
    })
    expect((await post('/send', { course, trial: 'Berthing trial' })).html).toContain('2 scores are at your platform')
    const cell = async (who: string) => {
      const book = await tomas.client.call('showGradebook', { params: { course: 'HYD-210' } })
      const column = book.columns.find((one) => one.title === 'Berthing trial')!
      expect(column.state).toBe('column')
      return book.rows.find((row) => row.person.username === who)!.cells[column.id]?.points
    }
    expect([await cell('aino'), await cell('cyd')]).toEqual(['15.5', '9'])
    await post('/marks', { course, trial: 'Berthing trial', [`mark ${subjects['cyd']}`]: '11' })
    await post('/send', { course, trial: 'Berthing trial' })
    expect([await cell('aino'), await cell('cyd')]).toEqual(['15.5', '11'])
    const [found] = (await tomas.client.call('listConnections', {})).items
    expect(found).toMatchObject({
      tool: { name: 'Tally Bench' },
      person: { username: 'tomas' },
      revokedAt: null,
      lastUsedAt: expect.any(String) as string,
    })
  })

  it('is taken back by the instructor at once, also for tokens that are still good', async () => {
    await fetch((await consent(tomas, await question())).redirectTo)
    expect((await post('/fetch', { course })).status).toBe(200)
    const [open] = (await tomas.client.call('listConnections', {})).items.filter((one) => one.revokedAt === null)
    const aino = await academy.signIn('aino')
    expect(await codeOf(aino.client.call('revokeConnection', { params: { id: open!.id } }))).toBe(
      'connection.not_found',
    )
    for (const one of (await tomas.client.call('listConnections', {})).items.filter((each) => each.revokedAt === null))
      await tomas.client.call('revokeConnection', { params: { id: one.id } })
    expect((await post('/fetch', { course })).status).toBe(502)
    expect(await codeOf(tomas.client.call('revokeConnection', { params: { id: open!.id } }))).toBe('connection.ended')
  })

  it('reaches no course that was not chosen, and none that its person no longer instructs', async () => {
    await fetch((await consent(tomas, await question(), { scopes: [SCOPES_13.roster] })).redirectTo)
    expect((await post('/fetch', { course })).status).toBe(200)
    expect((await post('/trial', { course, label: 'Not granted', maximum: '5' })).status).toBe(502)
    await academy.admin.client.call('changeEnrolment', {
      params: { course: 'HYD-210', person: 'tomas' },
      body: { role: 'teaching_assistant' },
    })
    expect((await post('/fetch', { course })).status).toBe(502)
    await academy.admin.client.call('changeEnrolment', {
      params: { course: 'HYD-210', person: 'tomas' },
      body: { role: 'instructor' },
    })
    expect((await post('/fetch', { course })).status).toBe(200)
  })

  it('gives itself back', async () => {
    await post('/disconnect')
    expect((await bench()).connected).toBe(false)
    const { items } = await academy.admin.client.call('listConnections', {})
    expect(items.map((one) => one.revokedBy)).toContain('tool')
  })

  it('a code is good once, for the tool, address and proof key it was given for', async () => {
    const asked = await question()
    const code = new URL((await consent(tomas, asked)).redirectTo).searchParams.get('code')!
    // Somebody else brings it: the state is not theirs.
    expect((await fetch(`${tally.url}/connected?code=${code}&state=other`)).status).toBe(400)
    const first = await fetch(`${tally.url}/connected?code=${code}&state=${asked.state}`)
    expect(first.status).toBe(200)
    await fetch(`${tally.url}/connect`, { redirect: 'manual' })
    const again = await question()
    expect((await fetch(`${tally.url}/connected?code=${code}&state=${again.state}`)).status).toBe(502)
    const { items } = await academy.admin.client.call('listConnections', {})
    expect(items.map((one) => one.revokedBy)).toContain('misuse')
    expect((await post('/fetch', { course })).status).toBe(502)
  })
})

describe('tokens of a connection', () => {
  it('are refreshed once each; one that comes twice ends the connection, a wrong proof key opens nothing', async () => {
    const at = await startScoring()
    const { clientId, client } = at
    const verifier = randomBytes(32).toString('base64url')
    const asked = {
      clientId,
      redirectUri: `${client.origin}/launch`,
      scope: SCOPES_13.roster,
      state: 's',
      codeChallenge: createHash('sha256').update(verifier).digest('base64url'),
      scopes: [SCOPES_13.roster],
      courses: [(await at.tomas.client.call('showCourse', { params: { course: 'HYD-210' } })).id],
    }
    const code = async () =>
      new URL((await at.tomas.client.call('connectTool', { body: asked })).redirectTo).searchParams.get('code')!
    const grant = async (form: Record<string, string>) =>
      client.token({ client_assertion: await client.assertion(clientId), ...form })
    const byCode = async (change: Record<string, string> = {}) =>
      grant({
        grant_type: 'authorization_code',
        code: await code(),
        redirect_uri: asked.redirectUri,
        code_verifier: verifier,
        ...change,
      })
    const refused = { status: 400, body: { error: 'invalid_grant' } }
    expect(await byCode({ code_verifier: randomBytes(32).toString('base64url') })).toMatchObject(refused)
    expect(await byCode({ redirect_uri: `${client.origin}/other` })).toMatchObject(refused)
    expect(await byCode({ code: 'made-up' })).toMatchObject(refused)
    const old = await code()
    at.academy.clock.offsetMs += 200_000
    expect(await byCode({ code: old })).toMatchObject(refused)
    at.academy.clock.offsetMs -= 200_000

    const first = await byCode()
    expect(first).toMatchObject({ status: 200, body: { token_type: 'Bearer', scope: SCOPES_13.roster } })
    const read = (bearer: string) => at.call('GET', 'memberships', undefined, { bearer })
    expect((await read(first.body['access_token']!)).status).toBe(200)
    expect((await at.call('GET', 'lineitems', undefined, { bearer: first.body['access_token']! })).status).toBe(403)
    const refresh = (token: string) => grant({ grant_type: 'refresh_token', refresh_token: token })
    const second = await refresh(first.body['refresh_token']!)
    expect(second.status).toBe(200)
    expect((await read(second.body['access_token']!)).status).toBe(200)
    expect(await refresh(first.body['refresh_token']!)).toMatchObject(refused)
    expect((await read(second.body['access_token']!)).status).toBe(404)
    expect(await refresh(second.body['refresh_token']!)).toMatchObject(refused)
  })
})
