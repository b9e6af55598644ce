import { createHash, createHmac } from 'node:crypto'
import { Refusal } from '@bathyscribe/contract'
import { writeResultId } from '@bathyscribe/core/lti1'
import { Problem } from '@bathyscribe/core/result'
import OAuth from 'oauth-1.0a'
import { describe, expect, it } from 'vitest'
import { describe as inWords, scoreOf } from '../src/inbound/messages/outcome-score.js'
import * as outcome from '../src/inbound/messages/outcome.js'
import { verifiedBySecret } from '../src/inbound/steps/secret-signature.js'
import { NOW, of, pretend, said, sealed, settings } from './pretend.js'

const nowSeconds = NOW.getTime() / 1000
const PATH = '/lti/outcomes?from=tool'
const tool = (change: object = {}) => ({
  ...{ id: 'r1', name: 'Drills', consumerKey: 'k1', version: '1.1', signatureMethod: 'HMAC-SHA1', state: 'enabled' },
  ...{ secretSealed: sealed('halyard', 'r1'), scoresWhileSuspended: true },
  ...change,
})
const link = (change: object = {}) => ({
  resource: { kind: 'assignment', id: 'l1', points: '40' },
  course: { id: 'c1' },
  registration: tool(),
  person: { id: 'p1' },
  enrolment: { role: 'learner', state: 'active' },
  result: null,
  ...change,
})
const envelope = (operation: string, more = '') =>
  Buffer.from(
    `<?xml version="1.0"?><imsx_POXEnvelopeRequest xmlns="http://www.imsglobal.org/services/ltiv1p1/xsd/imsoms_v1p0"><imsx_POXHeader><imsx_POXRequestHeaderInfo><imsx_version>V1.0</imsx_version><imsx_messageIdentifier>m-7</imsx_messageIdentifier></imsx_POXRequestHeaderInfo></imsx_POXHeader><imsx_POXBody><${operation}Request><resultRecord><sourcedGUID><sourcedId>${ID}</sourcedId></sourcedGUID>${more}</resultRecord></${operation}Request></imsx_POXBody></imsx_POXEnvelopeRequest>`,
  )
const ID = writeResultId(new Uint8Array(32).fill(7), { linkId: 'l1', personId: 'p1' })
const replace = (text: string) => envelope('replaceResult', `<result><resultScore><language>en</language><textString>${text}</textString></resultScore></result>`) // oxfmt-ignore

/** The Authorization header of a body, by a general library. */
function signed(body: Buffer, { secret = 'halyard', key = 'k1', at = nowSeconds, sha = 'sha1' } = {}): string {
  const oauth = new OAuth({
    consumer: { key, secret },
    signature_method: sha === 'sha1' ? 'HMAC-SHA1' : 'HMAC-SHA256',
    hash_function: (base, by) => createHmac(sha, by).update(base).digest('base64'),
  })
  const bodyHash = createHash(sha).update(body).digest('base64')
  oauth.getTimeStamp = () => at
  const whole = oauth.authorize({
    url: `${settings.publicUrl}${PATH}`,
    method: 'POST',
    data: { oauth_body_hash: bodyHash },
  })
  return oauth.toHeader({ ...whole, oauth_body_hash: bodyHash } as never).Authorization
}
/** What the first steps make of a call, as far as they come. */
async function taken(context: never, body: Buffer, authorization: unknown, found: unknown) {
  const call = { path: PATH, headers: { authorization }, body, ...outcome.envelope(context, of({ body })), link: found }
  const sender = await outcome.senderOf(context, of(call))
  if (sender instanceof Refusal) return sender
  const verified = await outcome.signatureOrToken(context, of({ ...call, ...sender }))
  return verified instanceof Refusal ? verified : { ...call, ...sender, ...verified }
}
const told = (found: unknown) => (found instanceof Refusal ? `${found.code}: ${found.detail ?? ''}` : found)

describe('whose result it is', () => {
  it('stands in an identifier of ours, and nothing is asked for any other', async () => {
    const { context, asked } = pretend({ findScored: 'the link', findLink: 'with its result' })
    const whose = (body: Buffer) => outcome.linkOfResult(context, of(outcome.envelope(context, of({ body }))))
    expect(await whose(replace('0.5'))).toEqual({ link: 'the link' })
    expect(asked.splice(0)).toEqual([['findScored', { linkId: 'l1', personId: 'p1' }]])
    expect(await whose(envelope('readResult'))).toEqual({ link: 'with its result' })
    expect(asked).toEqual([['findLink', { linkId: 'l1', personId: 'p1' }]])
    for (const other of [Buffer.from('<x/>'), Buffer.from(replace('0.5').toString().replace(ID, 'theirs'))])
      expect(await whose(other)).toEqual({ link: undefined })
    expect(asked).toHaveLength(1)
  })
})

describe('who sends an outcome', () => {
  const { context, asked } = pretend({ byKey: [tool({ id: 'r9' })] })
  const by = async (authorization: unknown, ...found: unknown[]) =>
    outcome.senderOf(context, of({ headers: { authorization }, link: found.length > 0 ? found[0] : link() }))

  it.each([undefined, '', ['a', 'b']])('says so in one header: %j', async (header) => {
    expect(said(await by(header))).toBe('oauth.header_missing')
  })
  it('says so in a form that can be read', async () => {
    expect(told(await by(`Basic ${'x'.repeat(60)}`))).toBe(`oauth.header_malformed: Basic ${'x'.repeat(34)}`)
    expect(said(await by('OAuth oauth_consumer_key="k1"'))).toMatch(/^oauth\./)
  })
  it('is the tool of the link, else whoever has that key', async () => {
    const header = signed(replace('1'))
    expect(await by(header)).toMatchObject({ sender: { by: 'signature', signer: { id: 'r1' } } })
    expect(asked).toEqual([])
    expect(await by(header, undefined)).toMatchObject({ sender: { by: 'signature', signer: { id: 'r9' } } })
    expect(asked).toEqual([['byKey', 'k1']])
  })
  it('is one with a token for links of LTI 1.3 only', async () => {
    const of13 = link({ registration: tool({ version: '1.3' }) })
    expect(await by('Bearer abc', of13)).toEqual({ sender: { by: 'token', bearer: 'abc', link: of13 } })
    expect(await by(signed(replace('1')), of13)).toMatchObject({ sender: { by: 'signature' } })
    expect(said(await by('Bearer abc'))).toBe('oauth.header_malformed')
    expect(said(await by('Bearer abc', undefined))).toBe('oauth.header_malformed')
  })
})

const NO_OTHERS = { current: sealed('halyard', 'r1'), others: [] }

describe('a signed outcome', () => {
  const NOBODY = null
  const by = async (
    options: Parameters<typeof signed>[1] = {},
    found: object | null = link(),
    body = replace('0.5'),
    sent = body,
  ) => {
    // oxfmt-ignore
    const { context } = pretend({ findSecrets: NO_OTHERS, byKey: [] })
    return taken(context, sent, signed(body, options), found ?? undefined)
  }
  it('is good by the secret of its tool, over the address as it was called', async () => {
    expect(await by()).toMatchObject({ signedBy: { id: 'r1' }, sender: { by: 'signature' } })
  })
  it('is good by SHA-256 where the tool is registered with it, and not else', async () => {
    const sha256 = link({ registration: tool({ signatureMethod: 'HMAC-SHA256' }) })
    expect(await by({ sha: 'sha256' }, sha256)).toMatchObject({ signedBy: { id: 'r1' } })
    expect(said(await by({ sha: 'sha256' }))).toMatch(/^oauth\./)
  })
  it('covers its body', async () => {
    expect(said(await by({}, link(), replace('0.5'), replace('1')))).toBe('oauth.body_hash_mismatch')
  })
  it('is of now, as near as clocks agree', async () => {
    expect(await by({ at: nowSeconds - 300 })).toHaveProperty('signedBy')
    expect(await by({ at: nowSeconds + 300 })).toHaveProperty('signedBy')
    for (const off of [-301, 301]) expect(said(await by({ at: nowSeconds + off }))).toMatch(/^oauth\.timestamp/)
  })
  it.each([
    ['a secret that is none', {}, { secret: 'bowline' }, 'oauth.signature_mismatch'],
    ['the key of another tool', {}, { key: 'k'.repeat(90) }, `oauth.key_of_another_tool: “${'k'.repeat(80)}”`],
    ['a tool without a secret', { registration: tool({ secretSealed: null }) }, {}, 'oauth.key_unknown: “k1”'],
  ])('is refused by %s', async (_, change, options, why) => {
    expect(told(await by(options, link(change)))).toContain(why)
  })
  it('is refused by a key of nobody where no link says whose it is', async () => {
    expect(told(await by({}, NOBODY))).toBe('oauth.key_unknown: “k1”')
  })
})

describe('a secret among those that a tool may sign with', () => {
  const check = async (good: string[], found: Record<string, unknown> = {}, signer = tool()) => {
    const { context, asked, names } = pretend({ findSecrets: { ...NO_OTHERS, ...found } })
    const tried: string[] = []
    const verify = (secret: string) => {
      tried.push(secret)
      return good.includes(secret) ? undefined : new Problem('oauth.signature_mismatch', 'differs')
    }
    const answer = await verifiedBySecret(context, of(signer), verify as never)
    return { answer, tried, asked, names: names() }
  }
  const other = (secret: string, role: 'previous' | 'next') => ({ id: `o-${secret}`, sealed: sealed(secret, 'r1'), role, setAt: NOW, endsAt: null }) // oxfmt-ignore

  it('is its own, whose use is noted, and no other is looked at', async () => {
    const { answer, tried, asked } = await check(['halyard'])
    expect(answer).toMatchObject({ signedBy: { id: 'r1' } })
    expect(tried).toEqual(['halyard'])
    expect(asked).toEqual([['noteKey', 'r1', sealed('halyard', 'r1'), NOW]])
  })
  it('is the one on its way out, and stays where it is', async () => {
    const { answer, asked, names } = await check(['old'], { others: [other('bad', 'previous'), other('old', 'previous')] }) // oxfmt-ignore
    expect(answer).toMatchObject({ signedBy: { id: 'r1' } })
    expect(names).toEqual(['findSecrets', 'noteKey'])
    expect(asked[0]).toEqual(['findSecrets', 'r1'])
    expect(asked[1]).toEqual(['noteKey', 'r1', sealed('old', 'r1'), NOW])
  })
  it('is the one that was changed between two readings', async () => {
    const fresh = { current: sealed('new', 'r1') }
    expect((await check(['new'], fresh)).answer).toMatchObject({ signedBy: { id: 'r1' } })
    expect(said((await check(['newer'], fresh)).answer)).toBe('oauth.signature_mismatch')
    // The same as before is not tried a second time.
    expect((await check([])).tried).toEqual(['halyard'])
    expect(said((await check([], { current: null })).answer)).toBe('oauth.signature_mismatch')
  })
  it('is none where there is none', async () => {
    expect(told((await check(['halyard'], {}, tool({ secretSealed: null }))).answer)).toBe('tool.secret_missing: Drills') // oxfmt-ignore
  })
  it('is not looked for where something else is wrong', async () => {
    const { context, names } = pretend()
    const verify = () => new Problem('oauth.timestamp_stale', '400 seconds')
    const answer = await verifiedBySecret(context, of(tool()), verify as never)
    expect(told(answer)).toBe('oauth.timestamp_stale: 400 seconds')
    expect(names()).toEqual([])
  })
})

describe('what an outcome says', () => {
  const asked = (body: Buffer) => outcome.envelope(pretend().context, of({ body })).asked
  const request = (body: Buffer) => outcome.wellFormed(pretend().context, of({ asked: asked(body) }))

  it('is read from its envelope, and what is wrong with that is told by its own code', () => {
    expect(request(replace('0.5'))).toMatchObject({ request: { operation: 'replaceResult', resultId: ID, score: '0.5', messageId: 'm-7' } }) // oxfmt-ignore
    expect(said(request(Buffer.from('<x')))).toBe('xml.malformed')
    expect(said(request(envelope('moveResult')))).toBe('outcomes.operation_unsupported')
  })
  it.each([
    ['0.5', 'accepted', '0.5', '20', '0.5 of 1 recorded: 20 of 40 points.'],
    ['1', 'accepted', '1', '40', '1 of 1 recorded: 40 of 40 points.'],
    ['0', 'accepted', '0', '0', '0 of 1 recorded: 0 of 40 points.'],
  ])('of %s is %s', (text, result, fraction, points, words) => {
    const given = asked(replace(text)) as never
    const { score, refusal } = scoreOf(given, of(link()))
    expect(refusal).toBeUndefined()
    expect(score).toMatchObject({
      operation: 'replace',
      outcome: result,
      sent: text,
      fraction,
      outOf: '40',
      code: null,
    })
    expect(Number(score.points)).toBe(Number(points))
    expect(inWords(given, score, of(link()))).toBe(words.replace(/: \d+/, `: ${score.points}`))
  })
  it.each(['1.5', '-0.1', 'A+', ''])('of “%s” is refused, and kept as it was sent', (text) => {
    const { score, refusal } = scoreOf(asked(replace(text)) as never, of(link()))
    expect(refusal?.code).toMatch(/^score\./)
    expect(score).toMatchObject({ outcome: 'refused', code: refusal!.code, sent: text, fraction: null, points: null })
    expect(refusal!.detail).toBe(`“${text}”`)
  })
  it('of a long nonsense is kept and told as far as it is worth', () => {
    const { score, refusal } = scoreOf({ operation: 'replaceResult', score: 'x'.repeat(900) } as never, of(link()))
    expect([score.sent, refusal!.detail]).toEqual(['x'.repeat(200), `“${'x'.repeat(200)}”`])
  })
  it('clears, and reads what stands', () => {
    const clear = asked(envelope('deleteResult')) as never
    const cleared = scoreOf(clear, of(link()))
    expect(cleared).toMatchObject({ score: { operation: 'delete', outcome: 'accepted', sent: null, points: null }, refusal: undefined }) // oxfmt-ignore
    expect(inWords(clear, cleared.score, of(link()))).toBe('The score was cleared.')
    const read = asked(envelope('readResult')) as never
    expect(inWords(read, undefined, of(link()))).toBe('There is no score yet.')
    expect(inWords(read, undefined, of(link({ result: { fraction: null } })))).toBe('There is no score yet.')
    expect(inWords(read, undefined, of(link({ result: { fraction: '0.645' } })))).toBe('The score is 0.645 of 1.')
  })
})

describe('an outcome is answered', () => {
  const { context } = pretend()
  const asked = (body: Buffer) => ({ ...outcome.envelope(context, of({ body })) })
  const act = (body: Buffer, found = link()) => {
    const call = asked(body)
    const taken = outcome.outcome(context, of({ ...call, request: call.asked, link: found }))
    return taken instanceof Refusal ? taken : { taken, xml: (taken.answer('1') as outcome.OutcomeAnswer).xml }
  }
  const part = (xml: string, name: string) => new RegExp(`<${name}>([^<]*)</${name}>`).exec(xml)?.[1]

  it('with success, by its own message and operation', () => {
    const { taken, xml } = act(replace('0.5')) as Exclude<ReturnType<typeof act>, Refusal>
    expect([part(xml, 'imsx_codeMajor'), part(xml, 'imsx_severity')]).toEqual(['success', 'status'])
    expect([part(xml, 'imsx_messageRefIdentifier'), part(xml, 'imsx_operationRefIdentifier')]).toEqual(['m-7', 'replaceResult']) // oxfmt-ignore
    expect(part(xml, 'imsx_messageIdentifier')).toBe('id-1')
    expect(taken.kept).toMatchObject({ response: { status: 200, body: xml }, score: { outcome: 'accepted', sent: '0.5' } }) // oxfmt-ignore
    expect(xml).not.toContain('textString')
  })
  it.each([
    [null, ''],
    [{ fraction: '0.645' }, '0.645'],
  ])('with the score that stands: %j', (result, text) => {
    const { taken, xml } = act(envelope('readResult'), link({ result })) as Exclude<ReturnType<typeof act>, Refusal>
    expect(xml).toMatch(text === '' ? /<textString(\s*\/>|><\/textString>)/ : new RegExp(`<textString>${text}</textString>`)) // oxfmt-ignore
    expect(taken.kept).not.toHaveProperty('score')
  })
  it('with failure for a score that is none', () => expect(said(act(replace('2')))).toMatch(/^score\./))

  it.each([
    ['read', 401],
    ['identify', 401],
    ['verify', 401],
    ['fresh', 401],
    ['may', 200],
    ['take', 200],
  ] as const)('as refused at %s by HTTP %i, told in the envelope', (at, status) => {
    const refused = outcome.refuseCall(context, of(asked(replace('1'))), new Refusal('score.not_a_learner', 'dropped'), at) // oxfmt-ignore
    const answer = refused.answer() as outcome.OutcomeAnswer
    expect(answer.status).toBe(status)
    expect([part(answer.xml, 'imsx_codeMajor'), part(answer.xml, 'imsx_severity')]).toEqual(['failure', 'error'])
    expect(part(answer.xml, 'imsx_description')).toMatch(/^score\.not_a_learner: .+dropped/)
    expect(part(answer.xml, 'imsx_messageRefIdentifier')).toBe('m-7')
    expect(refused.kept).toEqual({ response: { status, body: answer.xml } })
  })
  it('as unsupported where it asks for what there is not', () => {
    const refused = outcome.refuseCall(context, of({}), new Refusal('outcomes.operation_unsupported'), 'may')
    const { xml } = refused.answer() as outcome.OutcomeAnswer
    expect([part(xml, 'imsx_codeMajor'), part(xml, 'imsx_messageRefIdentifier')]).toEqual(['unsupported', ''])
    expect(outcome.outcomeFailure(context, new Refusal('request.too_large'))).toContain('request.too_large: ')
  })
  it('not as refused where the fault is ours: then it is tried again', () => {
    const ours = new Refusal('service.database_unavailable')
    expect(() => outcome.refuseCall(context, of({}), ours, 'verify').answer()).toThrow(ours)
  })
  it('as known whoever was found out, but for what came before', () => {
    const status = (at: 'verify' | 'fresh' | 'may') => (outcome.refuseKnown(context, of({}), new Refusal('score.not_a_learner'), at).answer() as outcome.OutcomeAnswer).status // oxfmt-ignore
    expect([status('verify'), status('fresh'), status('may')]).toEqual([200, 401, 200])
  })
})

describe('a score that is refused', () => {
  const { context } = pretend()
  const kept = (
    text: string,
    code: ConstructorParameters<typeof Refusal>[0],
    at: 'may' | 'fresh' = 'may',
    operation = 'replaceResult',
  ) => {
    // oxfmt-ignore
    const request = { operation, score: text, resultId: ID }
    const call = of({ request, link: link(), sender: { by: 'token' }, asked: request })
    return outcome.refuseScore(context, call, new Refusal(code), at).kept as { score?: object }
  }
  it('for what it says stands in the trail as it was sent', () => {
    expect(kept('1.5', 'score.above_one').score).toMatchObject({ outcome: 'refused', code: 'score.above_one', sent: '1.5' }) // oxfmt-ignore
  })
  it('for whom it is of stands there without points', () => {
    expect(kept('0.5', 'score.not_a_learner').score).toMatchObject({ outcome: 'refused', code: 'score.not_a_learner', sent: '0.5', fraction: null, points: null }) // oxfmt-ignore
  })
  it('for anything else, or that came before, or only reads, stands nowhere', () => {
    expect(kept('0.5', 'outcomes.tool_not_enabled')).not.toHaveProperty('score')
    expect(kept('1.5', 'score.above_one', 'fresh')).not.toHaveProperty('score')
    expect(kept('', 'score.not_a_learner', 'may', 'readResult')).not.toHaveProperty('score')
  })
})

describe('the cause of a refused signature', () => {
  const explain = async (sender: object, body = replace('0.5')) => {
    const { context, asked } = pretend({ others: [], keep: undefined })
    const call = of({ path: PATH, headers: { host: 'us.example' }, body, sender, link: undefined })
    await outcome.refuseSigned(context, call, new Refusal('oauth.signature_mismatch'), 'verify').explain!('77')
    return asked.filter(([name]) => name === 'keep')
  }
  it('is not looked for where nobody signed', async () => {
    expect(await explain({ by: 'token' })).toEqual([])
    expect(await explain({ by: 'signature', signer: undefined })).toEqual([])
    expect(await explain({ by: 'signature', signer: tool({ secretSealed: null }) })).toEqual([])
  })
})
