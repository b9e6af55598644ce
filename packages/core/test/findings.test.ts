import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { CHECKS, definitionOf, found } from '../src/checks/findings/catalogue.js'
import {
  evidenceWords,
  factsIn,
  headlineOf,
  headlineWords,
  PREFLIGHT_RULES,
  REMARK,
  wordsOf,
  type Explain,
  type Facts,
  type Found,
} from '../src/checks/index.js'
import { lost, page, refused, SAMPLES, sent, type Sample } from './finding-samples.js'

/** What the house's catalogue of errors says; here it only has to be recognised. */
const explain: Explain = ({ code, detail }) => ({
  statement: detail === null ? `Refused by ${code}.` : `Refused by ${code} (${detail}).`,
  sentence: `Refused by ${code}.`,
  hint: `Mend ${code}.`,
})
const ALL = Object.entries(SAMPLES).flatMap(([check, codes]) =>
  Object.entries<Sample>(codes).map(([code, sample]) => [check, code, sample] as const),
)
const kept = (facts: Facts) => JSON.parse(JSON.stringify(facts)) as Facts
const judged = (check: string, code: string, facts: Facts): Found =>
  found(check as 'comment', code as 'kept', facts as never)

describe('what checks find', () => {
  it('is sampled code by code, and nothing else is', () => {
    const codes = (of: Record<string, object>) => Object.fromEntries(Object.entries(of).map(([check, all]) => [check, Object.keys(all).sort()])) // oxfmt-ignore
    expect(codes(SAMPLES)).toEqual(codes(CHECKS))
    expect(ALL.length).toBeGreaterThan(100)
  })

  it.each(ALL)('%s, %s: is told of its facts, as they are kept', (check, code, [facts, statement, cause, remedy]) => {
    const { verdict } = judged(check, code, facts)
    const words = wordsOf({ check, code, facts: kept(facts) }, explain)
    expect(words.statement).toMatch(statement)
    for (const one of Object.values(words)) expect(one ?? '').not.toMatch(/undefined|\bnull\b|NaN|\[object/)
    if (cause) expect(words.cause).toMatch(cause)
    else expect(words.cause).toBeNull()
    if (remedy) expect(words.remedy).toMatch(remedy)
    else expect(words.remedy).toBeNull()
    // Whoever has to look is told why or what to do.
    if (verdict === 'fail') expect(words.cause ?? words.remedy).not.toBeNull()
    if (verdict === 'pass') expect(words.cause).toBeNull()
  })

  it('cannot be said with other facts than its own', () => {
    // @ts-expect-error The number of keys is missing.
    expect(wordsOf(found('keyset', 'usable', {}), explain).statement).toMatch(/undefined/)
    // @ts-expect-error There is no such code of this check.
    expect(() => found('keyset', 'worn_out', {})).toThrow()
  })

  it('is judged by its facts where they decide', () => {
    expect(found('clock', 'off', { seconds: 301, toleranceSeconds: 300 }).verdict).toBe('fail')
    expect(found('clock', 'off', { seconds: 300, toleranceSeconds: 300 }).verdict).toBe('warn')
    expect(found('cookies', 'lost', { names: ['a'], secure: true }).verdict).toBe('fail')
    expect(found('cookies', 'lost', { names: ['a'], secure: false }).verdict).toBe('warn')
  })

  it('tells one and several, what is absent, and what the login was wrong about', () => {
    const words = (check: string, code: string, facts: Facts) => wordsOf({ check, code, facts }, explain)
    expect(words('set aside', 'entries', { count: 1, who: 'x' }).statement).toMatch(/^One entry of x was.*keeps it,/)
    expect(words('links', 'elsewhere', { count: 1, origin: 'o', home: 'h', tool: 't' }).statement).toMatch(
      /^1 link has an/,
    )
    expect(words('received', 'score', { sent: null, outOf: null, who: 'x' }).statement).toMatch(/a cleared score for x/)
    expect(words('received', 'none', { who: 'x', waited: { seconds: 8 } }).statement).toMatch(/within 8 seconds/)
    expect(words('roster', 'readable', { members: 3, lastReadAt: null }).statement).toMatch(
      /3 people; the tool has not read/,
    )
    expect(words('taken', 'refused', { ...refused, wrong: { check: 'initiation', code: 'hints_changed', facts: {} }, code: null }).remedy).toMatch(/unchanged/) // oxfmt-ignore
    expect(words('taken', 'refused', { ...refused, wrong: null, code: 'outgoing.tls' }).remedy).toBe(
      'Mend outgoing.tls.',
    )
    expect(words('reload', 'lost', { status: 200, page }).statement).toMatch(/login page/)
    expect(words('registration', 'complete', { secretSetOn: null }).statement).toMatch(/everything it needs/)
    expect(words('cookies', 'not_kept', { ...lost, target: 'window' }).remedy).toMatch(/attributes/)
    expect(words('taken', 'address_wrong', { ...refused, status: 404, url: 'u' }).cause).toMatch(
      /nothing at the address/,
    )
  })

  it('of preflight is told by its rule', () => {
    for (const code of ['category_set', 'points_above_zero']) {
      const rule = PREFLIGHT_RULES.find((one) => one.code === code)!
      expect(wordsOf({ check: code, code: REMARK, facts: {} }, explain)).toEqual({ cause: null, ...rule.words({}) })
    }
  })

  it('from before facts were kept is told in the words of then', () => {
    const facts = { statement: 'It stood so.', cause: 'Because.', remedy: null }
    expect(wordsOf({ check: 'taken', code: 'said', facts }, explain)).toEqual(facts)
    expect(headlineWords({ check: 'said', code: 'said', facts: { statement: 'It stood so.' } }, explain)).toBe(
      'It stood so.',
    )
  })

  it('by a version that knows more is told by its names; whatever is kept, telling it never fails', () => {
    expect(wordsOf({ check: 'tide_table', code: 'too_old', facts: {} }, explain).statement).toBe('tide table: too old')
    for (const code of ['constructor', '__proto__', 'toString'])
      expect(definitionOf('taken', code) ?? definitionOf(code, 'taken')).toBeUndefined()
    const name = fc.oneof(
      fc.constantFrom('__proto__', 'constructor', 'toString', 'said', 'remark', 'taken'),
      fc.string(),
    )
    fc.assert(
      fc.property(name, name, (check, code) => {
        fc.pre(definitionOf(check, code) === undefined)
        expect(typeof wordsOf({ check, code, facts: {} }, explain).statement).toBe('string')
      }),
    )
  })
})

describe('what a sounding comes down to', () => {
  const pass = found('comment', 'kept', {})
  const warn = found('published', 'draft', {})
  const fail = found('value', 'other', { value: '8', expected: '9' })
  it('is its worst finding, by the cause where there is one', () => {
    expect(headlineOf([pass])).toBeNull()
    expect(headlineOf([pass, warn])).toEqual({ check: 'published', code: 'draft', facts: {} })
    expect(headlineOf([warn, fail, pass])).toMatchObject({ check: 'value', code: 'other' })
    expect(headlineWords(headlineOf([warn, fail])!, explain)).toBe(
      'The gradebook value is not what was sent times points.',
    )
    expect(headlineWords(headlineOf([warn])!, explain)).toMatch(/is a draft/)
  })

  it('lights marks in words of their own', () => {
    expect(evidenceWords(found('received', 'score', { ...sent, who: 'x' }), explain)).toBe('0.9 of 1 received.')
    expect(evidenceWords(found('received', 'score', { sent: null, outOf: null, who: 'x' }), explain)).toBe('A cleared score of 1 received.') // oxfmt-ignore
    expect(evidenceWords(found('value', 'agrees', { ...sent, points: '10', value: '9' }), explain)).toBe('0.9 of 1 × 10 points = 9 stood in the gradebook.') // oxfmt-ignore
    expect(evidenceWords(found('return', 'complained', { words: 'Class closed' }), explain)).toBe('Class closed')
  })

  it('hands its facts on by check and code', () => {
    const all = [pass, found('roster', 'readable', { members: 24, lastReadAt: null })]
    expect(factsIn(all, 'roster', 'readable')?.members).toBe(24)
    expect(factsIn(all, 'received', 'score')).toBeUndefined()
  })
})
