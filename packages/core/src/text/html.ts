import { Tokenizer } from 'htmlparser2'

/** A tag as it stands in a page, or the text between two. */
export type HtmlToken =
  | { kind: 'text'; text: string }
  | { kind: 'open'; name: string; attributes: Record<string, string> }
  | { kind: 'close'; name: string }

/** Foreign pages are read so far; forms that post themselves and what is said at the top stand in the first of it. */
export const MOST_OF_A_PAGE = 65_536

/**
 * Reads a page as a stream of tags and texts, without a tree, in time that grows with its length only: pages come from strangers.
 * Names are in lower case, entities decoded; of two attributes of one name the first stands (HTML, section 13.2.5.33). What is in a
 * script or a style is no text. What lies behind `most` characters is not read.
 */
export function readHtml(page: string, most = MOST_OF_A_PAGE): HtmlToken[] {
  const html = page.slice(0, most)
  const tokens: HtmlToken[] = []
  const open = { name: '', attributes: {} as Record<string, string>, attribute: '', value: [] as string[] }
  let silent = ''
  const part = (start: number, end: number) => html.slice(start, end)
  const say = (text: string) => {
    if (silent === '') tokens.push({ kind: 'text', text })
  }
  const endTag = () => {
    tokens.push({ kind: 'open', name: open.name, attributes: open.attributes })
    if (open.name === 'script' || open.name === 'style') silent = open.name
  }
  const tokenizer = new Tokenizer(
    { xmlMode: false, decodeEntities: true },
    {
      ontext: (start, end) => say(part(start, end)),
      ontextentity: (codepoint) => say(String.fromCodePoint(codepoint)),
      onopentagname(start, end) {
        open.name = part(start, end).toLowerCase()
        open.attributes = {}
      },
      onattribname(start, end) {
        open.attribute = part(start, end).toLowerCase()
        open.value = []
      },
      onattribdata: (start, end) => void open.value.push(part(start, end)),
      onattribentity: (codepoint) => void open.value.push(String.fromCodePoint(codepoint)),
      onattribend() {
        if (!Object.hasOwn(open.attributes, open.attribute))
          Object.defineProperty(open.attributes, open.attribute, { value: open.value.join(''), enumerable: true })
      },
      onopentagend: endTag,
      onselfclosingtag: endTag,
      onclosetag(start, end) {
        const name = part(start, end).toLowerCase()
        if (name === silent) silent = ''
        tokens.push({ kind: 'close', name })
      },
      oncdata: () => undefined,
      oncomment: () => undefined,
      ondeclaration: () => undefined,
      onprocessinginstruction: () => undefined,
      onend: () => undefined,
    },
  )
  tokenizer.write(html)
  tokenizer.end()
  return tokens
}

/** A page's text without markup, scripts, styles and head, white space folded. */
export function visibleText(page: string): string {
  const tokens = readHtml(page)
  const headEnds = tokens.findIndex((token) => token.kind === 'close' && token.name === 'head')
  return textOf(tokens.slice(headEnds + 1))
}

/** What tokens say, white space folded. */
export function textOf(tokens: readonly HtmlToken[]): string {
  return tokens
    .map((token) => (token.kind === 'text' ? token.text : ' '))
    .join('')
    .replace(/[\s\u00a0]+/g, ' ')
    .trim()
}

/** The texts of the elements of these names, each up to its own end; of those that never end, up to the next of them. */
export function elementTexts(tokens: readonly HtmlToken[], names: readonly string[]): string[] {
  const texts: string[] = []
  let inside: { name: string; from: number } | undefined
  tokens.forEach((token, i) => {
    if (token.kind === 'open' && names.includes(token.name)) inside = { name: token.name, from: i + 1 }
    else if (token.kind === 'close' && inside?.name === token.name) {
      texts.push(textOf(tokens.slice(inside.from, i)))
      inside = undefined
    }
  })
  return texts
}

/** A page's first form: where it leads, how, and its fields that have a name. */
export function firstForm(
  page: string,
): { action: string | undefined; method: string; fields: [string, string][] } | undefined {
  if (!/<form\b/i.test(page)) return undefined
  let form: ReturnType<typeof firstForm>
  for (const token of readHtml(page)) {
    if (token.kind === 'open' && token.name === 'form')
      form ??= {
        action: token.attributes['action'],
        method: (token.attributes['method'] ?? 'get').toLowerCase(),
        fields: [],
      }
    else if (form && token.kind === 'open' && token.name === 'input' && token.attributes['name'])
      form.fields.push([token.attributes['name'], token.attributes['value'] ?? ''])
    else if (form && token.kind === 'close' && token.name === 'form') break
  }
  return form
}
