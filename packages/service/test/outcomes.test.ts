import { outcomeAuthorization, outcomeXml, sendOutcome } from '@bathyscribe/practice-tools'
import { XMLParser } from 'fast-xml-parser'
import { beforeAll, describe, expect, it } from 'vitest'
import {
  KEY,
  openForm,
  publishDrill,
  registerKnotwork,
  SECRET,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'

let academy: TestAcademy
let service: string
let assignment: string
let aino: Visitor
let resultId: string

beforeAll(async () => {
  academy = await startAcademy()
  service = `${academy.url}/lti/outcomes`
  await registerKnotwork(academy)
  assignment = (await publishDrill(academy, 'knotwork-drills')).id
  await academy.person('aino', { 'HYD-210': 'learner' })
  aino = await academy.signIn('aino')
  resultId = (await openForm(aino, assignment)).fields['lis_result_sourcedid']!
})

const target = (change: object = {}) => ({ serviceUrl: service, resultId, key: KEY, secret: SECRET, ...change })
const replace = (score: string, change: object = {}) =>
  sendOutcome(target(change), outcomeXml('replaceResult', target(change).resultId, score))
const trail = async (person = 'aino') =>
  (await academy.admin.client.call('showTrail', { params: { assignment, person } })).items
const lastEntry = async () =>
  (await academy.admin.client.call('listWire', { query: { kind: 'outcome', limit: 1 } })).items[0]!
const codeIn = (description: string) => description.split(':')[0]

async function post(body: string | Uint8Array<ArrayBuffer>, headers: Record<string, string>) {
  const response = await fetch(service, { method: 'POST', headers, body })
  const text = await response.text()
  const parsed = new XMLParser({ removeNSPrefix: true }).parse(text) as {
    imsx_POXEnvelopeResponse?: {
      imsx_POXHeader: { imsx_POXResponseHeaderInfo: { imsx_statusInfo: Record<string, string> } }
    }
  }
  return {
    status: response.status,
    info: parsed.imsx_POXEnvelopeResponse?.imsx_POXHeader.imsx_POXResponseHeaderInfo.imsx_statusInfo,
    text,
  }
}
const signed = (body: string, change: object = {}) => ({
  'content-type': 'application/xml',
  authorization: outcomeAuthorization(target(change), body),
})

describe('a score that the tool sends', () => {
  it('stands in the gradebook as fraction times points, exactly', async () => {
    expect(await replace('0.645')).toMatchObject({ status: 200, codeMajor: 'success' })
    const book = await academy.admin.client.call('showGradebook', { params: { course: 'HYD-210' } })
    expect(book.rows[0]!.cells[assignment]).toMatchObject({
      state: 'graded',
      points: '64.5',
      shown: '65',
      sent: '0.645',
    })
    expect(await replace('0.33333333333333333333')).toMatchObject({ codeMajor: 'success' })
    expect((await trail())[0]).toMatchObject({ points: '33.333333333333333333', outOf: '100', counts: true })
  })

  it('is read back equal, cleared, and read back empty', async () => {
    await replace('0.7')
    const read = () => sendOutcome(target(), outcomeXml('readResult', resultId))
    expect(await read()).toMatchObject({ codeMajor: 'success', score: '0.7' })
    expect(await sendOutcome(target(), outcomeXml('deleteResult', resultId))).toMatchObject({ codeMajor: 'success' })
    expect(await read()).toMatchObject({ codeMajor: 'success', score: '' })
    expect((await trail())[0]).toMatchObject({ operation: 'delete', counts: true })
  })

  it('reaches the assignment’s proof: all six marks lit', async () => {
    await replace('0.9')
    const { proof } = await academy.admin.client.call('showAssignment', { params: { assignment } })
    expect(proof.map((mark) => mark.state)).toEqual(Array(6).fill('proven'))
  })

  it('that comes twice at the same instant leaves two trail entries and the later one standing', async () => {
    const before = (await trail()).length
    await Promise.all(['0.1', '0.2', '0.3', '0.4'].map((score) => replace(score)))
    const after = await trail()
    expect(after.length).toBe(before + 4)
    expect(after.filter((entry) => entry.counts)).toEqual([after[0]])
    const cell = (await academy.admin.client.call('showTrail', { params: { assignment, person: 'aino' } })).cell
    expect(cell.sent).toBe(after[0]!.sent)
  })
})

describe('a score that is wrong', () => {
  it.each([
    ['1.2', 'score.above_one'],
    ['-0', 'score.negative'],
    ['1,0', 'score.decimal_comma'],
    ['NaN', 'score.not_a_number'],
    ['1e400', 'score.not_a_number'],
    ['', 'score.empty'],
  ])('“%s” is answered 200 with failure %s, kept as refused, and changes no result', async (score, code) => {
    await replace('0.5')
    const answer = await replace(score)
    expect(answer).toMatchObject({ status: 200, codeMajor: 'failure' })
    expect(codeIn(answer.description)).toBe(code)
    const [last, before] = await trail()
    expect(last).toMatchObject({ outcome: 'refused', code, counts: false })
    expect(before).toMatchObject({ sent: '0.5', counts: true })
    expect(await lastEntry()).toMatchObject({ outcome: 'refused', code })
  })
})

describe('a message that is not to be trusted', () => {
  const body = () => outcomeXml('replaceResult', resultId, '0.99')

  it.each<[string, () => Record<string, string>, string]>([
    ['no signature', () => ({ 'content-type': 'application/xml' }), 'oauth.header_missing'],
    [
      'another scheme',
      () => ({ 'content-type': 'application/xml', authorization: 'Bearer x' }),
      'oauth.header_malformed',
    ],
  ])('with %s is answered 401 by its own code', async (_, headers, expected) => {
    const answer = await post(body(), headers())
    expect(answer.status).toBe(401)
    expect(codeIn(answer.info!['imsx_description']!)).toBe(expected)
  })

  const code = async (body: string, headers: Record<string, string>) =>
    codeIn((await post(body, headers)).info!['imsx_description']!)
  it('names a wrong secret, a wrong key, a changed body and a missing parameter each by its own code', async () => {
    const xml = body()
    expect(await code(xml, signed(xml, { secret: 'wrong' }))).toBe('oauth.signature_mismatch')
    expect(await code(xml, signed(xml, { key: 'nobody' }))).toBe('oauth.key_of_another_tool')
    expect(await code(xml.replace('0.99', '1'), signed(xml))).toBe('oauth.body_hash_mismatch')
    const header = signed(xml)
    expect(
      await code(xml, { ...header, authorization: header.authorization.replace(/oauth_nonce="[^"]*", /, '') }),
    ).toBe('oauth.parameter_missing')
    expect(await code(xml, { ...header, authorization: `${header.authorization}, oauth_nonce="x"` })).toBe(
      'oauth.parameter_repeated',
    )
    expect(
      await code(xml, { ...header, authorization: header.authorization.replace('HMAC-SHA1', 'HMAC-SHA256') }),
    ).toBe('oauth.method_unsupported')
  })

  it('is refused when it is stale, and says by how much', async () => {
    const xml = body()
    const header = signed(xml)
    academy.clock.offsetMs = 301_000
    const answer = await post(xml, header)
    academy.clock.offsetMs = 0
    expect(answer.info!['imsx_description']).toMatch(/oauth\.timestamp_outside_window.*30[12] seconds behind/)
  })

  it('is taken once and refused as a repetition ever after, also when both come at once', async () => {
    const xml = outcomeXml('replaceResult', resultId, '0.42')
    const header = signed(xml)
    const before = (await trail()).length
    const answers = await Promise.all(Array.from({ length: 6 }, () => post(xml, header)))
    expect(answers.filter((one) => one.status === 200)).toHaveLength(1)
    expect(answers.filter((one) => one.status === 401).map((one) => codeIn(one.info!['imsx_description']!))).toEqual(
      Array(5).fill('oauth.nonce_used'),
    )
    expect((await trail()).length).toBe(before + 1)
  })

  it('cannot be moved to another link or person, nor invented', async () => {
    const other = await publishDrill(academy, 'knotwork-drills', { title: 'Other' })
    for (const forged of [
      resultId.replace(assignment, other.id),
      resultId.slice(0, -1) + (resultId.endsWith('A') ? 'B' : 'A'),
      'r1-x-y-z',
      "'; drop table score; --",
    ]) {
      const answer = await sendOutcome(target({ resultId: forged }), outcomeXml('replaceResult', forged, '1'))
      expect(answer).toMatchObject({ status: 200, codeMajor: 'failure' })
      expect(codeIn(answer.description)).toBe('outcomes.result_id_unknown')
    }
  })
})

describe('a body that is not the standard’s', () => {
  it.each<[string, (xml: string) => string, string, number]>([
    [
      'a document type',
      (xml) => xml.replace('<imsx_POXEnvelopeRequest', '<!DOCTYPE a><imsx_POXEnvelopeRequest'),
      'xml.dtd_refused',
      200,
    ],
    ['an entity', (xml) => xml.replace('0.5', '&half;'), 'xml.malformed', 200],
    ['another namespace', (xml) => xml.replace('imsoms_v1p0', 'imsoms_v9'), 'outcomes.wrong_namespace', 200],
    [
      'an unknown operation',
      (xml) => xml.replaceAll('replaceResultRequest', 'mergeResultRequest'),
      'outcomes.operation_unsupported',
      200,
    ],
    ['half an envelope', (xml) => xml.slice(0, 300), 'xml.malformed', 200],
  ])('%s is answered by %3$s', async (_, change, code, status) => {
    const body = change(outcomeXml('replaceResult', resultId, '0.5'))
    const answer = await post(body, signed(body))
    expect(answer.status).toBe(status)
    expect(codeIn(answer.info!['imsx_description']!)).toBe(code)
    expect(answer.info!['imsx_codeMajor']).toBe(code === 'outcomes.operation_unsupported' ? 'unsupported' : 'failure')
    expect(await lastEntry()).toMatchObject({ outcome: 'refused', code })
  })

  it('10 MB are refused by 413 in an envelope, unread', async () => {
    const answer = await post(new Uint8Array(10 * 1024 * 1024).fill(120), { 'content-type': 'application/xml' })
    expect(answer.status).toBe(413)
    expect(codeIn(answer.info!['imsx_description']!)).toBe('outcomes.too_large')
    expect(await lastEntry()).toMatchObject({ outcome: 'refused', code: 'outcomes.too_large' })
  })

  it('bytes that are not UTF-8 and other content types have their own codes', async () => {
    const bytes = new Uint8Array([0x3c, 0xff, 0x3e])
    const authorization = outcomeAuthorization(target(), bytes as unknown as string)
    const binary = await post(bytes, { 'content-type': 'text/xml', authorization })
    expect(codeIn(binary.info!['imsx_description']!)).toBe('xml.not_utf8')
    const json = await post('{}', { 'content-type': 'application/json' })
    expect(json.status).toBe(415)
    expect(codeIn(json.info!['imsx_description']!)).toBe('outcomes.media_type')
  })
})

describe('people and tools that no longer fit', () => {
  it('a dropped learner’s score is refused by name and kept as refused', async () => {
    await academy.person('drops', { 'HYD-210': 'learner' })
    const id = (await openForm(await academy.signIn('drops'), assignment)).fields['lis_result_sourcedid']!
    await academy.admin.client.call('changeEnrolment', {
      params: { course: 'HYD-210', person: 'drops' },
      body: { state: 'dropped' },
    })
    const answer = await sendOutcome(target({ resultId: id }), outcomeXml('replaceResult', id, '0.5'))
    expect(answer.description).toMatch(/^score\.not_a_learner: .*dropped/)
    expect((await trail('drops'))[0]).toMatchObject({ outcome: 'refused', code: 'score.not_a_learner', sent: '0.5' })
  })

  it('a suspended tool still returns work already done; a retired one returns nothing', async () => {
    const state = (state: 'enabled' | 'suspended' | 'retired') =>
      academy.admin.client.call('setToolState', { params: { tool: 'knotwork-drills' }, body: { state } })
    await state('suspended')
    expect(await replace('0.8')).toMatchObject({ codeMajor: 'success' })
    await state('retired')
    expect((await replace('0.9')).description).toMatch(/^outcomes\.tool_not_enabled/)
    expect((await trail())[0]).toMatchObject({ sent: '0.8', counts: true })
  })

  it('no secret, password or session ever stands in the wire log', async () => {
    const rows = await academy.query<{ all: string }>(
      `select string_agg(request::text || coalesce(response::text, ''), ' ') as all from wire_entry`,
    )
    expect(rows[0]!.all).not.toContain(SECRET)
    expect(rows[0]!.all).toMatch(/… \(28 characters\)/)
  })
})
