import { createHash, createHmac } from 'node:crypto'
import { concluded, faultsIn, Proof, type Diagnosis, type Found } from '@bathyscribe/core/diagnosis'
import { describe, expect, it } from 'vitest'

describe('a proof', () => {
  const mac = (hash: string) => createHmac(hash, 'key').update('base').digest('base64')
  it.each(['md5', 'sha1', 'sha256', 'sha384', 'sha512'] as const)('is the MAC of a text, by %s', (hash) => {
    expect(Proof.byMac(hash, 'key', 'base', mac(hash))).toBeInstanceOf(Proof)
    expect(Proof.byMac(hash, 'key', 'bass', mac(hash))).toBeUndefined()
    expect(Proof.byMac(hash, 'kez', 'base', mac(hash))).toBeUndefined()
  })
  it('is the hash of a body', () => {
    const body = new TextEncoder().encode('body')
    const of = (hash: string) => createHash(hash).update(body).digest('base64')
    expect(Proof.byBodyHash('sha1', body, of('sha1'))).toBeInstanceOf(Proof)
    expect(Proof.byBodyHash('sha256', body, of('sha256'))).toBeInstanceOf(Proof)
    expect(Proof.byBodyHash('sha1', body, of('sha256'))).toBeUndefined()
  })
  it('is that a moment lies in a window, or outside of it', () => {
    const prove = (sent: number, lies: 'within' | 'outside') => Proof.byOffset(sent, 1000, 5, lies) !== undefined
    expect([995, 1005].map((at) => [prove(at, 'within'), prove(at, 'outside')])).toEqual([[true, false], [true, false]]) // oxfmt-ignore
    expect([994, 1006].map((at) => [prove(at, 'within'), prove(at, 'outside')])).toEqual([[false, true], [false, true]]) // oxfmt-ignore
  })
  it('is that nothing of what came is anything of what it could be', () => {
    expect(Proof.byNoneOf(['a', 'b'], ['c'])).toBeInstanceOf(Proof)
    expect(Proof.byNoneOf(['a', 'c'], ['c', 'd'])).toBeUndefined()
  })
  it('is that a moment is no later than another', () => {
    expect([Proof.byOrder(1, 2), Proof.byOrder(2, 2)].every((one) => one instanceof Proof)).toBe(true)
    expect(Proof.byOrder(3, 2)).toBeUndefined()
  })
  it('is that two texts are the same', () => {
    expect(Proof.byComparing('a', 'a')).toBeInstanceOf(Proof)
    expect(Proof.byComparing('a', 'A')).toBeUndefined()
  })
  it('cannot be had, nor said, otherwise: this would not compile', () => {
    // @ts-expect-error no proof without computing
    const made = () => new Proof()
    // @ts-expect-error nobody writes down that something is proven
    const said: Diagnosis = { certainty: 'proven', sentence: '', causes: [], ruledOut: [] }
    expect([typeof made, said.sentence]).toEqual(['function', ''])
  })
})

const proof = Proof.byComparing('a', 'a')
const found = (code: string, more: Partial<Found> = {}): Found => ({ code, sentence: `It is ${code}.`, evidence: [], ours: null, theirs: null, ...more }) // oxfmt-ignore

describe('what was found', () => {
  it('is proven with a proof, and likely without', () => {
    expect(concluded([found('a', { proof })], ['b'], '')).toEqual({
      certainty: 'proven',
      sentence: 'It is a.',
      causes: [found('a')],
      ruledOut: ['b'],
    })
    expect(concluded([found('a')], [], '').certainty).toBe('likely')
    expect(concluded([], ['b'], 'Nothing fits.')).toMatchObject({ certainty: 'none', sentence: 'Nothing fits.' })
  })
  it('is told without what is only likely, where something is proven', () => {
    expect(concluded([found('a'), found('b', { proof })], [], '')).toMatchObject({
      certainty: 'proven',
      causes: [{ code: 'b' }],
    })
  })
  it('is told with what would tell it apart, where several fit', () => {
    const { certainty, sentence } = concluded([found('a', { proof }), found('b', { proof })], [], '', ['x', 'y', 'x'])
    expect([certainty, sentence]).toEqual([
      'several',
      '2 causes explain it alike, and the message does not tell which it is. Another message tells: one with x, or y.',
    ])
    expect(concluded([found('a'), found('b')], [], '').sentence).toMatch(/which it is\.$/)
  })
  it('as faults beside each other is proven when all are', () => {
    expect(faultsIn([found('a', { proof }), found('b', { proof })], [], '')).toMatchObject({
      certainty: 'proven',
      sentence: '2 things are wrong. First: It is a.',
      causes: [{ code: 'a' }, { code: 'b' }],
    })
    expect(faultsIn([found('a', { proof }), found('b')], [], '').certainty).toBe('likely')
    expect(faultsIn([found('a', { proof })], [], '').sentence).toBe('It is a.')
    expect(faultsIn([], ['b'], 'Nothing.')).toEqual({ certainty: 'none', sentence: 'Nothing.', causes: [], ruledOut: ['b'] }) // oxfmt-ignore
  })
})
