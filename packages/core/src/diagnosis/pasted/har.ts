import { asObject } from '../../intake/json.js'
import { decodeForm, type Parameter } from '../../oauth1/index.js'
import { ofHeaders, type Request } from './request.js'

const text = (value: unknown) => (typeof value === 'string' ? value : '')
const pairs = (list: unknown): Parameter[] =>
  (Array.isArray(list) ? list : []).flatMap((one: unknown) => {
    const pair = asObject(one)
    return pair ? [[text(pair['name']), text(pair['value'])] as Parameter] : []
  })

/** The requests of a HAR file (HTTP Archive 1.2: `log.entries`), as the developer tools of browsers save it; undefined for any other JSON. */
export function requestsOfHar(value: unknown): Request[] | undefined {
  const entries = asObject(asObject(value)?.['log'])?.['entries']
  if (!Array.isArray(entries)) return undefined
  return entries.flatMap((entry: unknown) => {
    const request = asObject(asObject(entry)?.['request'])
    return request ? [requestOf(request)] : []
  })
}

function requestOf(request: Readonly<Record<string, unknown>>): Request {
  const posted = asObject(request['postData']) ?? {}
  const params = pairs(posted['params'])
  // Where a form is there in both forms, its text is what was sent.
  const body = text(posted['mimeType']).startsWith('application/x-www-form-urlencoded') ? decodeForm(text(posted['text'])) : [] // oxfmt-ignore
  const { parameters, bearer } = ofHeaders(pairs(request['headers']))
  return {
    method: text(request['method']).toUpperCase() || 'POST',
    url: text(request['url']),
    parameters: [...(body.length > 0 ? body : params), ...parameters],
    bearer,
  }
}
