import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  cutEnd,
  cutEnds,
  cutStart,
  elementTexts,
  firstForm,
  plainDecimal,
  readHtml,
  stripHidden,
  upTo,
  visibleText,
  withoutBracketed,
} from '../src/text/index.js'

describe('the ends of a text', () => {
  it.each([
    [cutEnd('1.500', '0'), '1.5'],
    [cutEnd('000', '0'), ''],
    [cutStart('--a-', '-'), 'a-'],
    [cutEnds('--a-b--', '-'), 'a-b'],
    [cutEnds('', '-'), ''],
    [upTo('https://a.example/b?c#d', '?#'), 'https://a.example/b'],
    [upTo('plain', '?#'), 'plain'],
    [plainDecimal('10.500'), '10.5'],
    [plainDecimal('10.000'), '10'],
    [plainDecimal('100'), '100'],
    [withoutBracketed('Key (LMS only) for (you', '(', ')', ''), 'Key  for (you'],
    [withoutBracketed('a(b)c(d)e', '(', ')'), 'a c e'],
    [stripHidden('\u200b "\u00ad secret word\ufeff\r\n'), 'secret word'],
    [stripHidden(' \u2060 '), ''],
  ])('is %j', (is, wanted) => expect(is).toBe(wanted))

  it('is cut as the expression for it would', () => {
    fc.assert(
      fc.property(fc.stringMatching(/^[-a0]{0,12}$/), (text) => {
        expect(cutEnds(text, '-')).toBe(text.replace(/^-+|-+$/g, ''))
        expect(cutEnd(text, '0')).toBe(text.replace(/0+$/, ''))
      }),
    )
  })
})

describe('a page of a stranger', () => {
  it.each([
    ['<p>Hello&nbsp;<b>there</b></p>', 'Hello there'],
    ['<head><title>Not shown</title></head><body>shown</body>', 'shown'],
    ['<head><title>never ends', 'never ends'],
    ['a<script>if (a < b) run("<p>no</p>")</script>b<style>p{}</style>c', 'a b c'],
    ['a<script>never ends <p>x', 'a'],
    ['<!-- no --><p title="a > b">yes</p>', 'yes'],
    ['&lt;script&gt; &#x41;&#66; &amp;amp; &eacute;', '<script> AB &amp; é'],
    ['1 < 2 and 3 > 2', '1 < 2 and 3 > 2'],
    ['', ''],
  ])('%j reads %j', (page, words) => expect(visibleText(page)).toBe(words))

  it('has a first form with the fields inside it and none after it', () => {
    const page = `<form ACTION="/a?x=1&amp;y=2" method=POST><input name=id_token value='a&#34;b'><input value="no name">
      <p><input name="state" value="first" value="second"></form><input name=outside value=1><form action=/other></form>`
    expect(firstForm(page)).toEqual({
      action: '/a?x=1&y=2',
      method: 'post',
      fields: [
        ['id_token', 'a"b'],
        ['state', 'first'],
      ],
    })
    expect(firstForm('<p>no form</p>')).toBeUndefined()
    expect(firstForm('<!-- <form action="/hidden"> -->')).toBeUndefined()
    expect(firstForm('<form>')).toEqual({ action: undefined, method: 'get', fields: [] })
  })

  it('is headed by what stands in its headings', () => {
    const tokens = readHtml('<title>One &amp; two</title><h1>Th<b>re</b>e</h1><h1>open<h2>Four</h2>')
    expect(elementTexts(tokens, ['title', 'h1', 'h2'])).toEqual(['One & two', 'Th re e', 'Four'])
  })

  it('keeps an attribute’s name from reaching what all objects share', () => {
    const [open] = readHtml('<input __proto__="x" constructor="y">')
    expect(open).toMatchObject({ kind: 'open', name: 'input' })
    expect(({} as Record<string, unknown>)['x']).toBeUndefined()
    expect(Object.keys((open as { attributes: object }).attributes).sort()).toEqual(['__proto__', 'constructor'])
  })

  it('is never more than was sent, and reading it never fails', () => {
    const bits = fc.constantFrom('<', '>', '</', '<form', ' action=', '"', "'", '<script>', '&amp;', '&#x110000;', '\u0000', 'a', ' ', '<!--', '-->', '<![CDATA[') // oxfmt-ignore
    fc.assert(
      fc.property(fc.array(bits, { maxLength: 60 }), (parts) => {
        const page = parts.join('')
        expect(visibleText(page).length).toBeLessThanOrEqual(page.length)
        firstForm(page)
        elementTexts(readHtml(page), ['form', 'script'])
      }),
    )
  })
})
