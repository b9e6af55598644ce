import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  bodyHash,
  decodeForm,
  formatAuthorizationHeader,
  parseAuthorizationHeader,
  percentEncode,
  SIGNATURE_METHODS,
} from '@bathyscribe/core/oauth1'
import { hmacBase64, sameDigest, shortMac } from '../src/oauth1/digest.js'

describe('hashes', () => {
  it('are cut to 132 bits where they are short (RFC 4231 section 4.3)', () => {
    expect(shortMac(new TextEncoder().encode('Jefe'), 'what do ya want for nothing?')).toBe('W9zBRr9gdU5qBCQmCJV1x1')
  })
  it('are the same only when every character is', () => {
    expect(sameDigest('', '')).toBe(true)
    expect(sameDigest('abc', 'abc')).toBe(true)
    for (const other of ['abd', 'xbc', 'axc', 'ab', 'abcd', '']) expect(sameDigest('abc', other), other).toBe(false)
  })
  it('are the same by the runtime and by the portable ones that a browser uses', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...SIGNATURE_METHODS),
        fc.string({ unit: 'grapheme' }),
        fc.string({ unit: 'grapheme' }),
        (method, key, text) => {
          const bytes = new TextEncoder().encode(text)
          expect(hmacBase64(method, key, text, null)).toBe(hmacBase64(method, key, text))
          expect(bodyHash(method, bytes, null)).toBe(bodyHash(method, bytes))
          expect(shortMac(bytes, key, null)).toBe(shortMac(bytes, key))
        },
      ),
    )
  })
})

describe('encoding', () => {
  it('leaves only the unreserved characters as they are', () => {
    expect(percentEncode("Az09-._~ +!'()*&=é日\u{1F9ED}")).toBe(
      'Az09-._~%20%2B%21%27%28%29%2A%26%3D%C3%A9%E6%97%A5%F0%9F%A7%AD',
    )
    expect(percentEncode('\ud800')).toBe('%EF%BF%BD')
    for (let code = 0; code < 128; code++) {
      const [character, escaped] = [String.fromCharCode(code), `%${code.toString(16).toUpperCase().padStart(2, '0')}`]
      const encoded = /[A-Za-z0-9._~-]/.test(character) ? character : escaped
      expect(percentEncode(character)).toBe(encoded)
      expect(percentEncode(`a${character}`)).toBe(`a${encoded}`)
    }
  })

  it.each([
    ['', []],
    ['&', []],
    ['a', [['a', '']]],
    ['&&a=1&&b=2&', [['a', '1'], ['b', '2']]],
    ['a=b=c', [['a', 'b=c']]],
    ['a+b=c+d', [['a b', 'c d']]],
    ['a=1&a=1', [['a', '1'], ['a', '1']]],
  ])('reads the form %j', (text, pairs) => expect(decodeForm(text)).toEqual(pairs)) // oxfmt-ignore

  it('keeps a broken escape as it was sent', () => {
    expect(decodeForm('a=%zz&b&=c&d=1+2%20%2B')).toEqual([
      ['a', '%zz'],
      ['b', ''],
      ['', 'c'],
      ['d', '1 2 +'],
    ])
  })

  it('reads back any Authorization header that it wrote, without realm', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.string({ minLength: 1 }), fc.string({ unit: 'grapheme' }))), (pairs) => {
        const kept = pairs.filter(([name]) => name.toLowerCase() !== 'realm')
        if (pairs.length > 0) expect(parseAuthorizationHeader(formatAuthorizationHeader(pairs))).toEqual(kept)
      }),
    )
  })

  it.each(['realm', 'REALM', 'Realm'])('leaves %s out of the signature', (name) => {
    expect(parseAuthorizationHeader(`OAuth ${name}="us", a="b"`)).toEqual([['a', 'b']])
  })

  it.each(['OAuth a="1",b="2"', 'oauth   a="1" , b="2" ', 'OAUTH\ta = "1",\t b  =  "2"'])(
    'reads the header %j, however it is spaced',
    (header) => {
      expect(parseAuthorizationHeader(header)).toEqual([
        ['a', '1'],
        ['b', '2'],
      ])
    },
  )

  it.each([
    'Bearer x',
    'OAuth',
    'OAuth a=b',
    'OAuth a="%zz"',
    'OAuth a="b" c="d"',
    'x OAuth a="b"',
    'OAutha="b"',
    'OAuth a="b",',
    'OAuth ,a="b"',
    'OAuth ="b"',
    'OAuth a"b"',
    'OAuth x a="b"',
    'OAuth a="b"x',
    'OAuth a x="b"',
    'OAuth a=x"b"',
    'OAuth a=""b"',
    'OAuth %zz="b"',
    'xxxxxxa="OAuth "',
  ])('refuses the header %s', (header) => {
    expect(parseAuthorizationHeader(header)).toBeUndefined()
  })

  it('never fails on any header text', () => {
    fc.assert(fc.property(fc.string({ unit: 'binary' }), (text) => void parseAuthorizationHeader(`OAuth ${text}`)))
  })
})
