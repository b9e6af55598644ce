import { Refusal } from '@bathyscribe/contract'
import { writeResultId } from '@bathyscribe/core/lti1'
import { describe, expect, it } from 'vitest'
import * as authorization from '../src/inbound/messages/authorization.js'
import * as returned from '../src/inbound/messages/return.js'
import { inbound, type Refused } from '../src/inbound/message.js'
import { run } from '../src/inbound/run.js'
import { NOW, of, pretend, said, sealed } from './pretend.js'

const LTI = 'https://purl.imsglobal.org/spec/lti/claim/'
const person = { id: 'p1', subject: 's-1', fullName: 'Aino Testmann', givenName: 'Aino', familyName: 'Testmann', email: null, username: 'aino', siteRole: 'none', sourcedId: null } // oxfmt-ignore
const link = (change: Record<string, unknown> = {}) => ({
  resource: { kind: 'assignment', id: 'l1', resourceLinkId: 'rl-1', title: 'Bends', instructions: '', points: '40', launchUrl: 'https://tool.example/launch', documentTarget: 'frame', customParameters: {}, state: 'published', content: null, review: null, column: null, tiedColumns: [], picking: null, picker: null }, // oxfmt-ignore
  course: { id: 'c1', code: 'HYD 210', title: 'Surveying', closed: false, term: null, sourcedId: null },
  registration: { id: 'r1', name: 'Drills', version: '1.3', clientId: 'k1', deploymentId: 'd-1', state: 'enabled', customParameters: {}, disclosure: 'name', scopes: [], features: [], consumerKey: null, secretSealed: null, firstEntry: 'none', redirectUris: [] }, // oxfmt-ignore
  person,
  enrolment: { role: 'learner', state: 'active' },
  entered: true,
  ...change,
}) // oxfmt-ignore

describe('an authorisation request that is whole', () => {
  const whole = { scope: 'openid', response_type: 'id_token', response_mode: 'form_post', prompt: 'none', client_id: 'k1', redirect_uri: 'https://tool.example/launch', login_hint: 'l', lti_message_hint: 'm', nonce: 'n-1', state: 's-1' } // oxfmt-ignore
  const { context } = pretend()
  const read = (request: object) => said(authorization.wholeRequest(context, of({ request })))

  it('brings the nonce that the token repeats', () => expect(read(whole)).toEqual({ replay: 'n-1' }))
  it.each([
    ['scope', 'login.scope'],
    ['response_type', 'login.response_type'],
    ['nonce', 'login.'],
  ])('has its %s', (name, code) => {
    expect(read(Object.fromEntries(Object.entries(whole).filter(([one]) => one !== name)))).toContain(code)
  })
  it('uses up its hint, and not a second longer than that is good', () => {
    const hint = { id: 'h-1', expiresSeconds: 1000 }
    expect(authorization.hintNonce(context, of({ hint }))).toEqual({ nonce: { value: 'login h-1', expiresAt: new Date(1_120_000) } }) // oxfmt-ignore
    expect(authorization.hintUsed().code).toBe('login.hint_used')
  })
})

describe('the id_token', () => {
  const make = async (change: object = {}, given = link()) => {
    const { context } = pretend()
    const call = { request: { state: 's-1' }, redirectUri: 'https://tool.example/launch', replay: 'n-1', link: given, hint: { target: 'frame' }, reviewed: undefined, ...change } // oxfmt-ignore
    const taken = authorization.idToken(context, of(call))
    const answer = (await taken.answer('7')) as authorization.AuthorizationAnswer
    const [, json] = String(answer.fields.find(([name]) => name === 'id_token')?.[1]).match(/^\S+ (.*)$/s) ?? []
    return { taken, answer, claims: JSON.parse(json ?? '{}') as Record<string, unknown> }
  }
  it('goes to the tool with the state that it sent, signed beside the writing of the entry', async () => {
    const { taken, answer, claims } = await make()
    expect(answer).toMatchObject({ url: 'https://tool.example/launch', refused: false })
    expect(answer.fields.map(([name]) => name)).toEqual(['id_token', 'state'])
    expect(answer.fields[1]).toEqual(['state', 's-1'])
    expect(await taken.beside).toBe(answer.fields[0]![1])
    expect(claims).toMatchObject({ iss: 'https://us.example', aud: 'k1', nonce: 'n-1', sub: 's-1' })
    expect(claims[`${LTI}deployment_id`]).toBe('d-1')
  })
  it('is kept with what it says, and that it was sent, as a visit of the person', async () => {
    const { taken, claims } = await make()
    expect(taken.statement).toBe('Sent Aino Testmann to tool.example.')
    expect(taken.kept).toMatchObject({ kind: 'launch', direction: 'sent', visit: true })
    const { method, url, parameters, body } = taken.kept!.request as Record<string, string>
    expect([method, url, parameters]).toEqual(['POST', 'https://tool.example/launch', [['state', 's-1']]])
    expect(JSON.parse(body!)).toEqual(claims)
  })
  it('comes without a state where none was sent', async () => {
    const { answer, taken } = await make({ request: {} })
    expect(answer.fields.map(([name]) => name)).toEqual(['id_token'])
    expect((taken.kept!.request as { parameters: unknown }).parameters).toEqual([['state', '']])
  })
  it('of a menu entry is no visit of an assignment', async () => {
    const menu = link({ resource: { ...link().resource, kind: 'menu' } })
    expect((await make({}, menu)).taken.kept).toMatchObject({ visit: false })
  })
  it('to review is about whom it is about, and no visit of anybody', async () => {
    const niamh = link({ person: { ...person, id: 'p2', subject: 's-2', fullName: 'Niamh Testmann' } })
    const { taken, claims } = await make({ reviewed: niamh })
    expect(taken.statement).toBe('Sent Aino Testmann to tool.example, to review what Niamh Testmann handed in.')
    expect(taken.kept).toMatchObject({ visit: false })
    expect(claims[`${LTI}message_type`]).toBe('LtiSubmissionReviewRequest')
    expect(JSON.stringify(claims)).toContain('s-2')
  })
  it('is none for a tool that is not whole', () => {
    const { context } = pretend()
    const broken = link({ registration: { ...link().registration, deploymentId: null } })
    expect(() => authorization.idToken(context, of({ request: {}, redirectUri: 'https://tool.example/', replay: '', link: broken, hint: {} }))).toThrow(Refusal) // oxfmt-ignore
  })
  it('proves to a tool of 1.1 that it is the same platform', async () => {
    const before = link({ registration: { ...link().registration, consumerKey: 'old', secretSealed: sealed('halyard', 'r1') } }) // oxfmt-ignore
    const { claims } = await make({}, before)
    expect(claims[`${LTI}lti1p1`]).toMatchObject({ oauth_consumer_key: 'old' })
    expect((await make()).claims).not.toHaveProperty(`${LTI}lti1p1`)
  })
})

describe('a browser that comes back from a tool', () => {
  const key = writeResultId(new Uint8Array(32).fill(7), { linkId: 'l1', personId: 'p1' })

  it('brings what the tool says in its address', () => {
    const { url, said: words } = returned.toolSaid(pretend().context, of({ pathAndQuery: '/lti/return/x?lti_msg=Done&lti_errorlog=trace' })) // oxfmt-ignore
    expect(url).toBe('https://us.example/lti/return/x?lti_msg=Done&lti_errorlog=trace')
    expect(words).toEqual({ message: 'Done', log: null, error: null, errorLog: 'trace' })
  })
  it('is known by a key of ours that names a link and a person, and by nothing else', async () => {
    const at = pretend({ findLink: link() })
    expect(await returned.linkOfReturn(at.context, of({ key }))).toEqual({ link: link() })
    expect(at.asked).toEqual([['findLink', { linkId: 'l1', personId: 'p1' }]])
    expect(said(await returned.linkOfReturn(at.context, of({ key: 'guessed' })))).toBe('launch.return_unknown')
    expect(at.asked).toHaveLength(1)
    expect(said(await returned.linkOfReturn(pretend().context, of({ key })))).toBe('launch.return_unknown')
  })
  it('is counted by link and person, for an hour', async () => {
    const { context, asked } = pretend({ take: { uses: 1 } })
    await returned.notTooOften(context, of({ link: link() }))
    expect(asked).toEqual([['take', 'return l1 p1', NOW, 3_600_000]])
  })
  it.each([
    [{}, 'launch'],
    [{ error: 'Sorry' }, 'refusal'],
    [{ errorLog: 'trace' }, 'refusal'],
  ])('with %j tells open pages of a %s', (words, kind) => {
    const found = { error: null, errorLog: null, message: null, log: null, ...words }
    const url = `https://us.example/${'x'.repeat(9000)}`
    const { entry, tells } = returned.aboutLinkOfReturn(pretend().context, of({ link: link(), said: found, url }))
    expect(entry).toMatchObject({ registrationId: 'r1', courseId: 'c1', assignmentId: 'l1', personId: 'p1' })
    expect((entry.request as { url: string }).url).toHaveLength(8000)
    expect(tells?.taken?.kind).toBe(kind)
    expect(tells).not.toHaveProperty('refused')
  })
  it('is kept with all that the tool said, and nothing that it did not', () => {
    const call = { link: link(), said: { error: null, errorLog: null, message: 'Done', log: 'ok' }, url: 'https://us.example/x' } // oxfmt-ignore
    const { kept } = returned.cameBack(of({ records: {}, clock: { now: () => NOW } }), of(call))
    expect(kept?.request).toEqual({ method: 'GET', url: 'https://us.example/x', parameters: [['message', 'Done'], ['log', 'ok']] }) // oxfmt-ignore
  })
  it('from nowhere leaves nothing', () => expect(returned.aboutNothing()).toBeUndefined())
})

describe('the entry of a message', () => {
  const refuse = (): Refused<string> => ({ answer: () => 'refused' })
  const whole = { registrationId: 'r1', courseId: 'c1', assignmentId: 'a1', menuEntryId: 'm1', unitItemId: 'u1', pickingId: 'q1', personId: 'p1', request: { url: '/x' } } // oxfmt-ignore
  const written = async (entry: object, taken: object) => {
    const entries: Record<string, unknown>[] = []
    const told: unknown[] = []
    const context = {
      clock: { now: () => NOW },
      statements: { writeMessage: (one: Record<string, unknown>) => Promise.resolve((entries.push(one), { written: true, wireEntryId: '7', scoreId: null })) }, // oxfmt-ignore
      changes: { publish: (one: unknown) => void told.push(one) },
      log: { warn: (...all: unknown[]) => void told.push(all) },
    }
    const row = inbound<{ text: string }, string>('test', 'outcome', () => ({ entry: entry as never }), refuse)
    await run(
      of(context),
      row.take(() => ({ statement: 'Done.', answer: () => 'done', ...taken })),
      { text: '' },
    )
    return entries[0]!
  }
  it('has every place that is known', async () => {
    expect(await written(whole, {})).toMatchObject({ ...whole, at: NOW, kind: 'outcome', direction: 'received', outcome: 'accepted', code: null, detail: null, response: null, soundingId: null }) // oxfmt-ignore
  })
  it('has nothing where nothing is known', async () => {
    const entry = await written({ registrationId: null, request: {} }, {})
    for (const name of ['courseId', 'assignmentId', 'menuEntryId', 'unitItemId', 'pickingId', 'personId'])
      expect([name, entry[name]]).toEqual([name, null])
  })
  it('says what was taken before what was known on the way', async () => {
    const kept = { kind: 'launch', direction: 'sent', registrationId: 'r2', courseId: 'c2', request: { url: '/y' }, response: { status: 200 }, visit: true } // oxfmt-ignore
    expect(await written(whole, { outcome: 'failed', kept })).toMatchObject({ ...kept, outcome: 'failed', assignmentId: 'a1' }) // oxfmt-ignore
  })
  it('says how long it took', async () => {
    const { durationMs } = await written(whole, {})
    expect(durationMs).toBeGreaterThanOrEqual(0)
    expect(durationMs).toBeLessThan(60_000)
  })
  it('that came before is refused in words of its own, and what wrote them off has no nonce any more', async () => {
    const entries: Record<string, unknown>[] = []
    const context = {
      clock: { now: () => NOW },
      statements: { writeMessage: (one: Record<string, unknown>) => Promise.resolve(entries.push(one) === 1 ? { written: false, why: 'nonce_used' } : { written: true, wireEntryId: '8', scoreId: null }) }, // oxfmt-ignore
      changes: { publish: () => undefined },
    }
    const told: Refusal[] = []
    const row = inbound<{ text: string }, string>('test', 'outcome', () => ({ entry: { registrationId: null, request: {} } }), (_, __, refusal) => (told.push(refusal), { answer: () => 'refused' })) // oxfmt-ignore
    expect(await run(of(context), row.take(() => ({ statement: 'Done.', answer: () => 'done' })), { text: '' })).toBe('refused') // oxfmt-ignore
    expect([told[0]?.code, told[0]?.detail]).toEqual(['request.invalid', 'it came before'])
    expect(entries.map((one) => [one['outcome'], one['nonce']])).toEqual([
      ['accepted', undefined],
      ['refused', undefined],
    ])
  })
})
