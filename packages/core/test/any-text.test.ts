import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { readReturn } from '@bathyscribe/core/checks'
import { readTable } from '@bathyscribe/core/formats'
import { checkLaunchAddress, cookiesLostInFrame, framingRefusal } from '@bathyscribe/core/links'
import { readToolConfiguration } from '@bathyscribe/core/lti1'
import { checkAuthorization, readLineItem, readScore, rolesAsked, scopeNamed } from '@bathyscribe/core/lti13'
import { readRosterTable } from '@bathyscribe/core/oneroster'
import { checkSentParameters } from '@bathyscribe/core/sent'
import { entryOf } from '@bathyscribe/core/text'

/** Names that every object of JavaScript answers to. */
const EVERY_OBJECT_HAS = [...Object.getOwnPropertyNames(Object.prototype), 'prototype']
const text = fc.oneof(
  fc.string({ unit: 'binary', maxLength: 60 }),
  fc.constantFrom(...EVERY_OBJECT_HAS, '', '\u0000', '\ud800', '%', 'http://', 'https://a.example.org/', '2026-01-01T00:00:00Z', '1e400', 'a'.repeat(9000)), // oxfmt-ignore
)
const value = fc.oneof(text, fc.double(), fc.constantFrom(null, undefined, true, -0, 1e-320, 2 ** 53), fc.jsonValue())
/** What looks right but for some of its parts. */
const nearly = (good: Record<string, unknown>) =>
  fc
    .tuple(fc.subarray(Object.keys(good)), fc.dictionary(fc.oneof(text, fc.constantFrom(...Object.keys(good))), value))
    .map(([left, odd]) => ({ ...good, ...Object.fromEntries(left.map((name) => [name, undefined])), ...odd }))

const SCORE = {
  userId: 'u1', timestamp: '2026-11-02T10:00:00.000Z', scoreGiven: 7, scoreMaximum: 10, activityProgress: 'Completed', gradingProgress: 'FullyGraded', comment: 'c',
} // oxfmt-ignore
const LINE_ITEM = {
  label: 'Bearings', scoreMaximum: 40, resourceId: 'r', tag: 't', startDateTime: '2026-11-02T10:00:00Z', submissionReview: { reviewableStatus: ['Completed'], url: 'https://a.example.org/' },
} // oxfmt-ignore

describe('whatever a tool says is a value or a problem with a code', () => {
  it.each([
    ['a score', readScore, SCORE, 'userId'],
    ['a line item', readLineItem, LINE_ITEM, 'label'],
  ] as const)('%s', (_, read, good, name) => {
    expect(read(good)).toHaveProperty(name)
    fc.assert(
      fc.property(fc.oneof({ weight: 4, arbitrary: nearly(good) }, { weight: 1, arbitrary: value }), (said) => {
        const found: object = read(said)
        const part = (named: string): unknown => (found as Record<string, unknown>)[named]
        if ('code' in found) expect(part('code')).toMatch(/^[a-z_]+\.[a-z_]+$/)
        else expect(part(name)).toEqual(expect.stringMatching(/./))
      }),
      { numRuns: 300 },
    )
  })

  it('a numeral of a score that is no number is refused, never read as another', () => {
    fc.assert(
      fc.property(value, (scoreGiven) => {
        const found = readScore({ ...SCORE, scoreGiven })
        const isNumeral = typeof scoreGiven === 'number' && Number.isFinite(scoreGiven) && scoreGiven >= 0
        if (!isNumeral && scoreGiven !== undefined && scoreGiven !== null) expect(found).toHaveProperty('code')
      }),
      { numRuns: 300 },
    )
  })

  it('where its own page shows a submission', () => {
    fc.assert(
      fc.property(fc.oneof(nearly(LINE_ITEM.submissionReview), value), (said) => {
        const found = readLineItem({ ...LINE_ITEM, submissionReview: said })
        if ('label' in found) expect(found.review?.url ?? 'https://').toMatch(/^https?:\/\//)
      }),
      { numRuns: 300 },
    )
  })

  it('the question for an id_token', () => {
    const good = { scope: 'openid', response_type: 'id_token', response_mode: 'form_post', prompt: 'none', client_id: 'c', redirect_uri: 'https://a.example.org/', login_hint: 'h', lti_message_hint: 'm', nonce: 'n' } // oxfmt-ignore
    expect(checkAuthorization(good)).toBeUndefined()
    fc.assert(
      fc.property(fc.constantFrom(...Object.keys(good)), text, (name, said) => {
        const found = checkAuthorization({ ...good, [name]: said })
        if (['scope', 'response_type', 'response_mode', 'prompt'].includes(name) && said !== good[name as 'scope'])
          expect(found).toBeDefined()
        expect(found?.code ?? 'login.x').toMatch(/^login\.[a-z_]+$/)
      }),
      { numRuns: 300 },
    )
  })

  it('its configuration', () => {
    fc.assert(
      fc.property(fc.array(text, { maxLength: 4 }), (pieces) => {
        const xml = `<cartridge_basiclti_link xmlns="http://www.imsglobal.org/xsd/imslticc_v1p0" xmlns:blti="http://www.imsglobal.org/xsd/imsbasiclti_v1p0">${pieces.join('<blti:title>')}`
        expect(readToolConfiguration(new TextEncoder().encode(xml))).toHaveProperty('code')
      }),
      { numRuns: 200 },
    )
  })

  it('where it sends a learner back, what it says of frames and in cookies, and addresses of it', () => {
    fc.assert(
      fc.property(text, text, (one, other) => {
        const back = new URL('https://platform.example.org/back')
        back.searchParams.set('lti_msg', one)
        expect(readReturn(back.href).message ?? '').toBe(one.toWellFormed().slice(0, 2000))
        const said = framingRefusal(
          { 'content-security-policy': `frame-ancestors ${one}`, 'x-frame-options': other },
          'https://a.example.org/',
          'https://platform.example.org',
        )
        expect(['string', 'undefined']).toContain(typeof said)
        expect(cookiesLostInFrame([`${one}=${other}`]).length).toBeLessThanOrEqual(1)
        const problem = checkLaunchAddress(one)
        if (!problem) expect(new URL(one).protocol).toMatch(/^https?:$/)
      }),
      { numRuns: 300 },
    )
  })
})

describe('names that every object answers to', () => {
  it.each(EVERY_OBJECT_HAS)('%s is in no table of ours', (name) => {
    expect(entryOf({ own: 1 }, name)).toBeUndefined()
    expect(scopeNamed(name)).toBeUndefined()
    expect(rolesAsked(name)).toEqual([])
    const facts = { as: 'learner', disclosure: 'name', secrets: [] } as const
    expect(checkSentParameters([[name, '1']], facts).map((one) => one.statement)).toContain(
      `“${name}” is neither in the standard’s table nor a custom parameter.`,
    )
    expect(readRosterTable(`username,role,${name}\naino,${name},x`, undefined)).toMatchObject({
      problems: [{ message: `has the role “${name}”` }],
    })
  })

  it('are heads of tables like all others', () => {
    const table = readTable('__proto__,constructor\n1,2\n3', (head) => head)
    expect(table).toMatchObject({ columns: ['__proto__', 'constructor'] })
    if ('code' in table) throw new Error(table.code)
    expect(table.rows.map(({ cells }) => Object.entries(cells))).toEqual([
      [['__proto__', '1'], ['constructor', '2']],
      [['__proto__', '3'], ['constructor', '']],
    ]) // oxfmt-ignore
  })
})
