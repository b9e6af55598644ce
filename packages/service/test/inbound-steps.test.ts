import { Refusal } from '@bathyscribe/contract'
import { writeHints, type LoginHint } from '@bathyscribe/core/lti13'
import { Problem } from '@bathyscribe/core/result'
import { describe, expect, it } from 'vitest'
import * as authorization from '../src/inbound/messages/authorization.js'
import * as outcome from '../src/inbound/messages/outcome.js'
import * as returned from '../src/inbound/messages/return.js'
import * as score from '../src/inbound/messages/score.js'
import * as client from '../src/inbound/steps/client-assertion.js'
import { leewaySeconds, nonceOf, tokenNonce } from '../src/inbound/steps/freshness.js'
import { NOW, of, pretend, said, settings } from './pretend.js'

const nowSeconds = NOW.getTime() / 1000

const link = (change: Record<string, unknown> = {}) => ({
  resource: { kind: 'assignment', id: 'l1', state: 'published', audience: 'everyone', isFor: true, points: '40', attempts: null, handedIn: 0, launchUrl: 'https://tool.example/' },
  course: { id: 'c1', closed: false },
  registration: { id: 'r1', clientId: 'k1', state: 'enabled', scoresWhileSuspended: true, redirectUris: ['https://tool.example/launch'] },
  person: { id: 'p1', fullName: 'Aino Testmann' },
  enrolment: { role: 'learner', state: 'active' },
  entered: true,
  ...change,
}) // oxfmt-ignore

const { context, key } = pretend()

describe('what is good once', () => {
  it('is remembered for as long as it is good, what clocks may differ by, and a margin', () => {
    expect(nonceOf({ settings } as never, { nonce: 'n', timestampSeconds: 1000 })).toEqual({ value: 'n', expiresAt: new Date(1_900_000) }) // oxfmt-ignore
    expect(tokenNonce({ settings } as never, 'login x', 1000)).toEqual({ value: 'login x', expiresAt: new Date(1_120_000) }) // oxfmt-ignore
    const strict = { settings: { ...settings, clockToleranceSeconds: 5 } } as never
    expect(tokenNonce(strict, 'x', 1000).expiresAt).toEqual(new Date(1_065_000))
    expect(leewaySeconds(strict)).toBe(5)
    expect(leewaySeconds({ settings } as never)).toBe(60)
  })
})

describe('an authorisation request', () => {
  const hint: LoginHint = { id: 'h1', registrationId: 'r1', actorId: 'a1', personId: 'p1', kind: 'link', linkId: 'l1', target: 'frame', aboutId: '', expiresSeconds: nowSeconds } // oxfmt-ignore

  it('brings hints of ours, or none', () => {
    const { login, message } = writeHints(key, hint)
    expect(authorization.ourHints(context, of({ request: { login_hint: login, lti_message_hint: message } }))).toEqual({ hint }) // oxfmt-ignore
    for (const request of [{}, { login_hint: login }, { lti_message_hint: message }])
      expect(authorization.ourHints(context, of({ request }))).toEqual({ hint: undefined })
  })

  describe('is of a link, and somebody who is signed in', () => {
    const session = Buffer.from('s')
    const own = link()
    it('both by one question, where they are the same person', async () => {
      const { context, asked } = pretend({ findOwnLink: { actor: { id: 'p1' }, link: own } })
      const found = await authorization.linkOfHint(context, of({ hint, signedIn: { session } }))
      expect(found).toEqual({ actor: { id: 'p1' }, link: own })
      expect(asked).toEqual([['findOwnLink', { linkId: 'l1', session }]])
    })
    it('by one more, where it is opened as another one', async () => {
      const other = link({ person: { id: 'p1' } })
      const { context, asked } = pretend({ findOwnLink: { actor: { id: 'a1' }, link: own }, findLink: other })
      const found = await authorization.linkOfHint(context, of({ hint, signedIn: { session } }))
      expect(found.actor).toEqual({ id: 'a1' })
      expect(found.link).toBe(other)
      expect(asked.at(-1)).toEqual(['findLink', { linkId: 'l1', personId: 'p1' }])
    })
    it('as far as there is anybody', async () => {
      const { context, asked } = pretend({ findOwnLink: undefined, findLink: own })
      expect(await authorization.linkOfHint(context, of({ hint, signedIn: { session } }))).toEqual({ link: own, actor: undefined }) // oxfmt-ignore
      expect(await authorization.linkOfHint(context, of({ hint, signedIn: undefined }))).toEqual({ link: own, actor: undefined }) // oxfmt-ignore
      expect(asked).toHaveLength(3)
    })
    it('by the link alone, where a token says who it is', async () => {
      const { context, asked } = pretend({ findLink: own })
      const found = await authorization.linkOfHint(context, of({ hint, signedIn: { actor: { id: 't1' } } }))
      expect(found).toEqual({ link: own, actor: { id: 't1' } })
      expect(asked).toHaveLength(1)
    })
    it('and asks nothing for a hint that is none of ours', async () => {
      const { context, asked } = pretend()
      expect(await authorization.linkOfHint(context, of({ signedIn: { session } }))).toEqual({})
      expect(asked).toEqual([])
    })
  })

  it('is of the tool that the hint names, else of the one that its client ID names', async () => {
    const found = (request: object, given: unknown, tool: unknown = null) => {
      const { context, asked } = pretend({ byClientId: tool })
      return authorization
        .clientOfRequest(context, of({ request, link: given }))
        .then((answer) => [said(answer), asked])
    }
    expect(await found({ client_id: 'k1' }, link())).toEqual([{ client: link().registration }, []])
    expect(await found({ client_id: 'k2' }, link(), { id: 'r2' })).toEqual([
      { client: { id: 'r2' } },
      [['byClientId', 'k2']],
    ])
    expect(await found({ client_id: 'k2' }, undefined)).toEqual(['login.client_unknown', [['byClientId', 'k2']]])
    expect(await found({}, link())).toEqual(['login.client_unknown', []])
  })

  it('goes to an address that is registered, to the letter', () => {
    const to = (redirect_uri?: string) =>
      said(authorization.registeredRedirect(context, of({ request: { redirect_uri }, client: link().registration })))
    expect(to('https://tool.example/launch')).toEqual({ redirectUri: 'https://tool.example/launch' })
    for (const other of ['https://tool.example/launch/', 'https://tool.example/LAUNCH', '', undefined])
      expect(to(other)).toBe('login.redirect_uri_unknown')
  })

  it('brings a hint that is for this tool, and not over', () => {
    const of_ = (change: Partial<LoginHint> | undefined, id = 'r1') =>
      said(authorization.hintOfClient(context, of({ hint: change && { ...hint, ...change }, client: { id } })))
    expect(of_({})).toEqual({ hint })
    expect(of_({ expiresSeconds: nowSeconds - 1 })).toBe('login.hint_expired')
    expect(of_({}, 'r2')).toBe('login.hint_unknown')
    expect(of_(undefined)).toBe('login.hint_unknown')
  })

  it('comes from the browser of who opened it', () => {
    const by = (actor: unknown) => said(authorization.samePerson(context, of({ hint, actor })))
    expect(by({ id: 'a1' })).toEqual({})
    expect(by({ id: 'p1' })).toBe('login.other_person')
    expect(by(undefined)).toBe('login.other_person')
  })

  it('is for a link that may still be opened by the person', () => {
    const opens = (found: unknown, aboutId = '', client_id = 'k1') =>
      said(authorization.openLink(context, of({ request: { client_id }, hint: { ...hint, aboutId }, link: found })))
    expect(opens(link())).toEqual({ link: link() })
    expect(opens(undefined)).toBe('login.hint_unknown')
    expect(opens(link(), '', 'k2')).toBe('login.hint_unknown')
    expect(opens(link({ enrolment: { role: 'learner', state: 'dropped' } }))).toMatch(/^launch\./)
  })

  it('to review is about somebody of the course', async () => {
    const of_ = async (aboutId: string, found: unknown) => {
      const { context, asked } = pretend({ findLink: found })
      return [said(await authorization.personReviewed(context, of({ hint: { ...hint, aboutId } }))), asked.length]
    }
    expect(await of_('', undefined)).toEqual([{ reviewed: undefined }, 0])
    expect(await of_('p9', link())).toEqual([{ reviewed: link() }, 1])
    expect(await of_('p9', link({ enrolment: undefined }))).toEqual(['login.hint_unknown', 1])
    expect(await of_('p9', undefined)).toEqual(['login.hint_unknown', 1])
  })

  it('is noted without what opens anything, and of another tool’s link nothing', () => {
    const request = { client_id: 'k1', login_hint: 'abcdefghijklmnop', state: 's', ['n'.repeat(120)]: 'v' }
    const { entry, tells } = authorization.aboutLaunch(context, of({ request, link: link(), client: { id: 'r1' } }))
    expect(entry).toMatchObject({ registrationId: 'r1', assignmentId: 'l1', personId: 'p1', courseId: 'c1' })
    expect(entry.request).toMatchObject({
      method: 'GET',
      url: 'https://us.example/lti/authorize',
      parameters: [
        ['client_id', 'k1'],
        ['login_hint', 'abcd… (16 characters)'],
        ['state', 's'],
        ['n'.repeat(100), 'v'],
      ],
    })
    expect([tells?.taken?.kind, tells?.refused?.kind]).toEqual(['launch', 'refusal'])
    const strange = authorization.aboutLaunch(context, of({ request, link: link(), client: { id: 'r2' } }))
    expect(strange.entry).not.toHaveProperty('personId')
    expect(strange.tells).toBeUndefined()
    const many = Object.fromEntries(Array.from({ length: 60 }, (_, i) => [`n${i}`, 'v']))
    expect((authorization.aboutRequest(context, of({ request: many })).entry.request as { parameters: [] }).parameters).toHaveLength(50) // oxfmt-ignore
    expect(authorization.aboutHint(context, of({ request })).entry.registrationId).toBeNull()
    expect(authorization.aboutHint(context, of({ request, link: link() })).entry.registrationId).toBe('r1')
  })

  it.each([
    ['login.scope', 'invalid_scope'],
    ['login.response_type', 'unsupported_response_type'],
    ['login.hint_used', 'invalid_request'],
    ['login.other_person', 'login_required'],
    ['launch.not_open_yet', 'unauthorized_client'],
  ] as const)('that is refused by %s hears %s, and its state', (code, word) => {
    const call = of({ request: { state: 's' }, redirectUri: 'https://tool.example/launch' })
    const answer = authorization.refuseAtTool(context, call, new Refusal(code)).answer()
    expect(answer).toMatchObject({ url: 'https://tool.example/launch', refused: true })
    expect(Object.fromEntries(answer.fields)).toMatchObject({ error: word, state: 's' })
    expect(Object.fromEntries(answer.fields)['error_description']).toMatch(new RegExp(`^${code}: [\\x20-\\x7e]+$`))
  })
  it('that meets a fault of ours is answered here, and told where an address differs only in the log', () => {
    const call = of({ request: {}, redirectUri: 'https://tool.example/launch' })
    const ours = new Refusal('service.database_unavailable')
    expect(() => authorization.refuseAtTool(context, call, ours).answer()).toThrow(ours)
    const told = (refusal: Refusal) => {
      try {
        authorization.refuseHere(context, call, refusal).answer()
      } catch (error) {
        return error as Refusal
      }
      return undefined
    }
    expect(told(new Refusal('login.redirect_uri_unknown', 'where'))?.detail).toBeFalsy()
    expect(told(new Refusal('login.hint_expired', '7 seconds ago'))?.detail).toBe('7 seconds ago')
  })
})

describe('a score of LTI 1.3', () => {
  const given = { sent: '30', outOf: '40', fraction: '0.75' }
  const sent = (change: Record<string, unknown> = {}) => ({
    userId: 'u', timestamp: NOW, sentAt: '2026-11-23T12:00:00.000000Z', activityProgress: 'Completed', gradingProgress: 'FullyGraded',
    given, comment: null, submittedAt: null, scoringUserId: null, ...change,
  }) // oxfmt-ignore
  const call = (change: Record<string, unknown> = {}) =>
    of({ to: { id: 'l1', sentTo: null, points: '40' }, person: { id: 'p1', fullName: 'Aino', role: 'learner', state: 'active' }, score: sent(change) }) // oxfmt-ignore

  it('is for a column of the tool’s own', () => {
    expect(score.ownColumn(context, of({ caller: { column: { id: 'l1' } } }))).toEqual({ to: { id: 'l1' } })
    const none = score.ownColumn(context, of({ caller: { column: null }, column: 'x'.repeat(80) })) as Refusal
    expect([none.code, none.detail]).toEqual(['line_item.not_found', 'x'.repeat(60)])
  })
  it('is told what is wrong with it, and of whom it is as long as nothing is', () => {
    const problem = new Problem('score_service.given', '“x”')
    expect(said(score.wholeScore(context, of({ sent: problem })))).toBe('score_service.given')
    expect(score.wholeScore(context, of({ sent: sent() }))).toEqual({ score: sent() })
    expect(score.scoreSent(context, of({ body: 7 })).subject).toBeUndefined()
    const body = { userId: 'u', timestamp: '2026-11-23T12:00:00Z', activityProgress: 'Completed', gradingProgress: 'NotReady' } // oxfmt-ignore
    expect(score.scoreSent(context, of({ body })).subject).toBe('u')
  })
  it('is of a day ahead at the most', () => {
    const at = (ms: number) => said(score.notAhead(context, call({ timestamp: new Date(NOW.getTime() + ms) })))
    expect(at(24 * 3_600_000)).toEqual({})
    expect(at(24 * 3_600_000 + 1)).toBe('score_service.timestamp')
  })
  it('is of a learner of the course', () => {
    const of_ = (person: unknown) => said(score.personOfCourse(context, of({ caller: { person }, score: sent({ userId: 'u'.repeat(80) }) }))) // oxfmt-ignore
    expect(of_({ id: 'p1' })).toEqual({ person: { id: 'p1' } })
    expect(of_(null)).toBe('score_service.unknown_person')
    const as = (role: string, state = 'active') => said(score.learnerOfCourse(context, of({ person: { role, state } })))
    expect([as('learner'), as('test_learner')]).toEqual([{}, {}])
    for (const other of [as('instructor'), as('teaching_assistant'), as('learner', 'dropped')])
      expect(other).toBe('score.not_a_learner')
  })
  it.each([
    [{}, 'replace', '30', '0.75', '30.', '30 of 40 for Aino, recorded.'],
    [{ given: null }, 'delete', null, null, null, 'The score of Aino was cleared.'],
    [{ gradingProgress: 'Pending' }, 'progress', '30', null, null, 'Aino is Completed, Pending: no points move.'],
    [{ gradingProgress: 'NotReady', given: null }, 'progress', null, null, null, 'Aino is Completed, NotReady: no points move.'],
  ] as const)('%j does %s', (change, operation, number, fraction, points, statement) => {
    const taken = score.score(context, call(change))
    expect(taken.statement).toBe(statement)
    expect(taken.kept?.score).toMatchObject({
      operation,
      outcome: 'accepted',
      sent: number,
      sentOutOf: number === null ? null : '40',
      fraction,
      points: points === null ? null : '30',
      outOf: '40',
    })
  }) // oxfmt-ignore
  it('that came too late is told so, and only then', async () => {
    const over = async (sentAt: Date | null | undefined) => {
      const records = { scores: { standing: () => Promise.resolve(sentAt === undefined ? undefined : { sentAt }) } }
      return said(await score.score(of({ records }), call()).isOver!())
    }
    expect(await over(NOW)).toBe('score_service.not_newer')
    expect(await over(new Date(NOW.getTime() - 1))).toBeUndefined()
    expect(await over(null)).toBeUndefined()
    expect(await over(undefined)).toBeUndefined()
  })
  it('of who is no learner any more stands in the trail, any other refusal does not', () => {
    const kept = (code: 'score.not_a_learner' | 'score_service.unknown_person') =>
      score.refuseScored(context, call(), new Refusal(code)).kept?.score
    expect(kept('score.not_a_learner')).toMatchObject({ outcome: 'refused', code: 'score.not_a_learner', sent: '30' })
    expect(kept('score_service.unknown_person')).toBeUndefined()
  })
})

describe('an outcome of LTI 1.1', () => {
  it('is one of an assignment of ours, whose tool is at work', () => {
    const of_ = (found: unknown) => said(outcome.assignmentOfResult(context, of({ request: { resultId: 'r' }, link: found }))) // oxfmt-ignore
    expect(of_(link())).toEqual({ link: link() })
    expect(of_(undefined)).toBe('outcomes.result_id_unknown')
    expect(of_(link({ resource: { kind: 'menu' } }))).toBe('outcomes.result_id_unknown')
    const at = (state: string, scoresWhileSuspended = true) =>
      said(outcome.toolAtWork(context, of({ link: { registration: { state, scoresWhileSuspended } } })))
    expect([at('enabled', false), at('suspended')]).toEqual([{}, {}])
    for (const other of [at('suspended', false), at('retired'), at('draft')])
      expect(other).toBe('outcomes.tool_not_enabled')
  })
  it('goes to learners, and may be read of anybody', () => {
    const to = (enrolment: unknown, operation = 'replaceResult') =>
      outcome.scoredLearner(context, of({ request: { operation }, link: { enrolment } }))
    expect(to({ role: 'learner', state: 'active' })).toEqual({})
    expect(to({ role: 'instructor', state: 'active' }, 'readResult')).toEqual({})
    expect((to({ role: 'learner', state: 'dropped' }) as Refusal).detail).toBe('dropped')
    expect((to({ role: 'instructor', state: 'active' }) as Refusal).detail).toBe('instructor')
    expect((to(undefined, 'deleteResult') as Refusal).detail).toBe('not in the course')
  })
  it('is told that it came before by its nonce, by a token by nothing', () => {
    const oauth = { nonce: 'n'.repeat(80), timestampSeconds: 1000 }
    expect(outcome.nonceUsed(of({ sender: { by: 'signature', oauth } })).detail).toBe('n'.repeat(60))
    expect(outcome.nonceUsed(of({ sender: { by: 'token' } })).detail).toBeFalsy()
    expect(outcome.oauthNonce(context, of({ sender: { by: 'token' } }))).toEqual({ nonce: undefined })
    expect(outcome.oauthNonce(context, of({ sender: { by: 'signature', oauth } })).nonce?.value).toBe(oauth.nonce)
  })
  it('is noted beside whoever signed it, and tells pages of what moved', () => {
    const call = { path: '/lti/outcomes', headers: { cookie: 'secret=value' }, body: Buffer.from('<x/>') }
    const note = (more: object) => outcome.aboutSender(context, of({ ...call, ...more }))
    expect(note({ sender: { by: 'signature' } })).toMatchObject({ entry: { registrationId: null } })
    expect(note({ sender: { by: 'signature', signer: { id: 'r9' } } }).entry.registrationId).toBe('r9')
    expect(note({ link: link(), sender: { by: 'token' } }).entry).toMatchObject({
      registrationId: 'r1',
      personId: 'p1',
    })
    const signed = note({ link: link(), sender: { by: 'signature', signer: { id: 'r9' } } })
    expect(signed.entry).toMatchObject({ registrationId: 'r9', assignmentId: 'l1', courseId: 'c1' })
    expect(JSON.stringify(signed.entry.request)).not.toContain('secret=value')
    const about = (operation: string) =>
      outcome.aboutScore(context, of({ ...call, link: link(), sender: { by: 'token' }, request: { operation } })).tells
    expect(about('replaceResult')).toEqual({
      taken: { kind: 'score', courseId: 'c1', assignmentId: 'l1', personId: 'p1' },
      refused: { kind: 'refusal', courseId: 'c1', assignmentId: 'l1', personId: 'p1' },
    })
    expect(about('readResult')).not.toHaveProperty('taken')
  })
})

describe('a tool by an assertion of its own', () => {
  const named = (sub: unknown) => `x.${Buffer.from(JSON.stringify({ sub })).toString('base64url')}.x`
  it('is found by whom it names, be that true or not', async () => {
    const found = async (client_assertion?: string) => {
      const { context, asked } = pretend({ findClient: { id: 'r1' } })
      return [(await client.clientNamed(context, of({ form: { client_assertion } }))).named, asked.length]
    }
    expect(await found(named('k'.repeat(64)))).toEqual([{ id: 'r1' }, 1])
    for (const none of [named('k'.repeat(65)), named(7), 'x', undefined])
      expect(await found(none)).toEqual([undefined, 0])
  })
  it('says by what it comes', () => {
    const type = 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer'
    const given = (form: object) => {
      const refusal = client.assertionGiven(context, of({ form })) as Refusal
      return [refusal.code, refusal.detail]
    }
    expect(given({ client_assertion: 'x' })).toEqual(['token.request', 'client_assertion_type'])
    expect(given({ client_assertion_type: type })).toEqual(['token.request', 'client_assertion'])
    expect(given({ client_assertion_type: type, client_assertion: 'x' })[0]).toBe('jwt.malformed')
  })
  it('may come as long as it is at work', () => {
    const jws = { claims: { sub: 's'.repeat(100) } }
    const at = (tool: unknown) => client.clientAtWork(context, of({ named: tool, jws }))
    expect(at({ state: 'enabled' })).toEqual({ client: { state: 'enabled' } })
    expect(said(at({ state: 'suspended', scoresWhileSuspended: true }))).toHaveProperty('client')
    expect((at({ state: 'suspended', scoresWhileSuspended: false }) as Refusal).code).toBe('token.client_disabled')
    expect((at({ state: 'retired', scoresWhileSuspended: true }) as Refusal).detail).toBe('retired')
    expect((at(undefined) as Refusal).detail).toBe(`“${'s'.repeat(80)}”`)
  })
  it('uses an assertion once, whatever it was for', () => {
    const assertion = { id: 'j'.repeat(80), expiresSeconds: 1000 }
    expect(client.assertionNonce(context, of({ assertion })).nonce).toEqual({ value: `assertion ${assertion.id}`, expiresAt: new Date(1_120_000) }) // oxfmt-ignore
    expect(client.assertionUsed(of({ assertion })).detail).toBe('j'.repeat(60))
  })
})

describe('a browser that comes back', () => {
  it('does so ten times an hour at the most', async () => {
    const after = async (uses: number) =>
      said(await returned.notTooOften(pretend({ take: { uses } }).context, of({ link: link() })))
    expect(await after(10)).toEqual({})
    expect(await after(11)).toBe('request.too_many')
  })
  it('shows what the tool says to people, and keeps what it says to the log', async () => {
    const back = async (said_: object, kind = 'assignment') => {
      const notes: unknown[] = []
      const records = { assignments: { noteLaunch: (...all: unknown[]) => Promise.resolve(void notes.push(all)) } }
      const found = { error: null, errorLog: null, message: null, log: null, ...said_ }
      const call = { link: link({ resource: { kind, id: 'l1' } }), said: found, url: 'https://us.example/x' }
      const taken = returned.cameBack(of({ records, clock: { now: () => NOW } }), of(call))
      return { taken, answer: await taken.answer('7'), notes, unkept: await taken.answer(null) }
    }
    const plain = await back({ message: 'Done' })
    expect(plain.taken).toMatchObject({ outcome: 'accepted', statement: 'The tool sent the person back: “Done”' })
    expect(plain.answer).toEqual({ backPath: '/courses/c1/assignments/l1', message: 'Done', isError: false })
    expect(plain.notes).toEqual([])
    expect((await back({})).taken.statement).toBe('The tool sent the person back.')
    const bad = await back({ error: 'Sorry', errorLog: 'trace', message: 'Done' })
    expect(bad.taken).toMatchObject({ outcome: 'failed', statement: 'The tool reported: “Sorry”' })
    expect(bad.answer).toMatchObject({ message: 'Sorry', isError: true })
    expect(bad.notes).toHaveLength(1)
    const logged = await back({ errorLog: 'e'.repeat(400) }, 'menu')
    expect(logged.taken.statement).toBe(`The tool reported: “${'e'.repeat(300)}”`)
    expect(logged.answer).toEqual({ backPath: '/courses/c1/menu', message: null, isError: true })
    expect(logged.notes).toEqual([])
    expect((await back({}, 'item')).answer.backPath).toBe('/courses/c1/items/l1')
    expect((await back({}, 'picker')).answer.backPath).toBe('/courses/c1')
  })
})
