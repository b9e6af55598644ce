import { Problem } from '../result/index.js'
import { escapeXml, onlyChild, readXml, type XmlElement } from '../xml/index.js'
import { OUTCOMES_NAMESPACE, OUTCOMES_OPERATIONS } from './outcomes-request.js'

/** The answer to a Basic Outcomes request, before it is written as XML. */
export interface OutcomesResponse {
  /** Our own identifier of this answer. */
  messageId: string
  codeMajor: 'success' | 'failure' | 'unsupported'
  severity: 'status' | 'warning' | 'error'
  description: string
  /** The request's message identifier; empty when it could not be read. */
  messageRef: string
  /** The request's operation, for instance `replaceResult`; empty when it could not be read. */
  operationRef: string
  /** For a successful readResult: the score as a decimal, or empty when there is none. */
  score?: string
}

/** Writes an `imsx_POXEnvelopeResponse` (LTI 1.1.1 section 6.1). */
export function writeOutcomesResponse(response: OutcomesResponse): string {
  const answered = OUTCOMES_OPERATIONS.find((name) => name === response.operationRef)
  const body =
    response.codeMajor === 'success' && answered
      ? response.score === undefined
        ? `<${answered}Response/>`
        : `<${answered}Response><result><resultScore><language>en</language><textString>${escapeXml(response.score)}</textString></resultScore></result></${answered}Response>`
      : ''
  return (
    `<?xml version="1.0" encoding="UTF-8"?>\n<imsx_POXEnvelopeResponse xmlns="${OUTCOMES_NAMESPACE}">` +
    `<imsx_POXHeader><imsx_POXResponseHeaderInfo><imsx_version>V1.0</imsx_version>` +
    `<imsx_messageIdentifier>${escapeXml(response.messageId)}</imsx_messageIdentifier><imsx_statusInfo>` +
    `<imsx_codeMajor>${response.codeMajor}</imsx_codeMajor><imsx_severity>${response.severity}</imsx_severity>` +
    `<imsx_description>${escapeXml(response.description)}</imsx_description>` +
    `<imsx_messageRefIdentifier>${escapeXml(response.messageRef)}</imsx_messageRefIdentifier>` +
    `<imsx_operationRefIdentifier>${escapeXml(response.operationRef)}</imsx_operationRefIdentifier>` +
    `</imsx_statusInfo></imsx_POXResponseHeaderInfo></imsx_POXHeader><imsx_POXBody>${body}</imsx_POXBody></imsx_POXEnvelopeResponse>`
  )
}

/** Reads an answer, the other way round; undefined when it is not one. */
export function readOutcomesResponse(body: Uint8Array): OutcomesResponse | undefined {
  const root = readXml(body)
  if (root instanceof Problem || root.name !== 'imsx_POXEnvelopeResponse' || root.namespace !== OUTCOMES_NAMESPACE)
    return undefined
  const info = path(root, 'imsx_POXHeader', 'imsx_POXResponseHeaderInfo')
  const status = info && path(info, 'imsx_statusInfo')
  const codeMajor = status && path(status, 'imsx_codeMajor')?.text
  const severity = status && path(status, 'imsx_severity')?.text
  if (!info || !status || !isOneOf(codeMajor, CODES) || !isOneOf(severity, SEVERITIES)) return undefined
  const score = path(root, 'imsx_POXBody', 'readResultResponse', 'result', 'resultScore', 'textString')?.text
  return {
    messageId: path(info, 'imsx_messageIdentifier')?.text ?? '',
    codeMajor,
    severity,
    description: path(status, 'imsx_description')?.text ?? '',
    messageRef: path(status, 'imsx_messageRefIdentifier')?.text ?? '',
    operationRef: path(status, 'imsx_operationRefIdentifier')?.text ?? '',
    ...(score === undefined ? {} : { score }),
  }
}

const CODES = ['success', 'failure', 'unsupported'] as const
const SEVERITIES = ['status', 'warning', 'error'] as const

function isOneOf<T extends string>(value: string | undefined, allowed: readonly T[]): value is T {
  return allowed.some((one) => one === value)
}

function path(element: XmlElement, ...names: string[]): XmlElement | undefined {
  let at: XmlElement | undefined = element
  for (const name of names) at = at && onlyChild(at, name)
  return at
}
