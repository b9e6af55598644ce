import { createHash, createHmac } from 'node:crypto'
import {
  diagnoseBodyHash,
  diagnoseClock,
  diagnoseSignature,
  MISTAKES,
  type SignatureFacts,
} from '@bathyscribe/core/diagnosis'
import { signatureBy, type Sent } from '@bathyscribe/yard/faulty/signer'
import fc from 'fast-check'
import OAuth from 'oauth-1.0a'
import { describe, expect, it } from 'vitest'
import { headOf, macKey, parametersOf, rightSigning } from '../src/diagnosis/signature/signing.js'

const KEY = 'skerrow-knots'
const SECRET = 'halyard-3-bowline'
const URL_ = 'https://lti.skerrow.example/Lti/out%2Fcomes?unit=3'
type Pairs = [string, string][]
const FORM: Pairs = [
  ['resource_link_title', 'Sheet bend & bowline'],
  ['lis_person_name_full', 'Åsa Ærlig'],
  ['context_label', ''],
]
const OAUTH: Pairs = [
  ['oauth_consumer_key', KEY],
  ['oauth_nonce', 'n1'],
  ['oauth_signature_method', 'HMAC-SHA1'],
  ['oauth_timestamp', '1700000000'],
  ['oauth_version', '1.0'],
]

/** The other end’s way of signing, by a library of its own: base string and key are handed to us to spoil. */
function sign(change: {
  url?: string
  form?: Pairs
  secret?: string
  key?: (secret: string) => string
  spoil?: (base: string) => string
  hash?: 'sha1' | 'sha256'
}): string {
  const { url = URL_, form = FORM, secret = SECRET, hash = 'sha1' } = change
  const signer = new OAuth({
    consumer: { key: KEY, secret },
    signature_method: 'HMAC-SHA1',
    hash_function: (base, key) =>
      createHmac(hash, change.key?.(secret) ?? key)
        .update(change.spoil?.(base) ?? base)
        .digest('base64'),
  })
  const data = Object.fromEntries(form)
  return signer.getSignature({ url, method: 'POST', data }, undefined, Object.fromEntries(OAUTH) as never)
}
function facts(signature: string, change: Partial<SignatureFacts> = {}): SignatureFacts {
  return {
    request: { method: 'POST', url: URL_, parameters: [...FORM, ...OAUTH] },
    signature,
    signatureMethod: 'HMAC-SHA1',
    held: { label: 'Knotwork Drills', consumerKey: KEY, sharedSecret: SECRET },
    previous: ['halyard-2'],
    others: [{ label: 'Plotting Table', consumerKey: 'plot', sharedSecret: 'parallel-rules' }],
    hosts: ['127.0.0.1:8080'],
    ...change,
  }
}
const held = (sharedSecret: string) => ({ held: { label: 'Knotwork Drills', consumerKey: KEY, sharedSecret } })
const without = (base: string, part: string) => base.replace(encodeURIComponent(encodeURIComponent(part)), '')

describe('a refused signature', () => {
  const table: [string, string, string, Partial<SignatureFacts>?][] = [
    ['secret_has_blanks', 'the tool’s end has a blank behind it', sign({ secret: `${SECRET} ` })],
    ['secret_has_blanks', 'ours has a line end behind it', sign({}), held(`${SECRET}\n`)],
    ['key_and_secret_swapped', 'at the tool’s end', sign({ secret: KEY })],
    ['secret_of_another_registration', 'by its name', sign({ secret: 'parallel-rules' })],
    ['previous_secret', 'from before the change', sign({ secret: 'halyard-2' })],
    [
      'secret_not_encoded',
      'with a + in it',
      sign({ secret: 'rope+chain', key: (one) => `${one}&` }),
      held('rope+chain'),
    ],
    ['ampersand_left_out', 'of the key', sign({ key: (one) => one })],
    ['other_scheme', 'behind a proxy', sign({ url: URL_.replace('https', 'http') })],
    ['other_host', 'behind a proxy', sign({ url: URL_.replace('lti.skerrow.example', '127.0.0.1:8080') })],
    [
      'other_host',
      'with its port written out',
      sign({ spoil: (base) => base.replace('lti.skerrow.example', 'lti.skerrow.example%3A443') }),
    ],
    ['trailing_slash', 'that was not called', sign({ url: URL_.replace('comes', 'comes/') })],
    ['query_left_out', 'of the signature', sign({ url: URL_.replace('?unit=3', '') })],
    [
      'query_in_address',
      'standing in the address, too',
      sign({ spoil: (base) => base.replace('comes&', 'comes%3Funit%3D3&') }),
    ],
    ['path_decoded', 'before signing', sign({ url: URL_.replace('%2F', '/') })],
    ['path_decoded', 'into small letters', sign({ url: URL_.replace('/Lti', '/lti') })],
    ['plus_for_blank', 'as forms have it', sign({ spoil: (base) => base.replaceAll('%2520', '%2B') })],
    ['double_encoding', 'of values', sign({ form: FORM.map(([name, value]) => [name, encodeURIComponent(value)]) })],
    [
      'double_encoding',
      'forgotten for the whole',
      sign({
        spoil: (base) =>
          base
            .split('&')
            .map((one, i) => (i === 2 ? decodeURIComponent(one) : one))
            .join('&'),
      }),
    ],
    [
      'other_charset',
      'Latin-1',
      sign({ spoil: (base) => base.replaceAll('%25C3%2585', '%25C5').replaceAll('%25C3%2586', '%25C6') }),
    ],
    ['empty_left_out', 'of the signature', sign({ form: FORM.slice(0, 2) })],
    ['other_digest', 'than named', sign({ hash: 'sha256' })],
    ['changed_after_signing', 'by one parameter', sign({ form: FORM.slice(1) })],
  ]
  it.each(table)('%s: %s', (code, _how, signature, change) => {
    const found = diagnoseSignature(facts(signature, change))
    expect(found.causes.map((one) => one.code)).toEqual([code])
    expect(found).toMatchObject({ certainty: 'proven', sentence: found.causes[0]!.sentence })
    expect(found.causes[0]!.evidence.length).toBeGreaterThan(0)
    expect(found.causes[0]!.ours ?? found.causes[0]!.theirs).toBeTruthy()
    expect(without(JSON.stringify(found), '')).not.toContain(change?.held?.sharedSecret ?? SECRET)
  })

  it('says at which end the blanks are', () => {
    expect(diagnoseSignature(facts(sign({ secret: `${SECRET} ` }))).causes[0]).toMatchObject({ ours: null })
    expect(diagnoseSignature(facts(sign({}), held(`${SECRET}\n`))).causes[0]).toMatchObject({ theirs: null })
  })

  it('two mistakes at once are found together', () => {
    const found = diagnoseSignature(facts(sign({ secret: 'halyard-2', url: URL_.replace('https', 'http') })))
    expect(found).toMatchObject({ certainty: 'proven', causes: [{ code: 'previous_secret+other_scheme' }] })
  })

  it('where two causes fit, it names both and says that it cannot tell', () => {
    const found = diagnoseSignature(
      facts(sign({ secret: 'halyard-2' }), {
        others: [{ label: 'Twin', consumerKey: 't', sharedSecret: 'halyard-2' }],
      }),
    )
    expect(found.certainty).toBe('several')
    expect(found.causes.map((one) => one.code)).toEqual(['previous_secret', 'secret_of_another_registration'])
    expect(found.sentence).toMatch(/2 causes/)
  })

  it.each([`${SECRET}&`, encodeURIComponent(`${SECRET}&`), SECRET])(
    'that is the secret in plain says so, without it: %#',
    (plain) => {
      const found = diagnoseSignature(facts(plain))
      expect(found).toMatchObject({ certainty: 'proven', causes: [{ code: 'signed_in_plain' }] })
      expect(JSON.stringify(found)).not.toContain(SECRET)
    },
  )

  it.each(['', 'x', 'A'.repeat(25), '='.repeat(28), 'é'.repeat(28), 'A'.repeat(5000)])(
    'that is none in any form is told as that: %j',
    (none) => {
      const found = diagnoseSignature(facts(none))
      expect(found).toMatchObject({ certainty: 'none', causes: [], ruledOut: [] })
      expect(found.sentence).toContain(`has ${none.length} characters`)
    },
  )

  it('where none fits nothing is guessed, and what was tried is said', () => {
    const found = diagnoseSignature(facts(sign({ secret: 'nobody-knows-it' })))
    expect(found).toMatchObject({ certainty: 'none', causes: [] })
    expect(found.ruledOut).toContain('key and secret swapped')
  })

  it('no noise is ever taken for a cause, whatever was sent', () => {
    fc.assert(
      fc.property(
        fc.base64String({ minLength: 28, maxLength: 28 }),
        fc.array(fc.tuple(fc.string(), fc.string()), { maxLength: 12 }),
        fc.webUrl(),
        (signature, parameters, url) => {
          expect(diagnoseSignature(facts(signature, { request: { method: 'POST', url, parameters } })).certainty).toBe(
            'none',
          )
        },
      ),
      { numRuns: 60 },
    )
  })

  const text = fc.string({ unit: fc.constantFrom(...'aB7 ~!*\'()+&=%/é\u0301ß\u00a0\n<"'), maxLength: 12 })
  const message = fc.record({
    parameters: fc.array(fc.tuple(fc.constantFrom('title', 'custom_a', 'custom_B', 'ext_x', 'note', ''), text), { maxLength: 8 }), // oxfmt-ignore
    url: fc.constantFrom(
      URL_,
      'http://a.example',
      'https://a.example:8443/x/y/?a=b+c&d=&e=%7E',
      'https://a.example/p%20q#r',
    ),
    sharedSecret: fc.constantFrom(SECRET, 'Öse&Tau 44 "rope"', 'aa', 'x-y_z.0=='),
  })
  const of = ({ parameters, url, sharedSecret }: { parameters: Pairs; url: string; sharedSecret: string }) =>
    facts('', { request: { method: 'POST', url, parameters: [...parameters, ...OAUTH] }, ...held(sharedSecret) })

  it('is explained by whatever mistake it was made by, in every way of it', () => {
    fc.assert(
      fc.property(message, fc.nat(), fc.nat(), (given, m, w) => {
        const known = of(given)
        const right = rightSigning(known)
        const mistake = MISTAKES[m % MISTAKES.length]!
        const ways = mistake.ways(known, right)
        const way = ways[w % Math.max(1, ways.length)]
        if (!way) return
        const signing = { ...right, ...way.change(right) }
        const base = headOf(signing) + parametersOf(signing)
        const signature = createHmac('sha1', macKey(signing)).update(base).digest('base64')
        const found = diagnoseSignature({ ...known, signature })
        const isRight = found.sentence.startsWith('The signature is right')
        if (base === headOf(right) + parametersOf(right) && macKey(signing) === macKey(right))
          expect(isRight).toBe(true)
        else {
          expect(found.causes.length).toBeGreaterThan(0)
          // What gives way is told by the mistake before it that comes to the same.
          if (!mistake.givesWay) expect(found.causes.map(({ code }) => code)).toContain(mistake.code)
        }
      }),
      { numRuns: 150 },
    )
  })

  it('that is right is never explained, however odd the message', () => {
    fc.assert(
      fc.property(message, (given) => {
        const known = of(given)
        const { url, parameters, method } = known.request
        const sent: Sent = { method, url, fields: parameters, consumerKey: KEY, sharedSecret: given.sharedSecret, hash: 'sha1' } // oxfmt-ignore
        const found = diagnoseSignature({ ...known, signature: signatureBy(sent) })
        expect(found.sentence).toMatch(/^The signature is right/)
        expect(found.certainty).toBe('none')
      }),
      { numRuns: 100 },
    )
  })

  it('a hostile message with thousands of parameters ends soon', () => {
    const parameters: Pairs = Array.from({ length: 3000 }, (_, i) => [`p${i}`, 'x'.repeat(20)])
    expect(diagnoseSignature(facts('AAAA', { request: { method: 'POST', url: URL_, parameters } })).certainty).toBe(
      'none',
    )
  })
})

describe('a body whose hash does not match', () => {
  const body = '<?xml version="1.0" encoding="UTF-8"?>\n<envelope>\n  <score></score>\n</envelope>\n'
  const sent = (text: string, hash = 'sha1') => createHash(hash).update(text).digest('base64')
  const asked = (hash: string) =>
    diagnoseBodyHash({ body: new TextEncoder().encode(body), sent: hash, signatureMethod: 'HMAC-SHA1', sharedSecret: SECRET }) // oxfmt-ignore
  it.each([
    ['body_hash_form', createHash('sha1').update(body).digest('hex')],
    ['body_hash_form', sent(body).replace(/=+$/, '')],
    ['body_hash_other_digest', sent(body, 'sha256')],
    ['body_hash_other_digest', sent(body, 'md5')],
    ['body_hash_other_digest', sent(body, 'sha512')],
    ['body_line_ends+body_hash_other_digest', sent(body.trim(), 'md5')],
    ['body_hash_keyed', createHmac('sha1', `${SECRET}&`).update(body).digest('base64')],
    ['body_hash_keyed', createHmac('sha256', SECRET).update(body).digest('base64')],
    ['body_line_ends', sent(body.replaceAll('\n', '\r\n'))],
    ['body_line_ends', sent(body.trim())],
    ['body_reserialised', sent(body.replace(/^.*\n/, ''))],
    ['body_reserialised', sent(body.replace('<score></score>', '<score/>'))],
    ['body_empty', sent('')],
  ])('%s', (code, hash) => {
    expect(asked(hash)).toMatchObject({ certainty: 'proven', causes: [{ code }] })
  })
  it('though it does, is not explained', () => {
    const found = asked(sent(body))
    expect(found).toMatchObject({ certainty: 'none', causes: [] })
    expect(found.sentence).toMatch(/^The hash is that of the body/)
  })
  it('of something else is not guessed at', () => {
    expect(asked(sent('another'))).toMatchObject({ certainty: 'none', causes: [] })
  })
})

describe('a timestamp out of its window', () => {
  const nowSeconds = 1_790_000_000
  it.each([
    [nowSeconds * 1000, 'milliseconds'],
    [nowSeconds + 7200 + 3, 'clock_off'],
    [nowSeconds - 5.5 * 3600, 'clock_off'],
    [nowSeconds - 4000, 'clock_off'],
    [0, 'clock_off'],
  ])('%d is %s', (given, code) => {
    const found = diagnoseClock({ sent: given, nowSeconds, windowSeconds: 300 })
    expect(found).toMatchObject({ certainty: 'proven', causes: [{ code }] })
    expect(found.causes[0]!.evidence.map(([name]) => name).slice(0, 3)).toEqual(['sent', 'our clock', 'allowed'])
  })
  const by = (off: number, others: readonly number[]) =>
    diagnoseClock({ sent: nowSeconds + off, nowSeconds, windowSeconds: 300, others })
  const hint = (off: number, others = [off + 2, off, off - 1]) =>
    by(off, others).causes[0]!.evidence.find(([name]) => name === 'may be')?.[1]
  it.each([
    [7200 + 3, '2 hours ahead, if local time was taken for UTC'],
    [3600 - 60, '1 hour ahead, if local time was taken for UTC'],
    [-5.75 * 3600, '5.75 hours behind, if local time was taken for UTC'],
    [3600 - 61, undefined],
    [1800, undefined],
    [-2700, undefined],
    [2 * 3600 + 1000, undefined],
    [14.25 * 3600, undefined],
  ])('of %d seconds: that it may be a time zone is a hint near its quarters only: %s', (off, words) => {
    expect(hint(off)).toBe(words)
  })
  it('is a time zone’s only where other messages are off by as much', () => {
    for (const others of [[], [7200], [7200, 7200], [7200, 7200, 7200, 0, 0], [0, 0, 0]])
      expect(hint(7200, others), String(others)).toBeUndefined()
    expect(hint(7200, [7200, 7259, 7141, 7200, 12])).toMatch(/2 hours ahead/)
  })
  it.each([
    [-4000, [1, -3, 200], 'held_back', 'likely', /most likely this one waited/],
    [4000, [1, -3, 200], 'clock_of_one_off', 'likely', /one of its servers/],
    [-4000, [-4001, -3990, -4030], 'clock_off', 'proven', /the clock that made it is off\.$/],
    [-4000, [-4001, -3990], 'clock_off', 'proven', /or the message was held back that long\.$/],
    [-4000, [0, 0, -4000], 'clock_off', 'proven', /or the message was held back/],
    [-4000, [0, 0, 0, 0, -900], 'held_back', 'likely', /waited/],
  ] as const)('of %d seconds beside %j is %s', (off, others, code, certainty, said) => {
    const found = by(off, others)
    expect(found).toMatchObject({ certainty, causes: [{ code }] })
    expect(found.sentence).toMatch(said)
  })
  it('is a delay as well as a clock where it lies behind, and none where it lies ahead', () => {
    const told = (off: number) =>
      diagnoseClock({ sent: nowSeconds + off, nowSeconds, windowSeconds: 300 }).causes[0]!.sentence
    expect(told(-400)).toMatch(/400 seconds behind our clock.*held back/)
    expect(told(400)).not.toMatch(/held back/)
  })
  it('that is none is told to be likely at most', () => {
    expect(diagnoseClock({ sent: nowSeconds, nowSeconds, windowSeconds: 300 }).certainty).toBe('likely')
  })
})
