/** What a serialiser does otherwise than another. */
interface Style {
  /** Written between two tags that have only white space between them. */
  between?: string
  /** The end of an empty element, with or without a space before it. */
  empty?: '/>' | ' />'
  /** `joined`: `<a></a>` becomes `<a/>`; `split`: the other way round. */
  pairs?: 'joined' | 'split'
}

/** XML as another serialiser would have written it. Read once from start to end: bodies come from strangers. */
export function rewritten(xml: string, { between, empty, pairs }: Style): string {
  const parts: string[] = []
  let from = 0
  while (from < xml.length) {
    const open = xml.indexOf('<', from)
    const close = open < 0 ? -1 : xml.indexOf('>', open)
    if (close < 0) break
    const space = xml.slice(from, open)
    const isBetween = between !== undefined && parts.length > 0 && space !== '' && space.trim() === ''
    parts.push(isBetween ? between : space)
    const tag = xml.slice(open, close + 1)
    const before = parts.at(-2)
    if (pairs === 'joined' && space === '' && before !== undefined && tag === `</${nameOf(before)}>`)
      parts.splice(-2, 2, `${before.slice(0, -1)}/>`)
    else if (tag.endsWith('/>') && pairs === 'split') parts.push(`${tag.slice(0, -2)}></${nameOf(tag)}>`)
    else parts.push(tag.endsWith('/>') && empty ? tag.slice(0, -2).trimEnd() + empty : tag)
    from = close + 1
  }
  return parts.join('') + xml.slice(from)
}

/** The name in an opening tag; what no closing tag can match for any other. */
function nameOf(tag: string): string {
  return /^<([\w:.-]+)/.exec(tag)?.[1] ?? '/'
}
