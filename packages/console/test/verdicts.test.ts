import { describe, expect, it } from 'vitest'
import { callsOf, serve } from '../../../test/served.js'
import Causes from '../src/pages/Causes.vue'
import VerdictPanel from '../src/parts/VerdictPanel.vue'
import { open } from './page.js'

const cause = (code: string) => ({ code, sentence: 'So it is.', evidence: [], ours: null, theirs: null })
const found = (certainty: string, ...codes: string[]) => ({ certainty, sentence: 'So.', causes: codes.map(cause), ruledOut: [], doubt: null, letters: { en: '', de: '' } }) // oxfmt-ignore
const said = (change: object = {}) => ({ code: 'other_scheme', verdict: 'right', was: null, byItself: false, by: { id: 'a', fullName: 'Tomas Okaforlind', username: 'tomas' }, at: '2026-11-30T12:00:00Z', ...change }) // oxfmt-ignore
const panel = (of: object, verdicts: object[] = []) => open(VerdictPanel, { entry: '42', found: of, verdicts })
const judged = () => callsOf('judgeDiagnosis').map(({ params, body }) => [params['entry'], body])

describe('whether a diagnosis was right', () => {
  it('is said by one button', async () => {
    const page = await panel(found('proven', 'other_scheme'))
    expect(page.text()).toContain('Was this what was wrong?')
    await page.press('Yes, it was this')
    expect(judged()).toEqual([['42', { verdict: 'right' }]])
    expect(page.faults).toEqual([])
  })

  it('or that it was not, with what it was where that is known', async () => {
    serve({ listCauseCodes: () => ({ items: ['other_host', 'trailing_slash'] }) })
    const page = await panel(found('proven', 'other_scheme'))
    expect(callsOf('listCauseCodes')).toHaveLength(0)
    await page.press('No, it was not')
    await page.press('Say that it was wrong')
    await page.press('No, it was not')
    expect([...page.view.findAll('option')].map((one) => one.text())).toEqual(['not known, or not in this list', 'other host', 'trailing slash']) // oxfmt-ignore
    await page.type('What it was', 'trailing_slash')
    await page.press('Say that it was wrong')
    expect(judged()).toEqual([
      ['42', { verdict: 'wrong' }],
      ['42', { verdict: 'wrong', was: 'trailing_slash' }],
    ])
    expect(page.view.find('form').exists()).toBe(false)
  })

  it('and nothing is said when that is left', async () => {
    const page = await panel(found('proven', 'other_scheme'))
    await page.press('No, it was not')
    await page.press('Cancel')
    expect(judged()).toEqual([])
    expect(page.text()).toContain('Yes, it was this')
  })

  it('of several names the one', async () => {
    const page = await panel(found('several', 'other_scheme', 'other_host+trailing_slash'))
    expect(page.text()).not.toContain('Yes, it was this')
    await page.press('It was: other host and trailing slash')
    expect(judged()).toEqual([['42', { verdict: 'right', cause: 'other_host+trailing_slash' }]])
  })

  it('of none asks what it was, and takes no “not known”', async () => {
    serve({ listCauseCodes: () => ({ items: ['other_host'] }) })
    const page = await panel(found('none'))
    await page.press('Say what it was')
    await page.press('Say so')
    expect(judged()).toEqual([])
    await page.type('What it was', 'other_host')
    await page.press('Say so')
    expect(judged()).toEqual([['42', { verdict: 'wrong', was: 'other_host' }]])
  })

  it('is told with who said it, and can be taken back', async () => {
    const page = await panel(found('proven', 'other_scheme'), [said(), said({ code: 'x', verdict: 'wrong', was: 'other_host', by: null })]) // oxfmt-ignore
    expect(page.text()).toMatch(/● other scheme was said to be right by Tomas Okaforlind, .*✕ x was said to be wrong by somebody who is gone, .*: it was other host\./) // oxfmt-ignore
    expect(page.text()).not.toContain('Was this what was wrong?')
    await page.press('Take back what was said')
    expect(callsOf('takeVerdictBack').map(({ params }) => params['entry'])).toEqual(['42'])
  })

  it('that showed by itself cannot be taken back, but contradicted', async () => {
    const page = await panel(found('proven', 'other_scheme'), [said({ byItself: true, by: null })])
    expect(page.text()).toContain('Shown to be right by itself: the next message of this link passed')
    expect(page.text()).not.toContain('Take back')
    expect(page.text()).toContain('No, it was not')
  })
})

describe('the page of causes', () => {
  const counts = { right: 1, rightByItself: 2, wrong: 0, missed: 0, precision: 1, recall: 1 }
  const one = (change: object) => ({ ...counts, code: 'other_scheme', sentence: 'It is the scheme.', inDoubt: false, wrongSince: 0, lookedAt: null, last: { entry: '7', at: '2026-11-30T12:00:00Z' }, months: [{ month: '2026-11', ...counts }], ...change }) // oxfmt-ignore
  const doubted = one({ code: 'other_host', precision: 0.999, recall: null, inDoubt: true, wrongSince: 2, last: { entry: null, at: '2026-10-30T12:00:00Z' }, months: [{ month: '2026-10', ...counts, wrong: 2 }] }) // oxfmt-ignore
  const months = [{ month: '2026-10', ...counts }, { month: '2026-11', ...counts }] // oxfmt-ignore

  it('rounds nothing up to all, and says nothing of what is not known', async () => {
    serve({ listCauses: () => ({ items: [doubted, one({})], months }) })
    const page = await open(Causes)
    const rows = page.view.findAll('tbody')[0]!.findAll('tr').map((row) => row.findAll('td').slice(1, 7).map((cell) => cell.text())) // oxfmt-ignore
    expect(rows).toEqual([
      ['1', '2', '0', '0', '99 %', '–'],
      ['1', '2', '0', '0', '100 %', '100 %'],
    ])
    expect(page.view.findAll('tbody')[1]!.findAll('tr').map((row) => row.find('td').text())).toEqual(['2026-11', '2026-10']) // oxfmt-ignore
    expect(page.faults).toEqual([])
  })

  it('shows one month', async () => {
    serve({ listCauses: () => ({ items: [doubted, one({})], months }) })
    const page = await open(Causes)
    await page.type('Month', '2026-10')
    const [table] = page.view.findAll('tbody')
    expect(table!.findAll('tr').map((row) => row.find('strong').text())).toEqual(['other host'])
    expect(table!.findAll('td')[3]!.text()).toBe('2')
  })

  it('has a button for a cause in doubt that takes the doubt away', async () => {
    serve({ listCauses: () => ({ items: [doubted, one({})], months }) })
    const page = await open(Causes)
    expect(page.text()).toMatch(/▲ other host was said to be wrong 2 times/)
    await page.press('Looked at: tell it as proven again')
    expect(callsOf('lookAtCause').map(({ params }) => params['code'])).toEqual(['other_host'])
  })

  it('that is empty says how it fills', async () => {
    serve({ listCauses: () => ({ items: [], months: [] }) })
    const page = await open(Causes)
    expect(page.text()).toContain('Nothing was judged yet.')
    expect(page.view.findAll('table')).toHaveLength(0)
  })
})
