import { createHash, randomUUID } from 'node:crypto'
import { escapeUTF8 as escape } from 'entities'
import { XMLParser } from 'fast-xml-parser'
import { request as send } from 'undici'
import { signer } from './verify-launch.js'

export interface OutcomeTarget {
  serviceUrl: string
  resultId: string
  key: string
  secret: string
}

/** What the platform answered to a score, in short. */
export interface OutcomeAnswer {
  status: number
  codeMajor: string
  description: string
  score: string | undefined
}

const NAMESPACE = 'http://www.imsglobal.org/services/ltiv1p1/xsd/imsoms_v1p0'
const parser = new XMLParser({ removeNSPrefix: true, parseTagValue: false })

/** The body of a request of Basic Outcomes. */
export function outcomeXml(operation: string, resultId: string, score?: string): string {
  const result =
    score === undefined
      ? ''
      : `<result><resultScore><language>en</language><textString>${escape(score)}</textString></resultScore></result>`
  return `<?xml version="1.0" encoding="UTF-8"?>
<imsx_POXEnvelopeRequest xmlns="${NAMESPACE}">
  <imsx_POXHeader><imsx_POXRequestHeaderInfo><imsx_version>V1.0</imsx_version><imsx_messageIdentifier>${randomUUID()}</imsx_messageIdentifier></imsx_POXRequestHeaderInfo></imsx_POXHeader>
  <imsx_POXBody><${operation}Request><resultRecord><sourcedGUID><sourcedId>${escape(resultId)}</sourcedId></sourcedGUID>${result}</resultRecord></${operation}Request></imsx_POXBody>
</imsx_POXEnvelopeRequest>`
}

/** What is wrong with a signed request on purpose. */
export interface OutcomeSpoil {
  /** The body that the hash is of, when it is not the one that is sent. */
  hashOf?: string
  /** How old the request says that it is; seconds. */
  ageSeconds?: number
}

/** The signed `Authorization` header for a body, with its hash. */
export function outcomeAuthorization(
  target: Pick<OutcomeTarget, 'serviceUrl' | 'key' | 'secret'>,
  body: string,
  spoil: OutcomeSpoil = {},
): string {
  const oauth = signer(target.key, target.secret)
  const now = Math.floor(Date.now() / 1000)
  oauth.getTimeStamp = () => now - (spoil.ageSeconds ?? 0)
  const hash = createHash('sha1')
    .update(spoil.hashOf ?? body)
    .digest('base64')
  const signed = oauth.authorize({ url: target.serviceUrl, method: 'POST', data: { oauth_body_hash: hash } })
  return oauth.toHeader(signed).Authorization
}

/** Sends one request of Basic Outcomes, signed by key and secret. Never throws for what the platform answers. */
export async function sendOutcome(
  target: OutcomeTarget,
  body: string,
  spoil: OutcomeSpoil = {},
): Promise<OutcomeAnswer> {
  const response = await send(target.serviceUrl, {
    method: 'POST',
    headers: { 'content-type': 'application/xml', authorization: outcomeAuthorization(target, body, spoil) },
    body,
  })
  return readAnswer(response.statusCode, await response.body.text())
}

function readAnswer(status: number, text: string): OutcomeAnswer {
  const envelope = (parser.parse(text) as { imsx_POXEnvelopeResponse?: Record<string, never> })
    .imsx_POXEnvelopeResponse as
    | {
        imsx_POXHeader?: { imsx_POXResponseHeaderInfo?: { imsx_statusInfo?: Record<string, string> } }
        imsx_POXBody?: unknown
      }
    | undefined
  const info = envelope?.imsx_POXHeader?.imsx_POXResponseHeaderInfo?.imsx_statusInfo
  const body = envelope?.imsx_POXBody as
    | { readResultResponse?: { result?: { resultScore?: { textString?: string } } } }
    | undefined
  return {
    status,
    codeMajor: info?.['imsx_codeMajor'] ?? 'none',
    description: info?.['imsx_description'] ?? '',
    score: body?.readResultResponse?.result?.resultScore?.textString,
  }
}
