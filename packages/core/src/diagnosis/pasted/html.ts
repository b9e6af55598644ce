import type { Parameter } from '../../oauth1/index.js'
import { readHtml } from '../../text/index.js'

export interface HtmlForm {
  parameters: Parameter[]
  method: string
  address: string | null
}

/** The forms of a page, and fields that stand in none as one more. @param most characters that are read */
export function formsOf(html: string, most: number): HtmlForm[] {
  const outside: HtmlForm = { parameters: [], method: 'POST', address: null }
  const forms: HtmlForm[] = []
  let current = outside
  for (const token of readHtml(html, most)) {
    if (token.kind === 'text') continue
    if (token.kind === 'close') {
      if (token.name === 'form') current = outside
      continue
    }
    const { name, value, action, method } = token.attributes
    if (token.name === 'form') {
      const address = action && /^https?:/i.test(action) ? action : null
      current = { parameters: [], method: method?.toUpperCase() || 'POST', address }
      forms.push(current)
    } else if ((token.name === 'input' || token.name === 'textarea') && name)
      current.parameters.push([name, value ?? ''])
  }
  return [...forms, outside].filter(({ parameters }) => parameters.length > 0)
}
