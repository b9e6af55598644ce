import { escapeText } from 'entities'
import sanitize from 'sanitize-html'
import { cutEnd, readHtml } from '../text/index.js'

const TAGS = [
  'p', 'br', 'hr', 'h2', 'h3', 'h4', 'strong', 'b', 'em', 'i', 'u', 's', 'sub', 'sup', 'code', 'pre', 'blockquote', 'ul', 'ol', 'li', 'a', 'img', 'span',
  'div', 'table', 'thead', 'tbody', 'tr', 'th', 'td', 'figure', 'figcaption',
] // oxfmt-ignore

const OWN_FILE = /^\/api\/courses\/[0-9a-z]{1,32}\/files\/[0-9a-z]{1,32}\/content$/

/**
 * Rich text as it may be kept and shown: no script, style, form, frame or event handler, links to http, https and mail only, pictures only out of the
 * course's own files. `data-tool` names a tool link of the course that stands in the text, `data-show` how.
 */
export function cleanRichText(html: string): string {
  return sanitize(html, {
    allowedTags: TAGS,
    allowedAttributes: {
      a: ['href', 'title', 'rel', 'target'],
      img: ['src', 'alt', 'title', 'width', 'height'],
      div: ['data-tool', 'data-show'],
      th: ['colspan', 'rowspan', 'scope'],
      td: ['colspan', 'rowspan'],
      ol: ['start'],
    },
    allowedSchemes: ['http', 'https', 'mailto'],
    allowedSchemesAppliedToAttributes: ['href', 'src'],
    allowProtocolRelative: false,
    disallowedTagsMode: 'discard',
    exclusiveFilter: (frame) => frame.tag === 'img' && !OWN_FILE.test(frame.attribs['src'] ?? ''),
    transformTags: {
      a: (_, { href = '', title }) => ({
        tagName: 'a',
        attribs: {
          href,
          ...(title && { title }),
          ...(/^https?:/i.test(href) && { rel: 'noopener noreferrer', target: '_blank' }),
        },
      }),
      div: (_, { 'data-tool': tool, 'data-show': show }) => ({
        tagName: 'div',
        attribs:
          tool && /^[0-9a-z]{1,32}$/.test(tool)
            ? { 'data-tool': tool, 'data-show': show === 'frame' || show === 'window' ? show : 'link' }
            : {},
      }),
    },
    nestingLimit: 30,
  }).trim()
}

/** Rich text out of whatever was typed: plain text becomes paragraphs, HTML is cleaned. */
export function toRichText(text: string): string {
  if (/<\/?[a-z][^<>]*>/i.test(text)) return cleanRichText(text)
  return text
    .trim()
    .replaceAll('\r\n', '\n')
    .split('\n')
    .map((line) => line.trimEnd())
    .join('\n')
    .split(/\n{2,}/)
    .filter((one) => one.trim() !== '')
    .map((one) => `<p>${escapeText(one.trim()).replaceAll('\n', '<br />')}</p>`)
    .join('')
}

const ENDS_A_LINE = ['br', 'hr', 'p', 'div', 'li', 'h2', 'h3', 'h4', 'tr', 'pre', 'blockquote']

/** What a rich text says, for places that take none: launches, preflight, the command line. @param most characters of the rich text that are read */
export function plainOf(html: string, most = Infinity): string {
  const words = readHtml(html, most).map((token) => {
    if (token.kind === 'text') return token.text
    const ends = token.kind === 'close' || token.name === 'br' || token.name === 'hr'
    return ends && ENDS_A_LINE.includes(token.name) ? '\n' : ''
  })
  const lines = words
    .join('')
    .split('\n')
    .map((line) => cutEnd(line, ' \t'))
  return lines
    .filter((line, i) => line !== '' || lines[i - 1] !== '')
    .join('\n')
    .trim()
}
