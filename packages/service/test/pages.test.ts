import { Window } from 'happy-dom'
import { describe, expect, it } from 'vitest'
import { formPage, html } from '../src/http/pages.js'

const NASTY = `"><script>alert('x')</script>&amp;`

describe('a form that posts itself', () => {
  const form = (fields: [string, string][]) => formPage({ url: 'https://tool.example/launch?a=1&b=2', fields, doing: 'Opening' }) // oxfmt-ignore

  it('holds every value as it was, whatever is in it', () => {
    const fields: [string, string][] = [['plain', 'Learner'], ['nasty', NASTY], [NASTY, 'named so'], ['lines', 'one\r\ntwo'], ['beyond', 'Þóra – 船']] // oxfmt-ignore
    const { document } = new Window()
    document.write(form(fields).text)
    const inputs = [...document.querySelectorAll('input')]
    expect(inputs.map((one) => [one.getAttribute('name'), one.getAttribute('value')])).toEqual(fields)
    expect(document.querySelector('form')!.getAttribute('action')).toBe('https://tool.example/launch?a=1&b=2')
    expect(document.querySelectorAll('script')).toHaveLength(1)
    expect(document.title).toBe('Opening…')
  })

  it('is ASCII as far as its values are, and so is sent in one byte a character', () => {
    expect(form([['plain', 'Learner']]).text).toMatch(/^[\n\x20-\x7e]*$/)
    expect(form([['beyond', '船']]).text).toContain('船')
  })
})

describe('markup', () => {
  it('escapes what is put into it, but markup of ours', () => {
    expect(html`<p title="${`"a" & 'b'`}">${html`<b>${'<i>'}</b>`}</p>`.text).toBe(
      '<p title="&quot;a&quot; &amp; &#39;b&#39;"><b>&lt;i&gt;</b></p>',
    )
    expect(html`${[html`a`, html`<br />`]}`.text).toBe('a<br />')
  })
})
