import { describe, expect, it } from 'vitest'
import { serve } from '../../../test/served.js'
import WireExplain from '../src/pages/WireExplain.vue'
import DiagnosisNote from '../src/parts/DiagnosisNote.vue'
import { open } from './page.js'

describe('a diagnosis', () => {
  const cause = { code: 'x', sentence: 'Blanks were signed.', evidence: [['blanks', 'as “+”']], ours: null, theirs: 'Encode them.' } // oxfmt-ignore
  const note = (change: object) =>
    open(DiagnosisNote, {
      found: { certainty: 'proven', sentence: 'It is so.', causes: [cause], ruledOut: ['one', 'another'], letters: { en: 'Dear vendor', de: 'Liebes Team' }, ...change },
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
  it('has a letter in either language', async () => {
    const page = await note({})
    expect(page.text()).toContain('Dear vendor')
    await page.press('Deutsch')
    expect(page.text()).toContain('Liebes Team')
    expect(page.text()).not.toContain('Dear vendor')
    expect(page.view.find('.letter').attributes('lang')).toBe('de')
  })
})

describe('what was pasted', () => {
  const one = (change: object) => ({ kind: 'form', what: 'A signed form post.', takenFor: 'a curl command', tool: null, parts: [], entry: null, differences: [], diagnosis: null, ...change }) // oxfmt-ignore
  it('is told message by message, each with what it was taken for, and where it differs', async () => {
    const differences = [{ part: 'address', theirs: 'a', ours: 'b' }]
    serve({
      explainMessage: () => ({
        ...one({ entry: { id: '7', at: '2026-11-30T12:00:00Z', direction: 'received' }, differences }),
        also: [one({ kind: 'base_string', what: 'A base string.', takenFor: 'a base string in a text' })],
      }),
    })
    const page = await open(WireExplain)
    await page.type('The message', 'curl x')
    await page.press('Explain it')
    await page.settle()
    expect(page.text()).toMatch(/Message 1 of 2.*Taken for a curl command\..*came.*differs from what came.*Message 2 of 2.*A base string\./s) // oxfmt-ignore
    expect(page.view.findAll('.note-bad, .note-look').map((note) => note.classes()[0])).toEqual(['note-bad', 'note-look']) // oxfmt-ignore
    expect(page.faults).toEqual([])
  })
  it('from a file is sent without what was answered', async () => {
    const page = await open(WireExplain)
    const field = page.field('Or from a file')
    const har = JSON.stringify({ log: { entries: [{ request: { method: 'POST' }, response: 'private' }] } })
    Object.defineProperty(field, 'files', { value: [new File([har], 'launch.har')] })
    field.dispatchEvent(new Event('change'))
    await page.settle()
    await new Promise((resolve) => setTimeout(resolve, 0))
    await page.settle()
    expect(page.field('The message').value).toContain('POST')
    expect(page.field('The message').value).not.toContain('private')
  })
})
