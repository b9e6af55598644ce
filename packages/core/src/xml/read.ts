import { Problem } from '../result/index.js'
import { escapeUTF8 } from 'entities'
import { SaxesParser, type SaxesTagNS } from 'saxes'

/** An element with its namespace resolved; `text` is the text directly inside it. */
export interface XmlElement {
  namespace: string
  name: string
  attributes: Record<string, string>
  children: XmlElement[]
  text: string
}

/** Why a text is not accepted as XML; `detail` says where. */
export type XmlProblem = Problem<
  'xml.not_utf8' | 'xml.malformed' | 'xml.dtd_refused' | 'xml.too_deep' | 'xml.too_many_elements'
>

const MAX_DEPTH = 32
const MAX_ELEMENTS = 2000

class Refused extends Error {
  constructor(readonly problem: XmlProblem) {
    super(problem.code)
  }
}

/**
 * Reads XML 1.0 with namespaces, strictly. A document type declaration is refused whatever it holds, so no entity but the
 * five predefined ones is ever expanded. The caller bounds the size of `bytes`.
 */
export function readXml(bytes: Uint8Array): XmlElement | XmlProblem {
  const read = parse(bytes, false)
  // Counting lines costs as much as parsing, so it is done only for what is refused.
  return read instanceof Problem ? parse(bytes, true) : read
}

function parse(bytes: Uint8Array, position: boolean): XmlElement | XmlProblem {
  let text: string
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    return new Problem('xml.not_utf8', `${bytes.length} bytes`)
  }
  const open: XmlElement[] = []
  let root: XmlElement | undefined
  let elements = 0
  const parser = new SaxesParser({ xmlns: true, position })
  parser.on('doctype', () => refuse('xml.dtd_refused'))
  parser.on('opentag', (tag: SaxesTagNS) => {
    if (open.length >= MAX_DEPTH) refuse('xml.too_deep')
    if (++elements > MAX_ELEMENTS) refuse('xml.too_many_elements')
    const attributes = Object.fromEntries(Object.values(tag.attributes).map((one) => [one.name, one.value]))
    const element: XmlElement = { namespace: tag.uri, name: tag.local, attributes, children: [], text: '' }
    const parent = open.at(-1)
    if (parent) parent.children.push(element)
    else root = element
    open.push(element)
  })
  const append = (more: string) => {
    const element = open.at(-1)
    if (element) element.text += more
  }
  parser.on('text', append)
  parser.on('cdata', append)
  parser.on('closetag', () => void open.pop())
  parser.on('error', (error) => {
    throw new Refused(new Problem('xml.malformed', error.message.slice(0, 200)))
  })
  function refuse(code: XmlProblem['code']): never {
    throw new Refused(new Problem(code, `line ${parser.line}, column ${parser.column}`))
  }
  try {
    parser.write(text).close()
  } catch (error) {
    if (error instanceof Refused) return error.problem
    throw error
  }
  return root ?? new Problem('xml.malformed', 'no element')
}

/** The one child of that name in the same namespace as its parent; undefined when there is none or more than one. */
export function onlyChild(element: XmlElement, name: string): XmlElement | undefined {
  const found = element.children.filter((child) => child.name === name && child.namespace === element.namespace)
  return found.length === 1 ? found[0] : undefined
}

// XML 1.0 allows no control characters but tab, line feed and carriage return.

const NOT_A_CHARACTER = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g

export function escapeXml(text: string): string {
  return escapeUTF8(text.toWellFormed().replace(NOT_A_CHARACTER, '\ufffd'))
}
