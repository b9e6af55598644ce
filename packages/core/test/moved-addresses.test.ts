import { movedAddress } from '@bathyscribe/core/links'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'

const OLD = 'https://drills.example'
const NEW = 'https://knots.example/drills'

describe('an address that moves', () => {
  it.each([
    ['https://drills.example/launch', OLD, NEW, 'https://knots.example/drills/launch'],
    ['https://drills.example', OLD, NEW, 'https://knots.example/drills'],
    ['https://drills.example/', OLD, NEW, 'https://knots.example/drills/'],
    ['https://drills.example?a=b', OLD, NEW, 'https://knots.example/drills?a=b'],
    ['https://drills.example/a', `${OLD}/`, `${NEW}/`, 'https://knots.example/drills/a'],
    ['https://drills.example/lti/v2/a?b#c', `${OLD}/lti`, 'https://k.example', 'https://k.example/v2/a?b#c'],
    // What follows is signed at the other end: it stays letter by letter.
    ['https://drills.example/a%7eb/../c?x=%2F&y=a+b', OLD, NEW, 'https://knots.example/drills/a%7eb/../c?x=%2F&y=a+b'],
    ['HTTPS://Drills.Example:443/launch', OLD, NEW, 'https://knots.example/drills/launch'],
    ['http://localhost:9101/launch', 'http://localhost:9101', 'http://localhost:9201', 'http://localhost:9201/launch'],
  ])('%s from %s to %s is %s', (address, from, to, after) => {
    expect(movedAddress(address, { from, to })).toBe(after)
  })

  it.each([
    ['https://drills.example.org/launch', OLD],
    ['https://my.drills.example/launch', OLD],
    ['http://drills.example/launch', OLD],
    ['https://drills.example:8443/launch', OLD],
    ['https://drills.example/ltix/launch', `${OLD}/lti`],
    ['https://drills.example/LTI/launch', `${OLD}/lti`],
    ['https://drills.example/other', `${OLD}/lti`],
    ['not an address', OLD],
    ['', OLD],
    ['https://drills.example/launch', 'drills'],
  ])('%s does not lie below %s', (address, from) => {
    expect(movedAddress(address, { from, to: NEW })).toBeUndefined()
  })

  it('comes back by the way back, whatever follows', () => {
    const tail = fc.array(fc.stringMatching(/^[a-z0-9%?&=.~_-]{0,8}$/), { maxLength: 5 }).map((all) => all.join('/'))
    fc.assert(
      fc.property(tail, fc.constantFrom('', '/lti', '/a/b'), fc.constantFrom('', '/x', '/y/z'), (rest, one, other) => {
        const [from, to] = [`https://old.example${one}`, `https://new.example${other}`]
        const address = `${from}/${rest}`
        const moved = movedAddress(address, { from, to })!
        expect(moved).toBe(`${to}/${rest}`)
        expect(movedAddress(moved, { from: to, to: from })).toBe(address)
      }),
    )
  })
})
