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
import { asObject, readJson, type Fields } from '../intake/json.js'
import type { Parameter } from '../oauth1/index.js'
import { contextParameters, type LinkFacts } from './launch.js'
import { customParameters } from './custom-parameters.js'

const LTI_LINK = 'application/vnd.ims.lti.v1.ltilink'

export type PickerFacts = Omit<LinkFacts, 'link'> & AskedOfPicker

/** The parameters of `ContentItemSelectionRequest` (Content-Item Message 1.0 section 3), unsigned. There is no resource link in it. */
export function pickerParameters(facts: PickerFacts): Parameter[] {
  const media = facts.onlyToolLinks ? LTI_LINK : `${LTI_LINK},text/html,image/*,*/*`
  const own: Parameter[] = [
    ['lti_message_type', 'ContentItemSelectionRequest'],
    ['lti_version', 'LTI-1p0'],
    ['accept_media_types', media],
    ['accept_presentation_document_targets', 'iframe,window'],
    ['accept_multiple', String(facts.multiple)],
    ['accept_unsigned', 'false'],
    ['accept_copy_advice', String(!facts.onlyToolLinks)],
    ['auto_create', 'false'],
    ['can_confirm', 'false'],
    ['title', facts.title],
    ['text', facts.text],
    ['data', facts.data],
    ['content_item_return_url', facts.returnUrl],
  ]
  return [
    ...own.filter(([, value]) => value !== ''),
    ...contextParameters(facts).filter(([name]) => name !== 'launch_presentation_return_url'),
    ...customParameters(facts.custom),
  ]
}

/** Reads `content_items` of a `ContentItemSelection` (Content-Item Message 1.0 section 3.2). Does NOT check who sent it. */
export function readContentItems(text: string, now: Date): ItemsRead | ItemsProblem {
  if (text.trim() === '') return { items: [], problems: [] }
  const read = readJson(text)
  if (read instanceof Problem) return new Problem('picker.items_malformed', `${read.code}: ${read.detail}`)
  return readItems(asObject(read.value)?.['@graph'], 'there is no @graph', (item) => readItem(item, now))
}

function readItem(item: Fields, now: Date): ContentItem | Problem<ItemProblem['code']> {
  const type = String([item['@type']].flat()[0] ?? '').replace(/^.*[:#]/, '')
  const mediaType = plainLine(item['mediaType'], 100) || null
  const title = plainLine(item['title'])
  const advice = asObject(item['placementAdvice']) ?? {}
  const [available, submission] = [asObject(item['available']), asObject(item['submission'])]
  const base: ContentItem = {
    kind: 'address',
    url: null,
    title,
    text: plainText(item['text']),
    html: '',
    iconUrl: readIcon(asObject(item['icon'])?.['@id'] ?? asObject(item['thumbnail'])?.['@id']),
    mediaType,
    target: targetOf(advice['presentationDocumentTarget'] ?? advice['documentTarget']),
    custom: readCustom(item['custom']),
    column: readColumn(item['lineItem'], title),
    opensAt: readMoment(available?.['startDatetime'] ?? available?.['startDateTime']),
    dueAt: readMoment(submission?.['endDatetime'] ?? submission?.['endDateTime']),
    closesAt: readMoment(available?.['endDatetime'] ?? available?.['endDateTime']),
    expiresAt: readMoment(item['expiresAt']),
  }
  if (!['LtiLinkItem', 'LtiLink', 'ContentItem', 'FileItem'].includes(type))
    return new Problem('item.unknown_type', `“${type.slice(0, 60)}”`)
  const isToolLink = type === 'LtiLinkItem' || type === 'LtiLink' || mediaType === LTI_LINK
  const url = item['url'] ?? item['@id']
  if (url === undefined || url === null || url === '') {
    // Section 3.2: a tool link without an address is launched at the tool's own.
    if (isToolLink) return { ...base, kind: 'tool_link' }
    if (type === 'ContentItem' && mediaType === 'text/html' && base.text !== '')
      return { ...base, kind: 'html', html: base.text, text: '' }
    return new Problem('item.no_url', type)
  }
  const read = readItemUrl(url, isToolLink)
  if (read instanceof Problem) return read
  if (base.expiresAt !== null && new Date(base.expiresAt) <= now) return new Problem('item.expired', base.expiresAt)
  const kind = isToolLink
    ? 'tool_link'
    : mediaType?.startsWith('image/')
      ? 'image'
      : type === 'FileItem'
        ? 'file'
        : 'address'
  return { ...base, kind, url: read }
}

function targetOf(value: unknown): 'frame' | 'window' | null {
  const first = String([value].flat()[0] ?? '').split(',')[0]
  if (first === 'iframe' || first === 'frame' || first === 'embed') return 'frame'
  return first === 'window' || first === 'popup' ? 'window' : null
}

function readColumn(value: unknown, title: string): WantedColumn | null {
  const column = asObject(value)
  if (!column) return null
  const constraints = asObject(column['scoreConstraints']) ?? {}
  const activity = asObject(column['assignedActivity'])
  return {
    label: plainLine(column['label']) || title,
    points: readPoints(constraints['normalMaximum'] ?? constraints['totalMaximum']),
    resourceId: plainLine(activity?.['activityId'] ?? activity?.['@id'], 255) || null,
    tag: null,
  }
}
