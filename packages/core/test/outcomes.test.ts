import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  OUTCOMES_NAMESPACE,
  OUTCOMES_OPERATIONS,
  readOutcomesRequest,
  readOutcomesResponse,
  readResultId,
  writeOutcomesRequest,
  writeOutcomesResponse,
  writeResultId,
} from '@bathyscribe/core/lti1'

const bytes = (text: string) => new TextEncoder().encode(text)
const read = (text: string) => readOutcomesRequest(bytes(text))
const good = writeOutcomesRequest({ messageId: 'm1', operation: 'replaceResult', resultId: 'r-1', score: '0.645' })

describe('outcomes request', () => {
  it('is read as it was written, whatever its texts', () => {
    const text = fc
      .string({ unit: 'grapheme', minLength: 1, maxLength: 60 })
      .map((one) => one.trim())
      .filter((one) => one !== '' && !/[\u0000-\u001f\ufffe\uffff]/.test(one))
    fc.assert(
      fc.property(
        text,
        text,
        text,
        fc.constantFrom(...OUTCOMES_OPERATIONS),
        (messageId, resultId, score, operation) => {
          const request = { messageId, operation, resultId, score: operation === 'replaceResult' ? score : undefined }
          expect(read(writeOutcomesRequest(request))).toEqual({ ...request, handedIn: undefined })
        },
      ),
    )
  })

  it('may use any namespace prefix, a comment, and CDATA', () => {
    const prefixed = good
      .replaceAll(/<(\/?)(?=[a-z])/g, '<$1o:')
      .replace('xmlns=', 'xmlns:o=')
      .replace('0.645', '<![CDATA[0.6]]><!-- and -->45')
    expect(read(prefixed)).toMatchObject({ operation: 'replaceResult', score: '0.645', resultId: 'r-1' })
  })

  it('carries text or an address beside the score', () => {
    const withData = good.replace(
      '</resultScore>',
      '</resultScore><resultData><url>https://tool.example/work/7</url></resultData>',
    )
    expect(read(withData)).toMatchObject({ handedIn: { kind: 'url', value: 'https://tool.example/work/7' } })
  })

  it.each([
    [
      'a document type',
      good.replace('<imsx_POXEnvelopeRequest', '<!DOCTYPE x [<!ENTITY y "z">]><imsx_POXEnvelopeRequest'),
      'xml.dtd_refused',
    ],
    ['an entity nobody declared', good.replace('0.645', '&y;'), 'xml.malformed'],
    ['a wrong namespace', good.replace(OUTCOMES_NAMESPACE, 'http://example.com/other'), 'outcomes.wrong_namespace'],
    ['no namespace', good.replace(` xmlns="${OUTCOMES_NAMESPACE}"`, ''), 'outcomes.wrong_namespace'],
    ['another root', '<x/>', 'outcomes.not_an_envelope'],
    ['text that is no XML', 'score=1', 'xml.malformed'],
    ['nothing', '', 'xml.malformed'],
    ['an envelope cut short', good.slice(0, -20), 'xml.malformed'],
    ['no message identifier', good.replace('m1', ''), 'outcomes.header_missing'],
    ['no result identifier', good.replace('r-1', ' '), 'outcomes.result_id_missing'],
    ['no score', good.replace(/<result>.*<\/result>/, ''), 'outcomes.score_missing'],
    [
      'an unknown operation',
      good.replaceAll('replaceResultRequest', 'mergeResultRequest'),
      'outcomes.operation_unsupported',
    ],
    [
      'two operations',
      good.replace('</imsx_POXBody>', '<readResultRequest/></imsx_POXBody>'),
      'outcomes.operation_ambiguous',
    ],
    ['40 nested elements', '<a>'.repeat(40) + '</a>'.repeat(40), 'xml.too_deep'],
    ['3000 elements', `<a>${'<b/>'.repeat(3000)}</a>`, 'xml.too_many_elements'],
  ])('refuses %s', (_, text, code) => {
    expect(read(text)).toMatchObject({ code })
  })

  it('refuses bytes that are not UTF-8', () => {
    expect(readOutcomesRequest(new Uint8Array([0x3c, 0xff, 0x3e]))).toMatchObject({ code: 'xml.not_utf8' })
  })

  it('says what it understood before it refused, so that the answer can refer to it', () => {
    expect(read(good.replaceAll('replaceResultRequest', 'mergeResultRequest'))).toMatchObject({
      messageId: 'm1',
      operation: 'mergeResult',
    })
  })

  it('never fails on any bytes', () => {
    fc.assert(fc.property(fc.uint8Array({ maxLength: 300 }), (body) => void readOutcomesRequest(body)))
    fc.assert(
      fc.property(
        fc.nat(good.length),
        fc.string({ unit: 'binary', maxLength: 8 }),
        (at, noise) => void read(good.slice(0, at) + noise + good.slice(at + noise.length)),
      ),
    )
  })
})

describe('outcomes response', () => {
  it('is read as it was written', () => {
    const response = {
      messageId: 'a1',
      codeMajor: 'success',
      severity: 'status',
      description: 'Done <&> “so”',
      messageRef: 'm1',
      operationRef: 'readResult',
      score: '0.5',
    } as const
    expect(readOutcomesResponse(bytes(writeOutcomesResponse(response)))).toEqual(response)
    expect(readOutcomesResponse(bytes('<x/>'))).toBeUndefined()
  })

  it('of a failure carries no operation body', () => {
    const xml = writeOutcomesResponse({
      messageId: 'a',
      codeMajor: 'failure',
      severity: 'error',
      description: '',
      messageRef: '',
      operationRef: 'replaceResult',
    })
    expect(xml).toContain('<imsx_POXBody></imsx_POXBody>')
  })
})

describe('result identifier', () => {
  const key = new Uint8Array(32).fill(7)
  const id = fc.stringMatching(/^[0-9a-z]{1,32}$/)

  it('leads back to person and link', () => {
    fc.assert(
      fc.property(id, id, (linkId, personId) => {
        const text = writeResultId(key, { linkId, personId })
        expect(text.length).toBeLessThanOrEqual(120)
        expect(readResultId(key, text)).toEqual({ linkId, personId })
      }),
    )
  })

  it('cannot be moved to another person or link, forged, or used under another key', () => {
    const text = writeResultId(key, { linkId: 'link1', personId: 'person1' })
    expect(readResultId(key, text.replace('person1', 'person2'))).toBeUndefined()
    expect(readResultId(key, text.replace('link1', 'link2'))).toBeUndefined()
    expect(readResultId(new Uint8Array(32), text)).toBeUndefined()
    fc.assert(
      fc.property(fc.nat(text.length - 1), fc.string({ minLength: 1, maxLength: 1 }), (at, character) => {
        const forged = text.slice(0, at) + character + text.slice(at + 1)
        if (forged !== text) expect(readResultId(key, forged)).toBeUndefined()
      }),
    )
  })
})
