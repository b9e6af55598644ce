import type { Mistake, Way } from '../mistake.js'
import type { Signing } from '../signing.js'
import { asLatin1, escapedAsHtml, escapedAsJson, namesOf, unescapedFromHtml } from '../spellings.js'

/** Ways to sign other text than was sent, of those that this message has text for. @param what only names and values with this in them can be spelt otherwise */
function respelt(
  { query, fields }: Signing,
  what: RegExp,
  spellings: readonly (readonly [spell: (text: string) => string, words: string])[],
): Way[] {
  const all = [...query, ...fields].filter(([name, value]) => what.test(value) || what.test(name))
  return spellings.flatMap(([spell, words]): Way[] => {
    const touched = all.filter(([name, value]) => spell(value) !== value || spell(name) !== name)
    return touched.length === 0
      ? []
      : [
          {
            change: (signing) => ({ spell: (text) => spell(signing.spell(text)) }),
            evidence: [
              ['in', namesOf(touched)],
              ['signed', words],
            ],
          },
        ] // oxfmt-ignore
  })
}

export const otherLineEnds: Mistake = {
  code: 'other_line_ends',
  name: 'other line ends, or spaces at the ends of values',
  family: 'text',
  sentence: 'Values were signed with other line ends or spaces than they were sent with.',
  ours: null,
  theirs: 'Sign values as they are sent: a browser sends line ends of a form as CR LF (HTML, form submission).',
  ways: (_, right) =>
    respelt(right, /[\r\n\u00a0]|^\s|\s$|\s\s/u, [
      [(text) => text.replace(/\r\n?/g, '\n'), 'line ends as LF'],
      [(text) => text.replace(/\r\n|\r|\n/g, '\r\n'), 'line ends as CR LF'],
      [(text) => text.replace(/\r\n|\n/g, '\r'), 'line ends as CR'],
      [(text) => text.replace(/[\r\n]+/g, ''), 'without line ends'],
      [(text) => text.replace(/\r\n|\r|\n/g, ' '), 'spaces for line ends'],
      [(text) => text.trim(), 'without spaces at the ends'],
      [(text) => text.trimEnd(), 'without spaces at the end'],
      [(text) => text.replace(/\s+/gu, ' ').trim(), 'each space once'],
      [(text) => text.replaceAll('\u00a0', ' '), 'plain spaces for non-breaking ones'],
    ]),
}

export const htmlEscaped: Mistake = {
  code: 'html_escaped',
  name: 'values escaped as in HTML',
  family: 'text',
  sentence: 'Values were escaped as in HTML before they were signed, or sent so and signed without.',
  ours: null,
  theirs: 'Sign the plain values; escape them only where they are written into the page.',
  ways: (_, right) =>
    respelt(right, /[&<>"'\\]/, [
      [(text) => escapedAsHtml(text, "'"), 'escaped as in HTML'],
      [(text) => escapedAsHtml(text, '&#39;'), 'escaped as in HTML, the apostrophe as &#39;'],
      [(text) => escapedAsHtml(text, '&#039;'), 'escaped as in HTML, the apostrophe as &#039;'],
      [(text) => escapedAsHtml(text, '&#x27;'), 'escaped as in HTML, the apostrophe as &#x27;'],
      [(text) => escapedAsHtml(text, '&apos;'), 'escaped as in HTML, the apostrophe as &apos;'],
      [unescapedFromHtml, 'unescaped'],
      [(text) => text.replaceAll('&', '&amp;'), '“&” escaped'],
      [(text) => text.replace(/["'\\]/g, '\\$&'), 'quotes behind backslashes'],
      [(text) => text.replace(/\\(["'\\])/g, '$1'), 'without backslashes before quotes'],
    ]),
}

/** RFC 5849 section 3.6: text is UTF-8 before it is encoded. */
export const otherCharset: Mistake = {
  code: 'other_charset',
  name: 'another character set than UTF-8',
  family: 'text',
  sentence: 'Letters beyond ASCII were signed in another character set than UTF-8, read so, or lost.',
  ours: null,
  theirs: 'Sign and send text in UTF-8.',
  ways: (_, right) => {
    const beyond = [...right.query, ...right.fields].filter(([name, value]) => /[^\u0000-\u007f]/.test(name + value))
    if (beyond.length === 0) return []
    const evidence = (words: string): Way['evidence'] => [
      ['values beyond ASCII', namesOf(beyond)],
      ['signed', words],
    ] // oxfmt-ignore
    return [
      { change: ({ encode }) => ({ encode: (text) => latin(encode(text)) }), evidence: evidence('in Latin-1') },
      ...respelt(right, /[^\u0000-\u007f]/, [
        [asLatin1, 'UTF-8 read as Latin-1'],
        [(text) => text.replace(/[^\u0000-\u007f]/gu, '?'), '“?” for each letter'],
        [(text) => text.replace(/[^\u0000-\u00ff]/gu, '?'), '“?” for letters beyond Latin-1'],
        [(text) => text.replace(/[^\u0000-\u007f]/g, ''), 'without these letters'],
        [(text) => text.replace(/[^\u0000-\u007f]/g, '\ufffd'), 'the sign for what cannot be read'],
        [(text) => text.replace(/[^\u0000-\u007f]/gu, (one) => `&#${one.codePointAt(0)!};`), 'numbers as in HTML'],
        [escapedAsJson, 'escaped as in JSON'],
      ]).map((way) => ({ ...way, evidence: evidence(way.evidence[1]![1]) })),
    ]
  },
}

/** Accents as letters of their own, or joined with theirs: the same to the eye (Unicode Standard Annex 15). */
export const otherNormalForm: Mistake = {
  code: 'other_normal_form',
  name: 'accents apart from their letters',
  family: 'text',
  sentence: 'Letters with accents were signed in another normal form of Unicode than they were sent in.',
  ours: null,
  theirs: 'Sign the very text that is sent; do not normalise it in between.',
  ways: (_, right) =>
    respelt(right, /[^\u0000-\u007f]/, [
      [(text) => text.normalize('NFD'), 'accents apart from their letters'],
      [(text) => text.normalize('NFC'), 'accents joined with their letters'],
      [(text) => text.normalize('NFKC'), 'letters of other forms made plain'],
      [(text) => text.normalize('NFD').replace(/\p{M}+/gu, ''), 'without accents'],
    ]),
}

/** Percent-encoded UTF-8 of two bytes as the one byte of Latin-1. */
function latin(encoded: string): string {
  return encoded
    .replace(/%C2%([89AB][0-9A-F])/g, '%$1')
    .replace(/%C3%([89AB][0-9A-F])/g, (_, low: string) => `%${(parseInt(low, 16) + 0x40).toString(16).toUpperCase()}`)
}
