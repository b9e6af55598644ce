import { compareLink, needsSomebody, sweepCsv, sweepJunit, type ReportLine } from '@bathyscribe/core/sweeps'
import { VERDICTS } from '@bathyscribe/core/checks'
import { XMLParser, XMLValidator } from 'fast-xml-parser'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'

describe('a link beside the sweep before', () => {
  it.each([
    ['fail', 100, undefined, 'first'],
    ['fail', 100, { verdict: 'pass', tookMs: 100 }, 'newly_broken'],
    ['fail', 100, { verdict: 'fail', tookMs: 100 }, 'still_broken'],
    ['pass', 100, { verdict: 'fail', tookMs: 100 }, 'fixed'],
    ['skipped', 100, { verdict: 'fail', tookMs: 100 }, 'same'],
    ['skipped', 100, { verdict: 'pass', tookMs: 100 }, 'same'],
    ['pass', 3300, { verdict: 'pass', tookMs: 1500 }, 'slower'],
    ['pass', 900, { verdict: 'pass', tookMs: 100 }, 'same'],
    ['warn', 100, { verdict: 'pass', tookMs: 100 }, 'same'],
  ] as const)('%s after %o', (verdict, tookMs, before, change) => {
    expect(compareLink({ verdict, tookMs }, before)).toBe(change)
  })

  it('is broken in exactly the sweeps in which it failed', () => {
    const outcome = fc.record({ verdict: fc.constantFrom(...VERDICTS), tookMs: fc.nat(60_000) })
    fc.assert(
      fc.property(outcome, outcome, (now, before) => {
        expect(['newly_broken', 'still_broken'].includes(compareLink(now, before))).toBe(now.verdict === 'fail')
      }),
    )
  })

  it('makes somebody look when it is newly broken, or broken from the start', () => {
    expect(needsSomebody('newly_broken', 'fail')).toBe(true)
    expect(needsSomebody('first', 'fail')).toBe(true)
    expect(needsSomebody('still_broken', 'fail')).toBe(false)
  })
})

describe('a report', () => {
  const line = fc.record({
    course: fc.string({ unit: 'binary' }),
    assignment: fc.string({ unit: 'binary' }),
    tool: fc.string({ unit: 'binary' }),
    state: fc.constantFrom('waiting', 'running', 'done', 'left_out'),
    verdict: fc.option(fc.constantFrom(...VERDICTS)),
    change: fc.constant(null),
    cause: fc.option(fc.string({ unit: 'binary' })),
    tookMs: fc.option(fc.nat(100_000)),
    soundingAt: fc.constant(null),
  }) as fc.Arbitrary<ReportLine>

  it('in XML is well-formed whatever a tool or a person wrote, and counts add up', () => {
    fc.assert(
      fc.property(fc.array(line, { maxLength: 12 }), fc.string({ unit: 'binary' }), (lines, title) => {
        const xml = sweepJunit(lines, { title, at: '2026-09-01T00:00:00Z' })
        expect(XMLValidator.validate(xml)).toBe(true)
        const { testsuites } = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: '' }).parse(xml) as {
          testsuites: Record<string, string>
        }
        expect(Number(testsuites['tests'])).toBe(lines.length)
        expect(Number(testsuites['failures'])).toBe(lines.filter((one) => one.verdict === 'fail').length)
      }),
    )
  })

  it('in CSV has one row for each link', () => {
    const one: ReportLine = {
      course: 'HYD 210',
      assignment: 'A "quoted", one',
      tool: 'T',
      state: 'done',
      verdict: 'fail',
      change: 'newly_broken',
      cause: 'Because',
      tookMs: 1234,
      soundingAt: null,
    }
    expect(sweepCsv([one]).split('\r\n')).toEqual([
      'course,assignment,tool,state,verdict,change,cause,seconds,sounding',
      'HYD 210,"A ""quoted"", one",T,done,fail,newly_broken,Because,1.234,',
      '',
    ])
  })
})
