import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { inText } from '../src/http/api/views/moments.js'

const at = new Date('2026-11-23T12:00:00.000Z')

describe('an answer of the API', () => {
  it('carries each moment as text, however deep it lies, and all else as it was', () => {
    const found = { at, none: null, n: 0, in: [{ at, list: [at, null] }], text: '2026-11-23', gone: undefined }
    expect(inText(found)).toEqual({
      at: at.toISOString(),
      none: null,
      n: 0,
      in: [{ at: at.toISOString(), list: [at.toISOString(), null] }],
      text: '2026-11-23',
      gone: undefined,
    })
  })

  it('leaves what it was made of untouched', () => {
    const found = Object.freeze({ in: Object.freeze([Object.freeze({ at })]) })
    inText(found)
    expect(found.in[0]!.at).toBe(at)
  })

  it('says the same as JSON would of whatever the records hold, names that every object has included', () => {
    const value = fc.jsonValue().map((json) => ({ json, ['__proto__' as string]: 1, at }))
    fc.assert(
      fc.property(value, (one) => {
        expect(JSON.stringify(inText(one))).toBe(JSON.stringify(one))
      }),
    )
  })
})
