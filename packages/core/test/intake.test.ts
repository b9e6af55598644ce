import { readFetched, readHandover, readJson, type Handover } from '@bathyscribe/core/intake'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { CASES } from './intake-cases.js'
import { KEY, LAUNCH, METADATA, NOW, SECRET } from './intake-documents.js'

const read = (text: string) => readHandover(text, NOW)
const values = (handover: Handover) => Object.fromEntries(handover.recognised.map((one) => [one.field, one.value]))
const codes = (handover: Handover) => [...new Set(handover.remarks.map((one) => one.code))].sort()

describe('intake reads', () => {
  it('at least sixty forms in which tools are handed over', () => {
    expect(Object.keys(CASES).length).toBeGreaterThanOrEqual(60)
  })
  it.each(Object.entries(CASES))('%s', (_, { given, reads, says = [], missing = [] }) => {
    const handover = read(given)
    expect(values(handover)).toEqual(reads)
    expect(codes(handover)).toEqual([...says].sort())
    expect(handover.missing).toEqual(missing)
  })
})

describe('intake also says', () => {
  it('from which part of the input each value is', () => {
    const { recognised } = read(`Hello\nConsumer key: ${KEY}\n${LAUNCH}`)
    expect(recognised.map((one) => one.source)).toEqual(['line 2, “Consumer key”', 'line 3, by its form'])
  })

  it('what was left out of a value, by code point', () => {
    const [key] = read(`Consumer key: \u200b"${KEY}" \nShared secret: ${SECRET}`).recognised
    expect(key).toMatchObject({ value: KEY, removed: [expect.stringContaining('U+200B'), 'quotes'] })
  })

  it('what each of two pairs is for, and which returns scores', () => {
    expect(read(CASES['two pairs of keys']!.given).pairs).toEqual([
      { consumerKey: 'grade-key', sharedSecret: SECRET, purpose: 'For graded assignments:', returnsScores: true },
      {
        consumerKey: 'link-key',
        sharedSecret: 'marlin-5-spike-2-eye',
        purpose: 'For content links only, no grades:',
        returnsScores: false,
      },
    ])
  })

  it('what a key is for, where its label says so; one secret may belong to several keys', () => {
    const { pairs } = read(CASES['keys with what they are for in their labels']!.given)
    expect(pairs.map((one) => [one.consumerKey, one.sharedSecret, one.purpose])).toEqual([
      [KEY, SECRET, 'LMS only'],
      ['other-key', SECRET, 'for direct login'],
    ])
  })

  it.each([
    ['on one line', 'Redirect URIs: https://a.example/1, https://a.example/2 ; https://a.example/3'],
    ['below each other', 'Redirect URIs:\n- https://a.example/1\n- https://a.example/2\n* https://a.example/3'],
    ['below the first', 'Redirect URI: https://a.example/1\n  https://a.example/2\n  https://a.example/3'],
    [
      'each with its label',
      'Redirect URI: https://a.example/1\nRedirect URI 2 (staging): x\nRedirect URI: https://a.example/2\nCallback: https://a.example/3',
    ],
  ])('every redirect address: %s', (_, list) => {
    const { recognised } = read(`Login URL: https://a.example/login\n${list}\nKeyset URL: https://a.example/keys`)
    const of = (field: string) => recognised.filter((one) => one.field === field).map((one) => one.value)
    expect(of('redirectUri').filter((one) => one.startsWith('https'))).toEqual(
      [1, 2, 3].map((n) => `https://a.example/${n}`),
    )
    expect(of('keysetUrl')).toEqual(['https://a.example/keys'])
    expect(of('launchUrl')).toEqual([])
  })

  const AGS = 'https://purl.imsglobal.org/spec/lti-ags/scope/'
  const ROSTER = 'https://purl.imsglobal.org/spec/lti-nrps/scope/contextmembership.readonly'
  it.each([
    ['', ['lineitem', 'result.readonly', 'score'].map((one) => AGS + one), 'usual'],
    [
      `Scopes: ${AGS}score ${ROSTER}, https://purl.imsglobal.org/spec/lti-zz/scope/unknown`,
      [`${AGS}score`, ROSTER],
      'named',
    ],
    [`- ${AGS}score.`, [`${AGS}score`], 'named'],
    ['It uses Names and Roles.', [ROSTER], 'in words'],
    [
      'It needs AGS and NRPS.',
      [...['lineitem', 'result.readonly', 'score'].map((one) => AGS + one), ROSTER],
      'in words',
    ],
  ])('what a tool of LTI 1.3 asks to be allowed: “%s”', (words, scopes, because) => {
    const { scopes: asked, recognised, remarks } = read(`Login URL: https://a.example/login\n${words}`)
    expect(asked).toEqual(scopes.map((scope) => ({ scope, because })))
    expect(remarks.some((one) => one.code === 'usual_scopes')).toBe(because === 'usual')
    expect(recognised.map((one) => one.field)).toEqual(['initiationUrl'])
  })
  it('nothing of the kind for LTI 1.1, whose rights are no scopes', () => {
    expect(read(CASES['labels with colons']!.given).scopes).toEqual([])
  })

  it.each([
    ['Privacy: name and email', { field: 'disclosure', value: 'name_and_email' }],
    ['Privacy level: anonymous', { field: 'disclosure', value: 'opaque' }],
    ['Datenschutz: nur der Name', { field: 'disclosure', value: 'name' }],
    ['Privacy: see our policy', null],
    ['Placements: assignments and the editor', { field: 'placements', value: ['running_text', 'assignment'] }],
    ['Placement: in the sky', null],
  ])('what is no value to copy, beside the field that it might fill: “%s”', (line, mightFill) => {
    const { beyond, recognised } = read(`Key: ${KEY}\nSecret: ${SECRET}\n${line}`)
    expect(beyond).toEqual([expect.objectContaining({ from: expect.stringContaining('line 3') as string, mightFill })])
    expect(recognised.map((one) => one.field)).toEqual(['consumerKey', 'sharedSecret'])
  })
  it('and what a configuration holds for other platforms, none of it taken by itself', () => {
    const property = (name: string, value: string) => `<lticm:property name="${name}">${value}</lticm:property>`
    const xml = CASES['XML with extensions of others']!.given.replace(
      property('x', '1'),
      `${property('identity', 'public')}<lticm:options name="chooser">${property('url', 'https://k.example/pick')}</lticm:options>${property('odd', '7')}`,
    )
    const { beyond, recognised } = read(xml)
    expect(beyond.map(({ name, mightFill }) => [name, mightFill])).toEqual([
      ['identity', { field: 'disclosure', value: 'name_and_email' }],
      ['chooser.url', { field: 'pickerUrl', value: 'https://k.example/pick' }],
      ['odd', null],
    ])
    expect(recognised.map((one) => one.field)).toEqual(['name'])
  })

  it('where to go on reading', () => {
    expect(read('https://knotwork.example/config.xml').follow).toEqual({
      address: 'https://knotwork.example/config.xml',
      as: 'configuration',
    })
    expect(read('https://sextant.example/register').follow).toMatchObject({ as: 'registration' })
    expect(read(LAUNCH).follow).toMatchObject({ as: 'unknown' })
    expect(read(CASES['labels with colons']!.given).follow).toBeNull()
  })

  it('of a page that is no configuration, that it is none', () => {
    expect(readFetched(LAUNCH, '<!doctype html><html><title>Hi</title></html>', NOW)).toMatchObject({
      version: null,
      follow: { as: 'unknown' },
    })
    expect(values(readFetched(LAUNCH, JSON.stringify(METADATA), NOW))['name']).toBe('Sextant Bench')
  })

  it('the variables in custom parameters as they stand', () => {
    expect(read(CASES['custom parameters']!.given).customParameters).toEqual({
      drill: 'bends',
      level: '$Person.name.full',
    })
  })
})

describe('whatever is pasted', () => {
  const piece = fc.oneof(
    fc.constantFrom(
      'Consumer key:',
      'secret',
      '=',
      ':',
      '\n',
      '\t',
      '"',
      '{',
      '}',
      '<',
      '|',
      'https://',
      '\u200b',
      '\u0000',
      'Key: ',
      ' - ',
      '```',
      '•',
    ),
    fc.string({ unit: 'binary', maxLength: 12 }),
  )
  it('is read in one go, never throws, and gives back no value with invisible characters around it', () => {
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 40 }), (pieces) => {
        const handover = read(pieces.join(''))
        for (const { value } of handover.recognised) {
          expect(value).toBe(value.trim())
          expect(value).not.toMatch(/[\u200b\ufeff\u0000]/)
        }
      }),
      { numRuns: 1500 },
    )
  })

  it('a value that stands behind its label comes back letter by letter', () => {
    fc.assert(
      fc.property(fc.stringMatching(/^[A-Za-z0-9][A-Za-z0-9_./+-]{8,40}[A-Za-z0-9]$/), (secret) => {
        expect(values(read(`Consumer key: ${KEY}\nShared secret: ${secret}`))['sharedSecret']).toBe(secret)
      }),
      { numRuns: 500 },
    )
  })

  it('JSON is taken if and only if no object holds a name twice', () => {
    fc.assert(
      fc.property(fc.jsonValue({ maxDepth: 5 }), (value) => {
        expect(readJson(JSON.stringify(value))).toEqual({ value: JSON.parse(JSON.stringify(value)) })
      }),
    )
    expect(readJson('{"a":{"b":1},"c":[{"b":1},{"b":2}]}')).toHaveProperty('value')
    expect(readJson('{"a":1,"\\u0061":2}')).toMatchObject({ code: 'json.duplicate_name' })
    expect(readJson('['.repeat(50) + ']'.repeat(50))).toMatchObject({ code: 'json.too_deep' })
  })
})
