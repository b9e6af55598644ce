import {
  ERRORS,
  evidenceInWords,
  headlineInWords,
  inWords,
  Refusal,
  refusalFacts,
  sentenceOf,
  type ErrorCode,
} from '@bathyscribe/contract'
import { found } from '@bathyscribe/core/checks'
import { describe, expect, it } from 'vitest'

const keyset = (refusal: { code: string; detail: string | null }) =>
  inWords({ check: 'keyset', code: 'unusable', facts: { refusal } })

describe('a refusal that was found', () => {
  it.each(Object.keys(ERRORS) as ErrorCode[])('%s is told by the catalogue, with its detail', (code) => {
    const facts = refusalFacts(new Refusal(code, 'at the pier'))
    expect(facts).toEqual({ code, detail: 'at the pier' })
    const { statement, remedy } = keyset(facts)
    expect(statement).toBe(sentenceOf({ code, detail: 'at the pier' }))
    expect(remedy).toBe(ERRORS[code].hint)
    expect(keyset(refusalFacts(new Refusal(code))).statement).toBe(ERRORS[code].sentence)
  })

  it('whose code is known no more is told as it is', () => {
    for (const code of ['tide.too_low', '__proto__', 'constructor'])
      expect(keyset({ code, detail: null })).toEqual({ statement: code, cause: code, remedy: null })
  })
})

it('a headline is one sentence, and nothing where nothing is wrong', () => {
  expect(headlineInWords(null)).toBeNull()
  expect(headlineInWords(found('comment', 'lost', {}))).toBe('The comment of the score was lost.')
  expect(evidenceInWords(found('received', 'score', { who: 'x', sent: '1', outOf: '2' }))).toBe('1 of 2 received.')
})
