import { Problem } from '../result/index.js'
import {
  plainLine,
  plainText,
  readCustom,
  readIcon,
  readItems,
  readItemUrl,
  readMoment,
  readPoints,
  type AskedOfPicker,
  type ContentItem,
  type ItemProblem,
  type ItemsProblem,
  type ItemsRead,
  type WantedColumn,
} from '../content/item.js'
import { asObject, type Fields } from '../intake/json.js'
import type { Claims } from './jws.js'
import { messageClaims, type Message13Facts } from './launch.js'
import { readReview } from './line-items.js'
import { isNotYet } from './token.js'
import { CLAIM, LTI13_VERSION } from './names.js'

export const DEEP_LINKING_CLAIM = 'https://purl.imsglobal.org/spec/lti-dl/claim/'
/** Characters of an answer's JWT at most. */
export const DEEP_LINKING_MAX_CHARACTERS = 1_000_000

const TYPES = ['ltiResourceLink', 'link', 'file', 'html', 'image'] as const

/** What a picker is asked for by LTI 1.3. */
export interface DeepLinkingFacts extends Message13Facts, AskedOfPicker {
  /** Whether a column of the gradebook may come with an item. */
  acceptsColumn: boolean
}

/** The claims of `LtiDeepLinkingRequest` (Deep Linking 2.0 section 4.4). */
export function deepLinkingClaims(facts: DeepLinkingFacts): Claims {
  return {
    ...messageClaims('LtiDeepLinkingRequest', facts),
    [`${DEEP_LINKING_CLAIM}deep_linking_settings`]: {
      deep_link_return_url: facts.returnUrl,
      accept_types: facts.onlyToolLinks ? ['ltiResourceLink'] : [...TYPES],
      accept_presentation_document_targets: ['iframe', 'window'],
      ...(!facts.onlyToolLinks && { accept_media_types: 'image/*,text/html,application/pdf,*/*' }),
      accept_multiple: facts.multiple,
      accept_lineitem: facts.acceptsColumn,
      auto_create: false,
      ...(facts.title && { title: facts.title }),
      ...(facts.text && { text: facts.text }),
      data: facts.data,
    },
  }
}

/** Why an answer is not taken; `detail` never repeats the token. */
export type DeepLinkingProblem = Problem<
  | 'picker.claim_wrong'
  | 'picker.claim_missing'
  | 'picker.expired'
  | 'picker.wrong_deployment'
  | 'picker.wrong_message'
  | ItemsProblem['code']
>

/** A picker's answer: what it chose, and what it says to people and to the log. */
export interface DeepLinkingAnswer extends ItemsRead {
  /** What we sent along, as it came back. */
  data: string
  nonce: string
  expiresSeconds: number
  message: string | null
  log: string | null
  errorMessage: string | null
  errorLog: string | null
}

const SECONDS = 'a time in seconds since 1970'

/**
 * Checks the claims of `LtiDeepLinkingResponse` (Deep Linking 2.0 section 4.5) and reads its items. The signature is verified before. Does NOT check that `data` is
 * ours and unused, nor that the nonce is fresh: that is one statement of the records.
 */
export function readDeepLinkingAnswer(
  claims: Claims,
  expected: { clientId: string; issuer: string; deploymentId: string; nowSeconds: number; leewaySeconds: number },
): DeepLinkingAnswer | DeepLinkingProblem {
  const wrong = (name: string, given: unknown, wanted: string): DeepLinkingProblem =>
    given === undefined
      ? new Problem('picker.claim_missing', name)
      : new Problem('picker.claim_wrong', `${name} is “${String(given).slice(0, 80)}”, expected: ${wanted}`)
  if (claims['iss'] !== expected.clientId) return wrong('iss', claims['iss'], `“${expected.clientId}”`)
  if (![claims['aud']].flat().includes(expected.issuer)) return wrong('aud', claims['aud'], `“${expected.issuer}”`)
  const { exp, iat, nbf, nonce } = claims
  if (!isMoment(exp)) return wrong('exp', exp, SECONDS)
  if (!isMoment(iat)) return wrong('iat', iat, SECONDS)
  if (isNotYet(nbf, expected.nowSeconds + expected.leewaySeconds))
    return wrong('nbf', nbf, `${SECONDS} that is not in the future`)
  if (exp + expected.leewaySeconds < expected.nowSeconds)
    return new Problem('picker.expired', `${expected.nowSeconds - exp} seconds ago`)
  if (iat - expected.leewaySeconds > expected.nowSeconds)
    return new Problem('picker.expired', `made ${iat - expected.nowSeconds} seconds in the future`)
  if (typeof nonce !== 'string' || nonce === '' || nonce.length > 255)
    return wrong('nonce', nonce, 'a text of 1 to 255 characters')
  const claim = (name: string) => claims[`${CLAIM}${name}`]
  if (claim('message_type') !== 'LtiDeepLinkingResponse')
    return new Problem('picker.wrong_message', String(claim('message_type')).slice(0, 80))
  if (claim('version') !== LTI13_VERSION) return wrong('version', claim('version'), `“${LTI13_VERSION}”`)
  if (claim('deployment_id') !== expected.deploymentId)
    return new Problem('picker.wrong_deployment', `“${String(claim('deployment_id')).slice(0, 80)}”`)
  const own = (name: string) => claims[`${DEEP_LINKING_CLAIM}${name}`]
  const read = readItems(own('content_items') ?? [], 'content_items is no list', (item) =>
    readItem(item, expected.nowSeconds),
  )
  if (read instanceof Problem) return read
  const said = (name: string) => plainText(own(name), 1000) || null
  return {
    ...read,
    data: typeof own('data') === 'string' ? String(own('data')) : '',
    nonce,
    expiresSeconds: exp,
    message: said('msg'),
    log: said('log'),
    errorMessage: said('errormsg'),
    errorLog: said('errorlog'),
  }
}

/** Seconds that a calendar has, up to the year 9999. */
function isMoment(value: unknown): value is number {
  return typeof value === 'number' && value >= 0 && value < 253_402_300_800
}

function readItem(item: Fields, nowSeconds: number): ContentItem | Problem<ItemProblem['code']> {
  const type = String(item['type'] ?? '')
  const title = plainLine(item['title'])
  if (!(TYPES as readonly string[]).includes(type)) return new Problem('item.unknown_type', `“${type.slice(0, 60)}”`)
  const available = asObject(item['available']) ?? {}
  const base: ContentItem = {
    kind: 'address',
    url: null,
    title,
    text: plainText(item['text']),
    html: '',
    iconUrl: readIcon(asObject(item['icon'])?.['url'] ?? asObject(item['thumbnail'])?.['url']),
    mediaType: plainLine(item['mediaType'], 100) || null,
    target: asObject(item['iframe']) ? 'frame' : asObject(item['window']) ? 'window' : null,
    custom: readCustom(item['custom']),
    column: readColumn(item['lineItem'], title),
    opensAt: readMoment(available['startDateTime']),
    dueAt: readMoment(asObject(item['submission'])?.['endDateTime']),
    closesAt: readMoment(available['endDateTime']),
    expiresAt: readMoment(item['expiresAt']),
  }
  if (type === 'html') {
    const html = plainText(item['html'], 100_000)
    return html === '' ? new Problem('item.no_html', type) : { ...base, kind: 'html', html }
  }
  const isToolLink = type === 'ltiResourceLink'
  if (item['url'] === undefined || item['url'] === null || item['url'] === '')
    return isToolLink ? { ...base, kind: 'tool_link' } : new Problem('item.no_url', type)
  const read = readItemUrl(item['url'], isToolLink)
  if (read instanceof Problem) return read
  if (type === 'file' && base.expiresAt !== null && new Date(base.expiresAt).getTime() <= nowSeconds * 1000)
    return new Problem('item.expired', base.expiresAt)
  const kind = isToolLink ? 'tool_link' : type === 'file' || type === 'image' ? type : 'address'
  return { ...base, kind, url: read }
}

function readColumn(value: unknown, title: string): WantedColumn | null {
  const column = asObject(value)
  if (!column) return null
  const review = readReview(column['submissionReview'])
  return {
    label: plainLine(column['label']) || title,
    points: readPoints(column['scoreMaximum']),
    resourceId: plainLine(column['resourceId'], 255) || null,
    tag: plainLine(column['tag'], 255) || null,
    ...(review && { review }),
  }
}
