import { readFetched, readHandover, readJson, type Handover } from '@bathyscribe/core/intake'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { CASES, KEY, LAUNCH, METADATA, NOW, SECRET } from './intake-cases.js'

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
