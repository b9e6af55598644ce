import { describe, expect, it } from 'vitest'
import DiagnosisNote from '../src/parts/DiagnosisNote.vue'
import { open } from './page.js'

describe('a diagnosis', () => {
  const cause = { code: 'x', sentence: 'Blanks were signed.', evidence: [['blanks', 'as “+”']], ours: null, theirs: 'Encode them.' } // oxfmt-ignore
  const note = (change: object) =>
    open(DiagnosisNote, {
      found: { certainty: 'proven', sentence: 'It is so.', causes: [cause], ruledOut: ['one', 'another'], letter: 'Dear vendor', ...change },
    }) // oxfmt-ignore
  it('that is proven says so, what shows it and what mends it, and not what was ruled out', async () => {
    const page = await note({})
    expect(page.text()).toMatch(/Proven by computing.*It is so\..*blanks.*as “\+”.*At the tool’s end: Encode them\./s)
    expect(page.text()).not.toMatch(/ruled out/)
    expect(page.faults).toEqual([])
  })
  it.each([
    ['likely', 'Likely, not proven'],
    ['several', 'More than one cause fits'],
    ['none', 'No known cause fits'],
  ])('that is %s says so, and what was ruled out', async (certainty, head) => {
    const page = await note({ certainty, causes: certainty === 'none' ? [] : [cause] })
    expect(page.text()).toContain(head)
    expect(page.text()).not.toContain('Proven')
    expect(page.text()).toContain('Tried and ruled out: 2')
    expect(page.view.findAll('li').map((one) => one.text())).toEqual(['one', 'another'])
    expect(page.text().includes('A text for the tool’s support')).toBe(certainty !== 'none')
  })
})
