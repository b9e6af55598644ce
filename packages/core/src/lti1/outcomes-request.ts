import { Problem } from '../result/index.js'
import { escapeXml, onlyChild, readXml, type XmlElement, type XmlProblem } from '../xml/index.js'

export const OUTCOMES_NAMESPACE = 'http://www.imsglobal.org/services/ltiv1p1/xsd/imsoms_v1p0'
/** A request body may be this long, no longer. */
export const OUTCOMES_MAX_BYTES = 64 * 1024

export const OUTCOMES_OPERATIONS = ['replaceResult', 'readResult', 'deleteResult'] as const
export type OutcomesOperation = (typeof OUTCOMES_OPERATIONS)[number]

/** A Basic Outcomes request. `score` is the text as sent; `handedIn` what the tool sent for people to look at. */
export interface OutcomesRequest {
  messageId: string
  operation: OutcomesOperation
  resultId: string
  score: string | undefined
  handedIn: { kind: 'text' | 'url'; value: string } | undefined
}

/** Why an envelope is not accepted. What was understood before (message identifier, operation) is kept for the answer. */
export class OutcomesProblem extends Problem<
  | XmlProblem['code']
  | 'outcomes.not_an_envelope'
  | 'outcomes.wrong_namespace'
  | 'outcomes.header_missing'
  | 'outcomes.operation_unsupported'
  | 'outcomes.operation_ambiguous'
  | 'outcomes.result_id_missing'
  | 'outcomes.score_missing'
> {
  constructor(
    code: OutcomesProblem['code'],
    detail: string,
    readonly messageId: string,
    readonly operation: string,
  ) {
    super(code, detail)
  }
}

/** Reads an `imsx_POXEnvelopeRequest` (LTI 1.1.1 section 6). The prefix is free, the namespace is not. */
export function readOutcomesRequest(body: Uint8Array): OutcomesRequest | OutcomesProblem {
  let messageId = ''
  let operation = ''
  const refuse = (code: OutcomesProblem['code'], detail: string) =>
    new OutcomesProblem(code, detail, messageId, operation)

  const root = readXml(body)
  if (root instanceof Problem) return refuse(root.code, root.detail)
  if (root.name !== 'imsx_POXEnvelopeRequest') return refuse('outcomes.not_an_envelope', root.name.slice(0, 80))
  if (root.namespace !== OUTCOMES_NAMESPACE)
    return refuse('outcomes.wrong_namespace', root.namespace.slice(0, 120) || 'no namespace')

  messageId = textAt(root, 'imsx_POXHeader', 'imsx_POXRequestHeaderInfo', 'imsx_messageIdentifier') ?? ''
  if (messageId === '') return refuse('outcomes.header_missing', 'imsx_messageIdentifier')
  messageId = messageId.slice(0, 255)

  const asked = onlyChild(root, 'imsx_POXBody')?.children ?? []
  if (asked.length !== 1) return refuse('outcomes.operation_ambiguous', `${asked.length} operations in imsx_POXBody`)
  operation = asked[0]!.name.replace(/Request$/, '').slice(0, 80)
  const known = OUTCOMES_OPERATIONS.find((name) => name === operation)
  if (!known) return refuse('outcomes.operation_unsupported', operation)

  const record = onlyChild(asked[0]!, 'resultRecord')
  const resultId = record && textAt(record, 'sourcedGUID', 'sourcedId')
  if (!record || !resultId) return refuse('outcomes.result_id_missing', 'resultRecord/sourcedGUID/sourcedId')

  const result = onlyChild(record, 'result')
  const score = result && textAt(result, 'resultScore', 'textString')
  if (known === 'replaceResult' && score === undefined)
    return refuse('outcomes.score_missing', 'result/resultScore/textString')
  return { messageId, operation: known, resultId, score, handedIn: result && dataOf(result) }
}

function dataOf(result: XmlElement): OutcomesRequest['handedIn'] {
  const data = onlyChild(result, 'resultData')
  if (!data) return undefined
  for (const kind of ['url', 'text'] as const) {
    const value = textAt(data, kind)
    if (value) return { kind, value: value.slice(0, 10_000) }
  }
  return undefined
}

function textAt(element: XmlElement, ...path: string[]): string | undefined {
  let at: XmlElement | undefined = element
  for (const name of path) at = at && onlyChild(at, name)
  return at?.text.trim()
}

/** Writes a request, the other way round: for programs that speak as the tool's end. */
export function writeOutcomesRequest(request: Omit<OutcomesRequest, 'handedIn'>): string {
  const result =
    request.score === undefined
      ? ''
      : `<result><resultScore><language>en</language><textString>${escapeXml(request.score)}</textString></resultScore></result>`
  return (
    `<?xml version="1.0" encoding="UTF-8"?>\n<imsx_POXEnvelopeRequest xmlns="${OUTCOMES_NAMESPACE}">` +
    `<imsx_POXHeader><imsx_POXRequestHeaderInfo><imsx_version>V1.0</imsx_version>` +
    `<imsx_messageIdentifier>${escapeXml(request.messageId)}</imsx_messageIdentifier>` +
    `</imsx_POXRequestHeaderInfo></imsx_POXHeader><imsx_POXBody><${request.operation}Request><resultRecord>` +
    `<sourcedGUID><sourcedId>${escapeXml(request.resultId)}</sourcedId></sourcedGUID>${result}` +
    `</resultRecord></${request.operation}Request></imsx_POXBody></imsx_POXEnvelopeRequest>`
  )
}
