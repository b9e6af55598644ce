import { createHmac, generateKeyPairSync } from 'node:crypto'
import { Refusal } from '@bathyscribe/contract'
import { SignJWT } from 'jose'
import OAuth from 'oauth-1.0a'
import { describe, expect, it } from 'vitest'
import { pickingData } from '../src/desk/pickers/picker-facts.js'
import * as picked from '../src/inbound/messages/picked.js'
import { NOW, of, pretend, said, sealed, settings } from './pretend.js'

const nowSeconds = NOW.getTime() / 1000
const DL = 'https://purl.imsglobal.org/spec/lti-dl/claim/'
const LTI = 'https://purl.imsglobal.org/spec/lti/claim/'
const picking = { id: 'p1', registrationId: 'r1', personId: 'u1', courseId: 'c1', assignmentId: null, state: 'open', expiresAt: new Date(NOW.getTime() + 1) } // oxfmt-ignore
const tool11 = { id: 'r1', name: 'Drills', slug: 'drills', version: '1.1', consumerKey: 'k1', signatureMethod: 'HMAC-SHA1', secretSealed: sealed('halyard', 'r1') } // oxfmt-ignore
const told = (found: unknown) => (found instanceof Refusal ? `${found.code}: ${found.detail ?? ''}` : found)
const ITEM = { '@type': 'LtiLinkItem', mediaType: 'application/vnd.ims.lti.v1.ltilink', url: 'https://t.example/1', title: 'Bends' } // oxfmt-ignore

describe('the question that is answered', () => {
  it('is one that was asked, of the tool that it was asked of', async () => {
    const { context, asked } = pretend({ byId: picking })
    expect(await picked.pickingAsked(context, of({ id: 'p1' }))).toEqual({ picking, tool: picking })
    expect(asked).toEqual([
      ['byId', 'p1'],
      ['byId', 'r1'],
    ])
    expect(said(await picked.pickingAsked(pretend({ byId: null }).context, of({ id: 'x' })))).toBe('picker.not_found')
  })
})

describe('an answer by LTI 1.1', () => {
  const form = (change: Record<string, string> = {}, { secret = 'halyard', key = 'k1', at = nowSeconds } = {}) => {
    const oauth = new OAuth({
      consumer: { key, secret },
      signature_method: 'HMAC-SHA1',
      hash_function: (base, by) => createHmac('sha1', by).update(base).digest('base64'),
    })
    oauth.getTimeStamp = () => at
    const data = {
      ...{ lti_message_type: 'ContentItemSelection', lti_version: 'LTI-1p0', data: 'd-1' },
      content_items: JSON.stringify({ '@context': 'http://purl.imsglobal.org/ctx/lti/v1/ContentItem', '@graph': [ITEM] }), // oxfmt-ignore
      ...change,
    }
    const url = `${settings.publicUrl}/lti/picked/p1`
    return Object.entries(oauth.authorize({ url, method: 'POST', data })).map(([name, value]) => [name, String(value)])
  }
  const answer = async (fields: unknown, tool: object = tool11) => {
    const { context } = pretend({ findSecrets: { current: null, others: [] }, byId: tool })
    const found = await picked.answerSigned(context, of({ picking, tool, fields }))
    return found instanceof Refusal ? found : found.answer
  }

  it('is taken with its items and what it says, signed like a launch', async () => {
    const found = await answer(form({ lti_msg: 'One chosen' }))
    expect(found).toMatchObject({ data: 'd-1', said: 'One chosen', failed: false, problems: [] })
    expect((found as { items: unknown[] }).items).toHaveLength(1)
    expect((found as { nonce: { expiresAt: Date } }).nonce.expiresAt).toEqual(new Date((nowSeconds + 900) * 1000))
  })
  it('is taken as a failure where the tool says one, to people or to the log', async () => {
    expect(await answer(form({ lti_errormsg: 'No rights', lti_msg: 'Bye' }))).toMatchObject({ said: 'No rights', failed: true }) // oxfmt-ignore
    expect(await answer(form({ lti_errorlog: 'trace' }))).toMatchObject({ said: null, failed: true })
  })
  it.each<[string, () => unknown, string]>([
    ['nobody signed it', () => form().filter(([name]) => name !== 'oauth_signature'), 'picker.unsigned: oauth_signature'],
    ['another key did', () => form({}, { key: 'k'.repeat(90) }), `picker.key_unknown: “${'k'.repeat(80)}”`],
    ['another secret did', () => form({}, { secret: 'bowline' }), 'oauth.signature_mismatch'],
    ['it is of yesterday', () => form({}, { at: nowSeconds - 301 }), 'oauth.timestamp'],
    ['it is another message', () => form({ lti_message_type: 'basic-lti-launch-request' }), 'picker.wrong_message: basic-lti-launch-request'],
    ['its items cannot be read', () => form({ content_items: '{' }), 'picker.'],
    ['something was changed on the way', () => form().map(([name, value]) => [name, name === 'data' ? 'd-2' : value]), 'oauth.signature_mismatch'],
  ])('is refused where %s', async (_, fields, why) => {
    expect(told(await answer(fields()))).toContain(why)
  }) // oxfmt-ignore
})

describe('an answer by LTI 1.3', () => {
  const pair = generateKeyPairSync('rsa', { modulusLength: 2048 })
  const stranger = generateKeyPairSync('rsa', { modulusLength: 2048 })
  const tool13 = { id: 'r1', name: 'Drills', version: '1.3', clientId: 'c-1' }
  const keys = [{ ...pair.publicKey.export({ format: 'jwk' }), kid: 't1', alg: 'RS256', use: 'sig' }]
  const token = (change: object = {}, by = pair) =>
    new SignJWT({
      ...{ iss: 'c-1', aud: settings.publicUrl, iat: nowSeconds, exp: nowSeconds + 60, nonce: 'n-1' },
      ...{ [`${LTI}message_type`]: 'LtiDeepLinkingResponse', [`${LTI}version`]: '1.3.0', [`${LTI}deployment_id`]: 'd-1' }, // oxfmt-ignore
      ...{ [`${DL}data`]: 'data-1', [`${DL}content_items`]: [{ type: 'ltiResourceLink', title: 'Bends' }] },
      ...change,
    })
      .setProtectedHeader({ alg: 'RS256', kid: 't1' })
      .sign(by.privateKey)
  const answer = async (jwt: string | undefined, found: Record<string, unknown> = {}) => {
    const all = pretend({ deploymentFor: 'd-1', byClientId: null, ...found })
    Object.assign(all.context, { toolKeysets: { keysOf: () => Promise.resolve(keys) } })
    const fields = jwt === undefined ? [['other', 'x']] : [['JWT', jwt]]
    const given = await picked.answerSigned(all.context, of({ picking, tool: tool13, fields }))
    return { answer: given instanceof Refusal ? given : given.answer, asked: all.asked }
  }

  it('is taken by the tool’s own key, whose use is noted', async () => {
    const { answer: found, asked } = await answer(await token({ [`${DL}msg`]: 'One chosen' }))
    expect(found).toMatchObject({ data: 'data-1', said: 'One chosen', failed: false })
    expect((found as { items: unknown[] }).items).toHaveLength(1)
    expect((found as { nonce: { value: string } }).nonce.value).toBe('picked n-1')
    expect(asked[0]).toEqual(['noteKey', 'r1', 'kid:t1', NOW])
    expect(asked[1]).toEqual(['deploymentFor', 'r1', 'c1'])
  })
  it.each<[string, () => Promise<string> | undefined, string]>([
    ['there is no token', () => undefined, 'picker.unsigned: JWT'],
    ['it is none', () => Promise.resolve('a.b'), 'jwt.'],
    ['somebody else signed it', () => token({}, stranger), 'jwt.'],
    ['it is for another platform', () => token({ aud: 'https://other.example' }), 'picker.claim_wrong: aud'],
    ['it is over', () => token({ exp: nowSeconds - 600, iat: nowSeconds - 700 }), 'picker.expired: 600 seconds ago'],
  ])('is refused where %s', async (_, made, why) => {
    expect(told((await answer(await made())).answer)).toContain(why)
  })
  it('under the client ID of a second registration of the same tool is told so', async () => {
    const other = { id: 'r2', name: 'Drills Annex', slug: 'drills-annex' }
    const { answer: found, asked } = await answer(await token({ iss: 'c-2' }), { byClientId: other })
    expect(told(found)).toBe('picker.other_registration: “Drills Annex” (drills-annex) instead of “Drills”')
    expect(asked.at(-1)).toEqual(['byClientId', 'c-2'])
    const { answer: unknown } = await answer(await token({ iss: 'c-3' }))
    expect((unknown as Refusal).code).toBe('picker.claim_wrong')
    // What names this very tool is not looked for elsewhere.
    const { asked: own } = await answer(await token({ aud: 'https://other.example' }), { byClientId: other })
    expect(own.map(([name]) => name)).not.toContain('byClientId')
  })
})

describe('an answer to a question', () => {
  const { context } = pretend()
  const data = pickingData(context, 'p1', 'u1')
  const to = (given: string, change: object = {}) => told(picked.toThisQuestion(context, of({ picking: { ...picking, ...change }, answer: { data: given } }))) // oxfmt-ignore

  it('is to this one, of this person, while it is open', () => {
    expect(to(data)).toEqual({})
    expect(to('')).toBe('picker.data_unknown: data is missing')
    expect(to('x'.repeat(60))).toBe(`picker.data_unknown: “${'x'.repeat(40)}”`)
    expect(to(pickingData(context, 'p2', 'u1'))).toContain('picker.data_unknown')
    expect(to(pickingData(context, 'p1', 'u2'))).toContain('picker.data_unknown')
    expect(to(data, { state: 'left' })).toBe('picker.closed: left')
    expect(to(data, { state: 'answered' })).toBe('picker.data_used: answered')
    expect(to(data, { expiresAt: NOW })).toBe('picker.expired: the picking')
  })
})

describe('items are kept', () => {
  const link = { type: 'link', url: 'https://t.example/page', title: 'A page' }
  const problem = { place: 0, what: 'x', problem: 'y' }
  const keep = async (answer: object, { fresh = true, first = true } = {}) => {
    const closed: unknown[] = []
    const noted: unknown[] = []
    const pickings = {
      useNonce: () => Promise.resolve(fresh),
      close: (...all: unknown[]) => Promise.resolve((closed.push(all), first)),
      noteEntry: (...all: unknown[]) => Promise.resolve(void noted.push(all)),
    }
    const { context } = pretend()
    const records = { pickings, files: { insert: () => Promise.resolve() }, tools: {}, transaction: (work: (inside: object) => unknown) => work(records) } // oxfmt-ignore
    Object.assign(context, { records })
    const whole = { items: [], problems: [], said: null, failed: false, nonce: { value: 'n' }, ...answer }
    const taken = await picked.itemsKept(context, of({ picking, tool: tool11, answer: whole }))
    return { taken, closed, noted }
  }

  it.each([
    [{}, 'empty', 'accepted', 'The picker came back without an item.'],
    [{ said: 'Changed my mind' }, 'empty', 'accepted', 'Changed my mind'],
    [{ failed: true, said: 'No rights' }, 'failed', 'failed', 'No rights'],
    [{ problems: [problem] }, 'failed', 'failed', 'The picker came back without an item.'],
  ])('%j comes to %s', async (answer, state, result, statement) => {
    const { taken, closed, noted } = await keep(answer)
    expect(taken).toMatchObject({ outcome: result, statement })
    expect(closed).toMatchObject([['p1', { state, code: state === 'failed' ? 'picker.said' : null, answeredAt: NOW }]])
    const done = taken as Exclude<typeof taken, Refusal>
    expect(await done.answer(null)).toMatchObject({ state, items: 0, said: (answer as { said?: string }).said ?? null })
    expect(noted).toEqual([])
    await done.answer('77')
    expect(noted).toEqual([['p1', '77']])
  })
  it('once: an answer that came before, or was slower than another, changes nothing', async () => {
    const late = await keep({ items: [] }, { fresh: false })
    expect(told(late.taken)).toBe('picker.data_used: its nonce was used before')
    expect(late.closed).toEqual([])
    expect(told((await keep({}, { first: false })).taken)).toBe('picker.data_used: another answer was faster')
  })
  it('or left out one by one, and it is said how many of how many', async () => {
    const { taken } = await keep({ items: [link], problems: [problem] })
    const done = taken as Exclude<typeof taken, Refusal>
    const { items, refusedItems, state } = (await done.answer(null)) as picked.Picked
    expect([items + refusedItems, state]).toEqual([2, items > 0 ? 'answered' : 'failed'])
    expect(done.statement).toBe(items > 0 ? 'The picker handed over 1 of 2 items.' : 'The picker came back without an item.') // oxfmt-ignore
  })
})

describe('what is noted of an answer', () => {
  const { context } = pretend()
  const fields = [
    ['JWT', 'head.body.signature'],
    ['n'.repeat(120), 'v'],
    ['oauth_signature', 'abcdefgh'],
  ]
  it('opens nothing, and names nobody before the question is known', () => {
    const { entry, tells } = picked.aboutFields(context, of({ id: 'p1', fields }))
    expect(entry).toMatchObject({ registrationId: null, request: { method: 'POST', url: 'p1' } })
    const { parameters } = entry.request as { parameters: [string, string][] }
    expect(parameters[0]).toEqual(['JWT', 'head.body'])
    expect(parameters[1]).toEqual(['n'.repeat(100), 'v'])
    expect(JSON.stringify(parameters)).not.toContain('abcdefgh')
    expect(tells).toBeUndefined()
    const many = Array.from({ length: 60 }, (_, n) => [`n${n}`, 'v'])
    expect((picked.aboutFields(context, of({ id: 'p1', fields: many })).entry.request as { parameters: [] }).parameters).toHaveLength(50) // oxfmt-ignore
  })
  it('is beside its question, its tool and its person, and tells the page that waits', () => {
    const { entry, tells } = picked.aboutPicking(context, of({ picking, tool: tool11, fields }))
    expect(entry).toMatchObject({ registrationId: 'r1', courseId: 'c1', assignmentId: null, pickingId: 'p1', personId: 'u1', request: { url: 'https://us.example/lti/picked/p1' } }) // oxfmt-ignore
    const change = { kind: 'picking', courseId: 'c1', personId: 'u1' }
    expect(tells).toEqual({ taken: change, refused: change })
  })
  it('as refused leaves the question open, with why', async () => {
    const { context, asked } = pretend()
    const refusal = new Refusal('picker.data_used', 'answered')
    const refused = picked.refusePicked(context, of({ picking }), refusal, 'may')
    expect(refused.explain).toBeUndefined()
    expect(picked.refusePicked(context, of({ picking }), refusal, 'verify').explain).toBeDefined()
    await refused.note!('77')
    expect(asked).toEqual([['noteRefusal', 'p1', 'picker.data_used', '77']])
    expect(() => refused.answer()).toThrow(Refusal)
  })
})
