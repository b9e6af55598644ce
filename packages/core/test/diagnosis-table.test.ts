import { diagnoseBaseString, diagnoseSignature, type Diagnosis } from '@bathyscribe/core/diagnosis'
import { bothOf, FAULTS, LIKELY_PAIRS, type Fault } from '@bathyscribe/yard/faulty/faults'
import { factsOf, MESSAGES } from '@bathyscribe/yard/faulty/messages'
import { baseOf, signatureBy, type Sent } from '@bathyscribe/yard/faulty/signer'
import { beforeAll, describe, expect, it } from 'vitest'

// Faults of a signer that was written apart from the core, of which it is known what each is.

function faultOf(what: string): Fault {
  const found = FAULTS.find((one) => one.what === what)
  if (!found) throw new Error(`There is no fault “${what}”.`)
  return found
}
interface Case {
  fault: Fault
  sent: Sent
  found: Diagnosis
}
/** Each fault with each message that it makes a difference to. */
function casesOf(faults: readonly Fault[]): Case[] {
  return faults.flatMap((fault) =>
    MESSAGES.flatMap((sent) => {
      const right = signatureBy(sent)
      return fault.each.some(({ doing }) => signatureBy(sent, doing) === right)
        ? []
        : [{ fault, sent, found: diagnoseSignature(factsOf(sent, signatureBy(sent, fault.doing))) }]
    }),
  )
}
const codesOf = (found: Diagnosis) => found.causes.flatMap(({ code }) => code.split('+'))
const wanted = ({ code }: Fault) => [code].flat()
const told = ({ fault, sent, found }: Case) =>
  `${fault.what} (${sent.url.slice(8, 40)}): ${found.certainty} ${found.causes.map(({ code }) => code).join(' | ')}`

describe('faults of another end', () => {
  let single: Case[]
  let pairs: Case[]
  beforeAll(() => {
    single = casesOf(FAULTS)
    pairs = casesOf(LIKELY_PAIRS.flatMap(([a, b]) => bothOf(faultOf(a), faultOf(b)) ?? []))
  })
  const isNamed = ({ fault, found }: Case) => codesOf(found).some((code) => wanted(fault).includes(code))

  it('are enough', () => {
    expect(single.length + pairs.length).toBeGreaterThan(600)
    expect(new Set(single.map(({ fault }) => fault))).toEqual(new Set(FAULTS))
  })
  it('are named, each', () => {
    expect(single.filter((one) => !isNamed(one)).map(told)).toEqual([])
  })
  it('are told with certainty where one thing explains them, and both with what would tell them apart otherwise', () => {
    for (const { found } of single) {
      expect(found.certainty).toBe(found.causes.length === 1 ? 'proven' : 'several')
      expect(found.causes.length).toBeLessThan(4)
    }
  })
  it('are named where two were made at once', () => {
    const missed = pairs.filter(({ fault, found }) => {
      const codes = codesOf(found)
      return !fault.each.every((one) => codes.some((code) => wanted(one).includes(code)))
    })
    expect(missed.map(told)).toEqual([])
  })
  it('never show a secret', () => {
    for (const { sent, found } of [...single, ...pairs]) {
      const text = JSON.stringify(found)
      for (const secret of [sent.sharedSecret, 'capstan-before-2025', 'parallel-rules-77'])
        expect(text).not.toContain(JSON.stringify(secret).slice(1, -1))
    }
  })

  const ofBase = FAULTS.filter(({ doing }) => !doing.secret && !doing.key && !doing.hash && !doing.write)
  it('are named by the base string alone', () => {
    const missed = ofBase.flatMap((fault) =>
      MESSAGES.flatMap((sent) => {
        const theirs = baseOf(sent, fault.doing)
        if (theirs === baseOf(sent)) return []
        const found = diagnoseBaseString({ ...factsOf(sent, ''), theirs })
        return isNamed({ fault, sent, found }) ? [] : [told({ fault, sent, found })]
      }),
    )
    expect(missed).toEqual([])
  })
})

describe('a message without a fault', () => {
  it.each(MESSAGES.map((sent, n) => [n, sent] as const))('is told to be right: %d', (_, sent) => {
    expect(diagnoseSignature(factsOf(sent, signatureBy(sent)))).toMatchObject({
      certainty: 'none',
      sentence: expect.stringMatching(/^The signature is right/) as string,
      causes: [],
    })
    expect(diagnoseBaseString({ ...factsOf(sent, ''), theirs: baseOf(sent) })).toMatchObject({
      certainty: 'none',
      causes: [],
    })
  })
})

describe('a message of a fault that is none of these', () => {
  it('is explained by nothing, and nobody is sent to the secret', () => {
    for (const sent of MESSAGES) {
      const found = diagnoseSignature(factsOf(sent, signatureBy(sent, { secret: () => 'nobody knows this one' })))
      expect(found).toMatchObject({ certainty: 'none', causes: [] })
      expect(found.sentence).not.toMatch(/secret/)
    }
  })
})
